// SPDX-License-Identifier: MIT
/// \file
/// Curves: a quantity to a duty, such as the speed of a fan.
#pragma once

#include "zorilla/decide/point.hpp"
#include "zorilla/units/duty.hpp"
#include "zorilla/units/one_sentence.hpp"
#include "zorilla/units/quotient.hpp"
#include "zorilla/units/reading.hpp"
#include "zorilla/units/settable.hpp"
#include "zorilla/units/temperature.hpp"

#include <stdint.h>

namespace zorilla {

/// One point of a curve.
template <class Q> struct CurvePoint {
    Q at;
    Duty duty;
};

/// Straight lines from point to point; before the first and beyond the last it stays level.
///
///     constexpr auto breeze = curve(point(30_degC, 0_percent), point(60_degC, 100_percent))
///                                 .floor(20_percent).dead_band(3_percent);
///
/// - `floor`: what is more than nothing is at least this: below it a motor would stand and hum.
/// - `dead_band`: a new duty is taken only if it is at least this far from the present one, or if
///   it is nothing or an end of the curve; so that noise does not make a fan hunt. From nothing it
///   starts only if the line asks for at least this much.
template <class Q, uint8_t N> struct CurveSpec {
    CurvePoint<Q> points[N];
    Duty floor_duty{};
    Duty band{};

    static constexpr uint8_t count = N;

    constexpr CurveSpec floor(Duty least) const {
        return detail::with(*this, &CurveSpec::floor_duty, least);
    }
    constexpr CurveSpec dead_band(Duty least) const {
        return detail::with(*this, &CurveSpec::band, least);
    }
    constexpr bool points_are_in_order() const {
        for (uint8_t i = 1; i < N; ++i)
            if (!(points[i - 1].at < points[i].at))
                return false;
        return true;
    }
};

constexpr CurvePoint<Temperature> point(Temperature at, Duty duty) { return {at, duty}; }
template <class Unit> constexpr CurvePoint<Quantity<Unit>> point(Quantity<Unit> at, Duty duty) {
    return {at, duty};
}

/// A curve through 2 to 16 points, from the lowest quantity to the highest.
template <class Q, class... Others>
constexpr CurveSpec<Q, 1 + sizeof...(Others)> curve(CurvePoint<Q> first, Others... others) {
    static_assert(sizeof...(others) >= 1 && sizeof...(others) < 16, "a curve has 2 to 16 points");
    constexpr bool are_points = detail::all_are<CurvePoint<Q>, Others...>;
    static_assert(are_points, "a curve is made of points of one quantity, each with its duty: "
                              "curve(point(30_degC, 0_percent), point(60_degC, 100_percent))");
    CurveSpec<Q, 1 + sizeof...(Others)> out{};
    if constexpr (are_points)
        out = {{first, others...}, Duty{}, Duty{}};
    else
        for (uint8_t i = 0; i <= sizeof...(others); ++i)
            out.points[i].at = detail::moved(first.at, i); // some that would do
    return out;
}

namespace detail {

/// The duty at a value between two points, rounded. In 32 bits: a span that is too wide for a
/// product by 255 is taken in coarser steps, at most a 2^-22 of it.
template <class Q>
[[gnu::always_inline]] constexpr Duty on_line(CurvePoint<Q> a, CurvePoint<Q> b, Q value) {
    auto span =
        static_cast<uint32_t>(b.at.thousandths()) - static_cast<uint32_t>(a.at.thousandths());
    auto along =
        static_cast<uint32_t>(value.thousandths()) - static_cast<uint32_t>(a.at.thousandths());
    while (span >= uint32_t{1} << 23) {
        span >>= 1;
        along >>= 1;
    }
    const uint8_t from = a.duty.of_255(), to = b.duty.of_255();
    const auto rise = static_cast<uint8_t>(to > from ? to - from : from - to);
    const uint8_t part = detail::byte_quotient(along * rise + span / 2, span);
    return Duty::from_255ths(static_cast<uint8_t>(to > from ? from + part : from - part));
}

} // namespace detail

/// The memory of one curve.
class CurveState {
  public:
    /// The duty for a reading; without a value if the reading has none, and the next one that has
    /// is taken as it comes. Cost: one quotient of eight bits.
    /// \param point_at  gives a point of the curve
    template <class Q, class PointAt>
    [[gnu::always_inline]] constexpr Reading<Duty>
    decide(uint8_t count, PointAt point_at, Duty floor, Duty band, Reading<Q> reading) {
        if (!reading.ok()) {
            settled_ = false;
            return Reading<Duty>::without_value(reading.health());
        }
        const Q value = reading.value_or(Q{});
        const CurvePoint<Q> first = point_at(0);
        Duty wanted = point_at(static_cast<uint8_t>(count - 1)).duty;
        bool at_end = true;
        if (value <= first.at) {
            wanted = first.duty;
        } else {
#pragma GCC unroll 16
            for (uint8_t i = 1; i < count; ++i)
                if (at_end && value < point_at(i).at) {
                    wanted =
                        detail::on_line(point_at(static_cast<uint8_t>(i - 1)), point_at(i), value);
                    at_end = false;
                }
        }
        take(wanted, at_end, floor, band);
        return Reading<Duty>::of_bounded(duty_);
    }

  private:
    constexpr void take(Duty wanted, bool at_end, Duty floor, Duty band) {
        const bool starts = duty_ == Duty{} && settled_;
        if (starts && wanted < band && !at_end)
            return;
        if (wanted != Duty{} && wanted < floor)
            wanted = floor;
        const uint8_t a = duty_.of_255(), b = wanted.of_255();
        const auto gap = static_cast<uint8_t>(a < b ? b - a : a - b);
        if (!settled_ || at_end || wanted == Duty{} || gap >= band.of_255())
            duty_ = wanted;
        settled_ = true;
    }

    Duty duty_{};
    bool settled_ = false;
};

/// A curve whose points are constants of the program. RAM: two bytes.
///
///     Curve<breeze> speed;
///     fan.drive(now, follow(speed.decide(case_air.read(sample))));
template <const auto& Spec, bool = detail::is_constant<Spec>> class Curve {
    static_assert(Spec.points_are_in_order(), "the points of a curve must go up in their quantity");

  public:
    template <class Q> [[gnu::always_inline]] constexpr Reading<Duty> decide(Reading<Q> reading) {
        if constexpr (detail::are_of_one_kind<decltype(Spec.points[0].at), Q>())
            return state_.decide(
                Spec.count, [](uint8_t i) { return Spec.points[i]; }, Spec.floor_duty, Spec.band,
                reading);
        else
            return {};
    }
    // A reading straight from a sensor is a plain one here.
    template <class Q, const auto& Sensor>
    [[gnu::always_inline]] constexpr Reading<Duty> decide(Measured<Q, Sensor> reading) {
        return decide(Reading<Q>(reading));
    }
    template <class Q, const auto& Sensor>
    [[gnu::always_inline]] constexpr Reading<Duty> decide(MeasuredAtCode<Q, Sensor> reading) {
        return decide(Reading<Q>(reading));
    }
    template <class T> constexpr Reading<Duty> decide(T) {
        detail::expect_reading<T>();
        return {};
    }

  private:
    CurveState state_;
};
template <const auto& Spec> class Curve<Spec, false> : public detail::NotMade<Spec> {};

} // namespace zorilla
