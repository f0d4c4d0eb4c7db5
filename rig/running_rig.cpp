// SPDX-License-Identifier: MIT
#include "rig/running_rig.hpp"

#include <algorithm>

namespace zorilla::rig {

RunningRig::RunningRig(const Rig& rig)
    : rig_(rig), readings_(rig.senses.size()), thresholds_(rig.decides.size()),
      truths_(rig.decides.size(), Truth::unknown), relays_(rig.drives.size()),
      switchings_(rig.drives.size()) {
    size_t most_claims = 0;
    for (const Drive& drive : rig.drives)
        most_claims = std::max(most_claims, drive.claims.size());
    claims_.resize(most_claims);
}

} // namespace zorilla::rig
