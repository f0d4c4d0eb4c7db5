// SPDX-License-Identifier: MIT
// Anything else that takes a duty.
#include "rig/drive/dimmed.hpp"

namespace zorilla::rig {

static void read_pwm(DriveReader& in, Drive& out) {
    out.part = std::make_shared<DimmedPart>(read_dimmed(in, out));
}

DriveKind pwm_room() {
    return {"pwm",
            8,
            ValueKind::duty,
            PinWay::duty,
            dimmed_keys(),
            read_pwm,
            {"led(active_{active|high})", "Led", true, "Switched<{pin}, active_{active|high}>",
             "Dimmed<{pin}, active_{active|high}>", "{value}"},
            {{"pin", "", "the input of what it drives; more than 20 mA need a MOSFET"}}};
}

} // namespace zorilla::rig
