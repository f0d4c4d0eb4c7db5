// SPDX-License-Identifier: MIT
/// \file
/// Whether a rig can ever do what it must never do: every reachable combination of what its sensors
/// may say, its decisions, states, outputs and guards is looked at.
#pragma once

#include "rig/rig_file.hpp"

#include <cstdint>
#include <string>
#include <vector>

namespace zorilla::rig {

/// What was found out about one line of `never`.
struct NeverResult {
    enum class Verdict : uint8_t {
        proved,   ///< it cannot happen
        broken,   ///< it can: `steps` tell how
        too_large ///< nothing was found, but not all could be looked at
    };
    Verdict verdict = Verdict::proved;
    std::vector<std::string> steps; ///< the shortest sequence of passes, a sentence for each
};

struct NeverReport {
    std::vector<NeverResult> results; ///< one for each of `rig.nevers`
    uint64_t states = 0;              ///< that were reached
    uint64_t combinations = 0; ///< of a state, what sensors say, and which timers have run out
};

/// Explores a rig. Times are taken as any: wherever something waits, it may have waited long enough
/// or not, in every order. So what is proved holds for all times; a sequence that breaks a rule may
/// need timers to run out in an order that these very times do not allow. Sensors are taken as
/// independent of each other, and derived quantities of the sensors.
/// \param most  how many combinations to look at, at most
NeverReport explore_nevers(const Rig& rig, uint64_t most = 40'000'000);

} // namespace zorilla::rig
