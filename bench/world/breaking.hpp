// SPDX-License-Identifier: MIT
/// \file
/// Every fault of every part, at many moments of a day: what becomes of the device.
#pragma once

#include "bench/world/trying.hpp"

namespace zorilla::bench {

struct BreakingPlan {
    AroundPlan around;
    int64_t before = 86'400'000; ///< ms that it has lived when the day begins
    size_t moments = 8;          ///< of a day
    int64_t lasts = 3'600'000;   ///< ms; see `settling_time`
    int64_t after = 7'200'000;   ///< ms that it is watched after the part has healed
    unsigned threads = 0;
};

/// One fault of one part.
struct Breaking {
    WorldFault fault; ///< without its time
    std::string part, how;
    size_t moments = 0;
    bool to_be_told = false; ///< whether a promise asks for it
    size_t kept = 0;         ///< so often every never and every other promise was kept
    size_t told = 0;         ///< so often it was told while it lasted
    std::optional<int64_t> longest_told{}; ///< ms until then, at most
    size_t recovered = 0;                  ///< so often all was well at the end
    std::vector<std::string> broke{};      ///< what did not hold, each once
    std::optional<int64_t> worst{}; ///< when it began in the worst case, as the clock says, in ms
};

struct Broken {
    std::vector<Breaking> all;
    bool tells = false;                      ///< whether a promise says how faults are told
    std::vector<std::string> broken_without; ///< what does not hold even where nothing breaks
    std::vector<std::string> open; ///< what was watched for too short a time to be judged as kept
};
/// How long a fault must last until all that comes of it has come, in ms: three time constants of
/// the slowest body, and the longest time that a promise allows; an hour at least, a day at most.
int64_t settling_time(const WorldWiring& wiring);
Broken break_everything(const WorldWiring& wiring, const BreakingPlan& plan);
/// The trace of the worst case of one of them.
Tried trace_of_breaking(const WorldWiring& wiring, const BreakingPlan& plan,
                        const Breaking& breaking, const std::string& path);

/// A matrix: parts by what is wrong with them. \throws rig::InputError
void draw_breaking(const std::string& path, const std::string& title, const Broken& broken);

} // namespace zorilla::bench
