// SPDX-License-Identifier: MIT
// Fans.
#include "rig/drive/motor.hpp"

namespace zorilla::rig {

DriveKind fan_room() {
    return {
        "fan",
        5,
        ValueKind::duty,
        PinWay::duty,
        motor_keys(),
        read_motor,
        {"fan()", "Fan", true, "Switched<{pin}, active_{active|high}>",
         "Dimmed<{pin}, active_{active|high}>", "{value}"},
        {{"pin", "",
          "100 ohm to the gate of an N-channel MOSFET that is fully on at {board}, and 100 kohm "
          "from there to ground; the fan from its drain to its supply, a diode across it, the "
          "ring to the supply"}}};
}

} // namespace zorilla::rig
