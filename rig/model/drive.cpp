// SPDX-License-Identifier: MIT
#include "rig/model/drive.hpp"

namespace zorilla::rig {

AnyValue Drive::full() const {
    switch (kind()) {
    case ValueKind::on_off: break;
    case ValueKind::duty: return Duty(100_percent);
    case ValueKind::colour: return colour(100_percent, 100_percent, 100_percent);
    case ValueKind::tone: return tone(1000);
    case ValueKind::stage: return Stage(static_cast<uint8_t>(pins.size()));
    }
    return on;
}

std::string label_of(const RigClaim& claim) {
    switch (claim.by) {
    case RigClaim::By::hand: return "by hand";
    case RigClaim::By::shutdown: return "shutdown";
    case RigClaim::By::rest: return "rest";
    case RigClaim::By::rule: break;
    }
    const std::string number = "claim " + std::to_string(claim.number);
    return claim.always() ? number : number + ", \"" + claim.text + "\"";
}

} // namespace zorilla::rig
