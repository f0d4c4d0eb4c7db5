// SPDX-License-Identifier: MIT
/// \file
/// How two readings differ, and how fast one changes.
#pragma once

#include "zorilla/sense/powers.hpp"
#include "zorilla/units/reading.hpp"
#include "zorilla/units/temperature.hpp"
#include "zorilla/units/time.hpp"

#include <stdint.h>

namespace zorilla {

/// How far `a` is above `b`. One that is not healthy passes its health on, `a` first.
template <class Q> constexpr Reading<decltype(Q{} - Q{})> difference(Reading<Q> a, Reading<Q> b) {
    using Out = Reading<decltype(Q{} - Q{})>;
    if (!a.ok())
        return Out::without_value(a.health());
    if (!b.ok())
        return Out::without_value(b.health());
    return Out::of(a.value_or(Q{}) - b.value_or(Q{}));
}

namespace detail {
template <class Gap> struct PerMinuteOf;
template <class Unit> struct PerMinuteOf<Quantity<Unit>> {
    using Type = Quantity<unit::PerMinute<Unit>>;
};
} // namespace detail

/// What a change of `Q` in a minute is: kelvin a minute for a `Temperature`.
template <class Q> using ChangePerMinute = typename detail::PerMinuteOf<decltype(Q{} - Q{})>::Type;

/// A change in a minute, for a threshold: `above(per_minute(2_K)).release(per_minute(1_K))`.
template <class Unit> constexpr Quantity<unit::PerMinute<Unit>> per_minute(Quantity<Unit> change) {
    return Quantity<unit::PerMinute<Unit>>::from_thousandths(change.thousandths());
}

/// How fast a reading changes, taken over a window of time: from the oldest of eight points that
/// the window keeps to the present one. Missing until the window is full; a reading that is not
/// healthy passes its health on and begins anew. Within 0.1 % of that formula. RAM: 70 bytes.
///
///     RateOfChange<Temperature> rise(5_min);
///     const auto speed = rise.pass(now, oven);
template <class Q> class RateOfChange {
  public:
    using Rate = ChangePerMinute<Q>;

    /// \param window  8 ms to 24 days
    constexpr explicit RateOfChange(Duration window) : window_(window) {}

    Reading<Rate> pass(Instant now, Reading<Q> reading) {
        if (!reading.ok()) {
            count_ = 0;
            return Reading<Rate>::without_value(reading.health());
        }
        const Q value = reading.value_or(Q{});
        const int32_t step = window_.thousandths() >> 3;
        if (count_ == 0) {
            newest_ = points - 1;
            put(now, value);
        } else if (since(newest_, now) >= step) {
            put(now, value);
        }
        // Beyond a pause the oldest points are too old.
        while (count_ > 1 && since(oldest() + 1, now) >= window_.thousandths())
            --count_;
        const int32_t time = since(oldest(), now);
        if (time < window_.thousandths() - 2 * step || time <= 0)
            return Reading<Rate>();
        const auto change = value - values_[oldest()];
        const uint32_t size = detail::size_of_number(change.thousandths());
        // A change in a minute is 60,000 times that in a millisecond.
        const detail::Leading top = detail::Leading::of(size);
        const int32_t rate =
            detail::divided(top.mantissa, top.exponent, static_cast<uint32_t>(time), 60'000);
        return Reading<Rate>::of(Rate::from_thousandths(change.thousandths() < 0 ? -rate : rate));
    }

  private:
    constexpr uint8_t oldest() const { return (newest_ + 1U - count_) & (points - 1); }
    constexpr int32_t since(uint8_t point, Instant now) const {
        return (now - times_[point & (points - 1)]).thousandths();
    }
    constexpr void put(Instant now, Q value) {
        newest_ = (newest_ + 1U) & (points - 1);
        if (count_ < points)
            ++count_;
        times_[newest_] = now;
        values_[newest_] = value;
    }

    static constexpr uint8_t points = 8;
    Duration window_;
    Instant times_[points] = {};
    Q values_[points] = {};
    uint8_t newest_ = 0;
    uint8_t count_ = 0;
};

} // namespace zorilla
