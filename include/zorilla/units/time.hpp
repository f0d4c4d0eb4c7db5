// SPDX-License-Identifier: MIT
/// \file
/// Time on a counter of milliseconds that wraps after 49.7 days, and is right across the wrap.
#pragma once

#include "zorilla/units/quantity.hpp"

#include <stdint.h>

namespace zorilla {

/// A span of time in milliseconds, up to 24.8 days.
using Duration = Quantity<unit::Second>;

/// A point in time: the value of a free-running 32-bit millisecond counter.
///
/// Instants have no order, since the counter wraps; subtract two that lie less than 24.8 days
/// apart to get the `Duration` between them, which is right across the wrap.
class Instant {
  public:
    constexpr Instant() = default;
    constexpr explicit Instant(uint32_t milliseconds) : milliseconds_(milliseconds) {}

    constexpr uint32_t milliseconds() const { return milliseconds_; }

    friend constexpr Duration operator-(Instant later, Instant earlier) {
        return Duration::from_thousandths(
            static_cast<int32_t>(later.milliseconds_ - earlier.milliseconds_));
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
