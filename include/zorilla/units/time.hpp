// SPDX-License-Identifier: MIT
/// \file
/// Time on a counter of milliseconds that wraps after 49.7 days, and is right across the wrap.
#pragma once

#include "zorilla/units/quantity.hpp"

#include <stdint.h>

namespace zorilla {

/// A span of time in milliseconds, up to 24.8 days.
using Duration = Quantity<unit::Second>;

/// By how much one instant is later than another: a `Duration` wherever one is asked for.
///
/// Beside a duration it is compared by what is left until that is over, which an 8-bit chip knows
/// from two bytes; right as long as less than 24.8 days are left, or have passed since.
class Elapsed {
  public:
    constexpr explicit Elapsed(uint32_t milliseconds) : milliseconds_(milliseconds) {}

    constexpr operator Duration() const { return Duration::from_thousandths(thousandths()); }
    constexpr int32_t thousandths() const { return static_cast<int32_t>(milliseconds_); }

    constexpr bool operator<(Duration span) const { return is_negative(since_end_of(span)); }
    constexpr bool operator>=(Duration span) const { return !(*this < span); }
    constexpr bool operator<=(Duration span) const { return is_negative(since_end_of(span) - 1); }
    constexpr bool operator>(Duration span) const { return !(*this <= span); }

  private:
    constexpr uint32_t since_end_of(Duration span) const {
        return milliseconds_ - static_cast<uint32_t>(span.thousandths());
    }
    static constexpr bool is_negative(uint32_t difference) {
#if defined(__AVR__)
        if (!__builtin_is_constant_evaluated())
            return is_negative_on_chip(difference);
#endif
        return static_cast<int32_t>(difference) < 0;
    }
#if defined(__AVR__)
    /// Hidden from the compiler, which would take 32 bits again, and clang 19 makes a number of a
    /// comparison of these before it branches.
    static bool is_negative_on_chip(uint32_t difference) {
        auto upper = static_cast<int16_t>(difference >> 16);
        __asm__("" : "+r"(upper));
        return upper < 0;
    }
#endif
    uint32_t milliseconds_;
};

/// A point in time: the value of a free-running 32-bit millisecond counter.
///
/// Instants have no order, since the counter wraps; subtract two that lie less than 24.8 days
/// apart to get the duration between them, which is right across the wrap.
class Instant {
  public:
    constexpr Instant() = default;
    constexpr explicit Instant(uint32_t milliseconds) : milliseconds_(milliseconds) {}

    constexpr uint32_t milliseconds() const { return milliseconds_; }

    friend constexpr Elapsed operator-(Instant later, Instant earlier) {
        return Elapsed(later.milliseconds_ - earlier.milliseconds_);
    }
    friend constexpr Instant operator+(Instant from, Duration by) {
        return Instant(from.milliseconds_ + static_cast<uint32_t>(by.thousandths()));
    }
    friend constexpr bool operator==(Instant a, Instant b) {
        return a.milliseconds_ == b.milliseconds_;
    }
    friend constexpr bool operator!=(Instant a, Instant b) { return !(a == b); }

  private:
    uint32_t milliseconds_ = 0;
};

inline namespace literals {

/// `500_ms`: a duration.
template <char... Text> constexpr Duration operator""_ms() {
    return Duration::from_thousandths(detail::literal<1, 1, 0, false, Text...>());
}
/// `90_s`: a duration.
template <char... Text> constexpr Duration operator""_s() {
    return Duration::from_thousandths(detail::literal<1000, 1, 0, false, Text...>());
}
/// `2_min`: a duration.
template <char... Text> constexpr Duration operator""_min() {
    return Duration::from_thousandths(detail::literal<60'000, 1, 0, false, Text...>());
}
/// `6_h`: a duration.
template <char... Text> constexpr Duration operator""_h() {
    return Duration::from_thousandths(detail::literal<3'600'000, 1, 0, false, Text...>());
}

} // namespace literals
} // namespace zorilla
