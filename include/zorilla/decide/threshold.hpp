// SPDX-License-Identifier: MIT
/// \file
/// Thresholds with hysteresis.
#pragma once

#include "zorilla/decide/code_edge.hpp"
#include "zorilla/decide/point.hpp"
#include "zorilla/units/one_sentence.hpp"
#include "zorilla/units/reading.hpp"
#include "zorilla/units/temperature.hpp"
#include "zorilla/units/truth.hpp"

#include <stdint.h>

namespace zorilla {

/// Which side of a threshold means yes.
enum class Side : uint8_t { below, above };

/// Where a threshold says yes, and where it lets go again. Between the two it stays as it was, so
/// that a value that trembles at the edge does not make the output chatter.
///
///     constexpr auto frost = below(4_degC).release(6_degC);
///
/// `below`: yes under the threshold, no from the release point up.
/// `above`: yes over the threshold, no from the release point down.
/// \tparam Q  the quantity, such as `Temperature`
template <class Q> struct ThresholdSpec {
    Side side;
    Q threshold;
    Q release;
    static constexpr bool is_whole = true;

    /// Whether the release point lies on the side where it can let go.
    constexpr bool release_is_beyond() const {
        return side == Side::below ? release > threshold : release < threshold;
    }
    constexpr bool reached_by(Q value) const {
        return side == Side::below ? value < threshold : value > threshold;
    }
    constexpr bool released_by(Q value) const {
        return side == Side::below ? value >= release : value <= release;
    }
};

/// A threshold that still needs its release point.
template <class Q> struct ThresholdWithoutRelease {
    Side side;
    Q threshold;
    static constexpr bool is_whole = false;

    /// The point at which the threshold lets go: above a `below`, below an `above`.
    template <class Point> constexpr ThresholdSpec<Q> release(Point point) const {
        if constexpr (detail::are_of_one_kind<Q, Point>())
            return ThresholdSpec<Q>{side, threshold, point};
        else
            return ThresholdSpec<Q>{side, threshold,
                                    detail::moved(threshold, side == Side::below ? 1000 : -1000)};
    }

    /// Stops the compiler where a threshold is used without its release point.
    static constexpr bool release_is_beyond() {
        static_assert(sizeof(Q) == 0, "say where this threshold lets go again, such as "
                                      "below(4_degC).release(6_degC)");
        return true;
    }
};

/// Yes under a point of any quantity: `below(4_degC)`; say where it lets go with `.release(...)`.
template <class Point> constexpr auto below(Point point) {
    return ThresholdWithoutRelease<detail::PointOf<Point>>{Side::below, detail::as_point(point)};
}
/// Yes over it: `above(25_ppm).release(15_ppm)`.
template <class Point> constexpr auto above(Point point) {
    return ThresholdWithoutRelease<detail::PointOf<Point>>{Side::above, detail::as_point(point)};
}

/// The memory of one threshold; it belongs to a `ThresholdSpec`, which may be a constant or, on the
/// desk, come from a rig file.
class ThresholdState {
  public:
    /// Yes, no, or unknown if the reading is not healthy. Starts as no; while readings are not
    /// healthy, the side it was on is kept for when they come back.
    template <class Q>
    [[gnu::always_inline]] constexpr Truth decide(const ThresholdSpec<Q>& spec,
                                                  Reading<Q> reading) {
        if (!reading.ok())
            return Truth::unknown;
        const Q value = reading.value_or(Q{});
        holds_ = holds_ ? !spec.released_by(value) : spec.reached_by(value);
        return truth_of(holds_);
    }
    /// The same by codes. \param healthy  whether the reading is
    [[gnu::always_inline]] constexpr Truth decide(const detail::CodePoints& points, bool healthy,
                                                  uint16_t code) {
        if (!healthy)
            return Truth::unknown;
        points.follow(code, holds_);
        return truth_of(holds_);
    }

  private:
    bool holds_ = false;
};

/// How many codes of the sensor's converter lie between threshold and release point.
template <class Sensor, class Q>
constexpr int32_t hysteresis_counts(const Sensor& sensor, const ThresholdSpec<Q>& spec) {
    const int32_t gap = int32_t{sensor.code_at(spec.threshold)} - sensor.code_at(spec.release);
    return gap < 0 ? -gap : gap;
}

/// A point must keep this many codes from an end of the sensor's range.
inline constexpr int32_t least_counts_inside = 4;
/// A hysteresis of fewer codes than this cannot hold off a converter's own noise; one code is
/// enough only for a part without any.
inline constexpr int32_t least_hysteresis_counts = 2;

/// Whether sensor and converter can reach both points of a threshold and keep them apart. A
/// `Threshold` asks this itself of readings straight from a sensor; behind a filter, say it beside
/// the device: `static_assert(can_judge(probe, frost));`
template <class Sensor, class Q>
constexpr bool can_judge(const Sensor& sensor, const ThresholdSpec<Q>& spec) {
    return sensor.counts_inside(spec.threshold) >= least_counts_inside &&
           sensor.counts_inside(spec.release) >= least_counts_inside &&
           hysteresis_counts(sensor, spec) > 0;
}

/// A threshold whose points are constants of the program.
///
///     constexpr auto frost = below(4_degC).release(6_degC);
///     Threshold<frost> cold;
///     const Truth is_cold = cold.decide(roost.read(sample));
///
/// RAM: one byte.
template <const auto& Spec, bool = detail::is_constant<Spec>> class Threshold {
    static_assert(
        Spec.release_is_beyond(),
        "the release point must lie above a below(), or below an above(): that gap is the "
        "hysteresis");

  public:
    template <class Q> [[gnu::always_inline]] constexpr Truth decide(Reading<Q> reading) {
        if constexpr (Spec.is_whole && detail::are_of_one_kind<decltype(Spec.threshold), Q>())
            return state_.decide(Spec, reading);
        else
            return Truth::unknown;
    }
    template <class T> constexpr Truth decide(T) {
        detail::expect_reading<T>();
        return Truth::unknown;
    }
    /// A reading straight from a sensor, which must be able to reach both points.
    template <class Q, const auto& Sensor>
    [[gnu::always_inline]] constexpr Truth decide(Measured<Q, Sensor> reading) {
        if constexpr (is_judgeable<Q>)
            static_assert(
                can_judge(Sensor, Spec),
                "the sensor cannot reach this threshold or its release point, or cannot tell "
                "them apart: move them into its .range(), four codes from its ends, or widen it");
        return decide(Reading<Q>(reading));
    }
    /// The same by the code, which is cheaper.
    template <class Q, const auto& Sensor>
    [[gnu::always_inline]] constexpr Truth decide(MeasuredAtCode<Q, Sensor> reading) {
        if constexpr (is_judgeable<Q>)
            if constexpr (AnalogueTable<Sensor>::goes_one_way() && can_judge(Sensor, Spec)) {
                constexpr detail::CodePoints points = detail::points_of<Sensor>(Spec);
                return state_.decide(points, reading.ok(), reading.code);
            }
        return decide(Measured<Q, Sensor>(reading));
    }

  private:
    template <class Q>
    static constexpr bool is_judgeable =
        Spec.is_whole&& detail::is_same<decltype(Spec.threshold), Q>;
    ThresholdState state_;
};
template <const auto& Spec> class Threshold<Spec, false> : public detail::NotMade<Spec> {};

} // namespace zorilla
