// SPDX-License-Identifier: MIT
/// \file
/// What a role needs of a chip, and whether two can have it at once.
#pragma once

#include <stdint.h>

namespace zorilla {

/// Pins, timers and whatever else a chip has, a bit each; which bit is which, the chip says.
struct Needs {
    uint64_t alone = 0;  ///< nobody else may have it
    uint64_t shared = 0; ///< those may share it who use it the same way
    uint8_t how = 0;     ///< which way that is
};

/// Whether both can be had at once.
constexpr bool go_together(const Needs& a, const Needs& b) {
    return (a.alone & (b.alone | b.shared)) == 0 && (b.alone & a.shared) == 0 &&
           ((a.shared & b.shared) == 0 || a.how == b.how);
}

/// What two need together, where they go together.
constexpr Needs operator|(const Needs& a, const Needs& b) {
    return {a.alone | b.alone, a.shared | b.shared, a.shared != 0 ? a.how : b.how};
}

} // namespace zorilla
