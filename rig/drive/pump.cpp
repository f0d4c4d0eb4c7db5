// SPDX-License-Identifier: MIT
// Pumps, which may as well only be switched.
#include "rig/drive/motor.hpp"

namespace zorilla::rig {

DriveKind pump_room() {
    return {
        "pump",
        6,
        ValueKind::duty,
        PinWay::level,
        motor_keys(),
        read_motor,
        {"fan()", "Fan", true, "Switched<{pin}, active_{active|high}>",
         "Dimmed<{pin}, active_{active|high}>", "{value}"},
        {{"pin", "",
          "100 ohm to the gate of an N-channel MOSFET that is fully on at {board}, and 100 kohm "
          "from there to ground; the pump from its drain to its supply, a diode across it, the "
          "ring to the supply"}}};
}

} // namespace zorilla::rig
