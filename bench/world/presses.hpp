// SPDX-License-Identifier: MIT
/// \file
/// Presses of buttons that are over before a device has seen them.
#pragma once

#include "bench/world/around.hpp"

namespace zorilla::bench {

/// A button whose press may go by unseen.
struct ShortPress {
    std::string sensor;
    int64_t lasts = 0;     ///< ms
    int64_t seen_with = 0; ///< ms: the longest pass of 1, 2 and 5 in each decade that sees each
                           ///< press; 0 if none does
};
/// Each contact that looks at what somebody does, and may not see it with a pass every so many ms:
/// it lives a press that begins just after a pass.
std::vector<ShortPress> short_presses(const WorldWiring& wiring, int64_t every);

} // namespace zorilla::bench
