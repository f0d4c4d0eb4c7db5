// SPDX-License-Identifier: MIT
/// \file
/// Windows: inside or outside of a range, with hysteresis at both ends.
#pragma once

#include "zorilla/decide/threshold.hpp"
#include "zorilla/units/one_sentence.hpp"
#include "zorilla/units/quantity.hpp"
#include "zorilla/units/reading.hpp"
#include "zorilla/units/temperature.hpp"
#include "zorilla/units/truth.hpp"

#include <stdint.h>

namespace zorilla {

/// A range, and the two points at which it lets go again.
///
///     constexpr auto comfort = inside(18_degC, 24_degC).release(17_degC, 25_degC);
///     constexpr auto odd = outside(18_degC, 24_degC).release(19_degC, 23_degC);
///
/// `inside`: yes from `low` to `high`, both included; no from the release points on, which lie
/// further out. `outside`: yes below `low` and above `high`; no between the release points, both
/// included, which lie further in.
template <class Q> struct WindowSpec {
    bool is_inside;
    Q low;
    Q high;
    Q low_release;
    Q high_release;
    static constexpr bool is_whole = true;

    constexpr bool is_a_range() const { return low < high; }
    /// Whether both release points lie where the window can let go.
    constexpr bool release_is_beyond() const {
        return is_inside ? low_release < low && high_release > high
                         : low_release > low && high_release < high && low_release <= high_release;
    }
    constexpr bool reached_by(Q value) const {
        return is_inside ? value >= low && value <= high : value < low || value > high;
    }
    constexpr bool released_by(Q value) const {
        return is_inside ? value <= low_release || value >= high_release
                         : value >= low_release && value <= high_release;
    }
};

/// A window that still needs its release points.
template <class Q> struct WindowWithoutRelease {
    bool is_inside;
    Q low;
    Q high;
    static constexpr bool is_whole = false;

    /// The points at which it lets go: outwards of an `inside`, inwards of an `outside`.
    template <class Low, class High>
    constexpr WindowSpec<Q> release(Low at_low, High at_high) const {
        if constexpr (detail::are_of_one_kind<Q, Low, High>())
            return WindowSpec<Q>{is_inside, low, high, at_low, at_high};
        else
            return WindowSpec<Q>{true, low, high, detail::moved(low, -1), detail::moved(high, 1)};
    }
    static constexpr bool is_a_range() { return true; }
    /// Stops the compiler where a window is used without its release points.
    static constexpr bool release_is_beyond() {
        static_assert(sizeof(Q) == 0, "say where this window lets go again, such as "
                                      "inside(18_degC, 24_degC).release(17_degC, 25_degC)");
        return true;
    }
};

namespace detail {
template <class Low, class High> constexpr auto window(bool is_inside, Low low, High high) {
    using Q = PointOf<Low>;
    if constexpr (are_of_one_kind<Q, High>())
        return WindowWithoutRelease<Q>{is_inside, as_point(low), high};
    else
        return WindowWithoutRelease<Q>{is_inside, as_point(low), moved(as_point(low), 1000)};
}
} // namespace detail

/// Yes from `low` to `high`; say where it lets go with `.release(...)`.
template <class Low, class High> constexpr auto inside(Low low, High high) {
    return detail::window(true, low, high);
}
/// Yes below `low` and above `high`; say where it lets go with `.release(...)`.
template <class Low, class High> constexpr auto outside(Low low, High high) {
    return detail::window(false, low, high);
}

namespace detail {

/// The four points of a window as codes. No code is both reached and released.
struct WindowEdges {
    bool is_inside;
    CodeEdge from_low, to_high;                 ///< where the value is inside
    CodeEdge from_low_release, to_high_release; ///< where it lies between the release points
    [[gnu::always_inline]] constexpr bool reached(uint16_t code) const {
        return (from_low.has(code) && to_high.has(code)) == is_inside;
    }
    [[gnu::always_inline]] constexpr bool released(uint16_t code) const {
        return (from_low_release.has(code) && to_high_release.has(code)) != is_inside;
    }
};
template <const auto& Sensor, class Q> constexpr WindowEdges edges_of(WindowSpec<Q> w) {
    // The release points of an `inside` let go themselves; those of an `outside` do too.
    return {w.is_inside, edge_of<Sensor>([w](Q value) { return value >= w.low; }),
            edge_of<Sensor>([w](Q value) { return value <= w.high; }),
            edge_of<Sensor>([w](Q value) {
                return w.is_inside ? value > w.low_release : value >= w.low_release;
            }),
            edge_of<Sensor>([w](Q value) {
                return w.is_inside ? value < w.high_release : value <= w.high_release;
            })};
}

} // namespace detail

/// The memory of one window; it belongs to a `WindowSpec`.
class WindowState {
  public:
    /// Yes, no, or unknown if the reading is not healthy; starts as no. See `ThresholdState`.
    template <class Q>
    [[gnu::always_inline]] constexpr Truth decide(const WindowSpec<Q>& spec, Reading<Q> reading) {
        if (!reading.ok())
            return Truth::unknown;
        const Q value = reading.value_or(Q{});
        holds_ = holds_ ? !spec.released_by(value) : spec.reached_by(value);
        return truth_of(holds_);
    }

    /// The same by codes. \param healthy  whether the reading is
    [[gnu::always_inline]] constexpr Truth decide(const detail::WindowEdges& edges, bool healthy,
                                                  uint16_t code) {
        if (!healthy)
            return Truth::unknown;
        if (edges.reached(code))
            holds_ = true;
        else if (edges.released(code))
            holds_ = false;
        return truth_of(holds_);
    }

  private:
    bool holds_ = false;
};

/// A window whose points are constants of the program. RAM: one byte.
///
///     Window<comfort> is_fine;
///     const Truth fine = is_fine.decide(room.read(sample));
template <const auto& Spec, bool = detail::is_constant<Spec>> class Window {
    static_assert(Spec.is_a_range(), "the lower end of a window must lie below the upper one");
    static_assert(Spec.release_is_beyond(),
                  "the release points must lie further out than an inside(), or further in than an "
                  "outside(): those gaps are the hysteresis");

  public:
    template <class Q> [[gnu::always_inline]] constexpr Truth decide(Reading<Q> reading) {
        if constexpr (Spec.is_whole && detail::are_of_one_kind<decltype(Spec.low), Q>())
            return state_.decide(Spec, reading);
        else
            return Truth::unknown;
    }
    template <class T> constexpr Truth decide(T) {
        detail::expect_reading<T>();
        return Truth::unknown;
    }
    /// A reading straight from a sensor, which must be able to reach all four points.
    template <class Q, const auto& Sensor>
    [[gnu::always_inline]] constexpr Truth decide(Measured<Q, Sensor> reading) {
        if constexpr (is_judgeable<Q>)
            static_assert(is_judged_by<Q>(Sensor),
                          "the sensor cannot reach a point of this window, or cannot tell it from "
                          "its release point: move them into its .range(), four codes from its "
                          "ends");
        return decide(Reading<Q>(reading));
    }
    /// The same by the code, which is cheaper.
    template <class Q, const auto& Sensor>
    [[gnu::always_inline]] constexpr Truth decide(MeasuredAtCode<Q, Sensor> reading) {
        if constexpr (is_judgeable<Q>)
            if constexpr (AnalogueTable<Sensor>::goes_one_way() && is_judged_by<Q>(Sensor)) {
                constexpr detail::WindowEdges edges = detail::edges_of<Sensor>(Spec);
                return state_.decide(edges, reading.ok(), reading.code);
            }
        return decide(Measured<Q, Sensor>(reading));
    }

  private:
    template <class Q>
    static constexpr bool is_judgeable = Spec.is_whole&& detail::is_same<decltype(Spec.low), Q>;
    template <class Q, class Sensor> static constexpr bool is_judged_by(const Sensor& sensor) {
        return can_judge(sensor, ThresholdSpec<Q>{Side::below, Spec.low, Spec.low_release}) &&
               can_judge(sensor, ThresholdSpec<Q>{Side::above, Spec.high, Spec.high_release});
    }
    WindowState state_;
};
template <const auto& Spec> class Window<Spec, false> : public detail::NotMade<Spec> {};

} // namespace zorilla
