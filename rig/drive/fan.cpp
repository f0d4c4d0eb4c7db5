// SPDX-License-Identifier: MIT
// Fans.
#include "rig/drive/motor.hpp"

namespace zorilla::rig {

DriveKind fan_room() {
    return {"fan",
            5,
            ValueKind::duty,
            PinWay::duty,
            false,
            motor_keys(),
            read_motor,
            {"fan()", "Fan", true, "Switched<{pin}, active_{active|high}>",
             "Dimmed<{pin}, active_{active|high}>", "{value}"}};
}

} // namespace zorilla::rig
