// SPDX-License-Identifier: MIT
// Pumps, which may as well only be switched.
#include "rig/drive/motor.hpp"

namespace zorilla::rig {

DriveKind pump_room() {
    return {"pump",
            6,
            ValueKind::duty,
            PinWay::level,
            false,
            motor_keys(),
            read_motor,
            {"fan()", "Fan", true, "Switched<{pin}, active_{active|high}>",
             "Dimmed<{pin}, active_{active|high}>", "{value}"}};
}

} // namespace zorilla::rig
