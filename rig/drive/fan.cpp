// SPDX-License-Identifier: MIT
// Fans.
#include "rig/drive/motor.hpp"

namespace zorilla::rig {

DriveKind fan_room() {
    return {"fan", 5, ValueKind::duty, PinWay::duty, false, motor_keys(), read_motor};
}

} // namespace zorilla::rig
