// SPDX-License-Identifier: MIT
/// \file
/// What a role needs of a chip, and whether two can have it at once.
#pragma once

#include <stdint.h>

namespace zorilla {

/// Pins, timers and whatever else a chip has, a bit each of 128; which bit is which, the chip says.
struct Bits {
    uint64_t low = 0, high = 0;
    static constexpr Bits one(int number) {
        return number < 64 ? Bits{uint64_t{1} << number, 0} : Bits{0, uint64_t{1} << (number - 64)};
    }
    constexpr explicit operator bool() const { return (low | high) != 0; }
};
constexpr Bits operator|(Bits a, Bits b) { return {a.low | b.low, a.high | b.high}; }
constexpr Bits operator&(Bits a, Bits b) { return {a.low & b.low, a.high & b.high}; }

struct Needs {
    Bits alone{};    ///< nobody else may have it
    Bits shared{};   ///< those may share it who use it the same way
    uint8_t how = 0; ///< which way that is
};

/// Whether both can be had at once.
constexpr bool go_together(const Needs& a, const Needs& b) {
    return !(a.alone & (b.alone | b.shared)) && !(b.alone & a.shared) &&
           (!(a.shared & b.shared) || a.how == b.how);
}

/// What two need together, where they go together.
constexpr Needs operator|(const Needs& a, const Needs& b) {
    return {a.alone | b.alone, a.shared | b.shared, a.shared ? a.how : b.how};
}

} // namespace zorilla
