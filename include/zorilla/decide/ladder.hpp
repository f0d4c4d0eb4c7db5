// SPDX-License-Identifier: MIT
/// \file
/// Ladders: a quantity to one of several stages, each with its hysteresis.
#pragma once

#include "zorilla/decide/threshold.hpp"
#include "zorilla/units/duty.hpp"
#include "zorilla/units/one_sentence.hpp"
#include "zorilla/units/reading.hpp"

#include <stdint.h>

namespace zorilla {

/// The stages of a ladder from the first to the last: where each begins, and where it lets go.
/// Stage 0 is none of them.
///
///     // A second fan at a higher point, both let go at one lower point.
///     constexpr auto fans = rising(30_degC, 35_degC).release(27_degC);
///     // A bar of four LEDs, each with its own.
///     constexpr auto bar = rising(100_mm, 200_mm, 300_mm, 400_mm)
///                              .release(90_mm, 190_mm, 290_mm, 390_mm);
///     constexpr auto frost = falling(4_degC, 0_degC).release(6_degC);
template <class Q, uint8_t N> struct LadderSpec {
    Side side; ///< above: stages rise with the quantity
    Q begins[N];
    Q releases[N];

    static constexpr uint8_t count = N;

    static constexpr bool is_whole = true;
    constexpr ThresholdSpec<Q> stage(uint8_t i) const {
        return ThresholdSpec<Q>{side, begins[i], releases[i]};
    }
    /// Whether each stage begins beyond the one before, and does not let go before it.
    constexpr bool stages_are_in_order() const {
        for (uint8_t i = 1; i < N; ++i) {
            const bool rise = side == Side::above;
            if (rise ? !(begins[i - 1] < begins[i]) : !(begins[i] < begins[i - 1]))
                return false;
            if (rise ? releases[i] < releases[i - 1] : releases[i - 1] < releases[i])
                return false;
        }
        return true;
    }
    constexpr bool releases_are_beyond() const {
        for (uint8_t i = 0; i < N; ++i)
            if (!stage(i).release_is_beyond())
                return false;
        return true;
    }
};

/// A ladder that still needs its release points.
template <class Q, uint8_t N> struct LadderWithoutRelease {
    Side side;
    Q begins[N];

    /// One point at which all stages let go, or one for each.
    template <class... Points> constexpr LadderSpec<Q, N> release(Points... points) const {
        constexpr bool are_enough = sizeof...(points) == 1 || sizeof...(points) == N;
        static_assert(are_enough, "give one release point for all stages, or one for each");
        LadderSpec<Q, N> out{side, {}, {}};
        if constexpr (are_enough && detail::are_of_one_kind<Q, Points...>()) {
            const Q given[] = {points...};
            for (uint8_t i = 0; i < N; ++i) {
                out.begins[i] = begins[i];
                out.releases[i] = given[sizeof...(points) == 1 ? 0 : i];
            }
        } else {
            // Some that would do.
            for (uint8_t i = 0; i < N; ++i) {
                const int32_t step = side == Side::above ? 1000 : -1000;
                out.begins[i] = detail::moved(begins[0], i * step);
                out.releases[i] = detail::moved(begins[0], -step);
            }
        }
        return out;
    }
    static constexpr bool is_whole = false;
    constexpr ThresholdSpec<Q> stage(uint8_t i) const { return {side, begins[i], begins[i]}; }
    static constexpr uint8_t count = N;
    /// Stops the compiler where a ladder is used without its release points.
    static constexpr bool releases_are_beyond() {
        static_assert(sizeof(Q) == 0, "say where these stages let go again, such as "
                                      "rising(30_degC, 35_degC).release(27_degC)");
        return true;
    }
    static constexpr bool stages_are_in_order() { return true; }
};

namespace detail {
template <class Q, class... Others>
constexpr LadderWithoutRelease<Q, 1 + sizeof...(Others)> ladder(Side side, Q first,
                                                                Others... others) {
    static_assert(sizeof...(others) < 16, "a ladder has 1 to 16 stages");
    if constexpr (are_of_one_kind<Q, Others...>())
        return {side, {first, others...}};
    LadderWithoutRelease<Q, 1 + sizeof...(Others)> out{side, {}};
    for (uint8_t i = 0; i <= sizeof...(others); ++i)
        out.begins[i] = moved(first, side == Side::above ? i * 1000 : -i * 1000);
    return out; // some that would do
}
} // namespace detail

/// Stages that begin above these points, one after the other.
template <class First, class... Others> constexpr auto rising(First first, Others... others) {
    return detail::ladder(Side::above, detail::as_point(first), others...);
}
/// Stages that begin below these points, one after the other.
template <class First, class... Others> constexpr auto falling(First first, Others... others) {
    return detail::ladder(Side::below, detail::as_point(first), others...);
}

/// The memory of one ladder.
class LadderState {
  public:
    /// The stage for a reading; without a value if the reading has none, and the stage it was on is
    /// kept for when it comes back.
    ///
    /// Of stages in order, those that begin are a part of those that hold: so the stage is raised
    /// to the number that begin, and lowered to the number that have not let go.
    /// \param count     how many stages
    /// \param stage_at  gives the threshold of a stage
    template <class Q, class StageAt>
    [[gnu::always_inline]] constexpr Reading<Stage> decide(uint8_t count, StageAt stage_at,
                                                           Reading<Q> reading) {
        if (!reading.ok())
            return Reading<Stage>::without_value(reading.health());
        const Q value = reading.value_or(Q{});
        uint8_t begun = 0;
        uint8_t held = 0;
#pragma GCC unroll 16
        for (uint8_t i = 0; i < count; ++i) {
            const ThresholdSpec<Q> stage = stage_at(i);
            if (stage.reached_by(value))
                ++begun;
            if (!stage.released_by(value))
                ++held;
        }
        if (stage_ < begun)
            stage_ = begun;
        if (stage_ > held)
            stage_ = held;
        return Reading<Stage>::of_bounded(Stage(stage_));
    }
    /// The same by the code of a healthy reading of a sensor that is read by a table.
    template <const auto& Sensor, const auto& Spec>
    [[gnu::always_inline]] constexpr Reading<Stage> decide_by_code(uint16_t code) {
        // Of many stages only the points of the present one are looked at in most passes.
        if constexpr (Spec.count > 2) {
            if (moves<Sensor, Spec, 0>(stage_, code))
                stage_ = moved<Sensor, Spec>(stage_, code);
        } else {
            stage_ = lowered<Sensor, Spec, Spec.count>(raised<Sensor, Spec, 0>(stage_, code), code);
        }
        return Reading<Stage>::of_bounded(Stage(stage_));
    }

  private:
    /// Whether a point of the present stage is reached.
    template <const auto& Sensor, const auto& Spec, uint8_t I>
    [[gnu::always_inline]] static constexpr bool moves(uint8_t stage, uint16_t code) {
        if constexpr (I < Spec.count)
            if (stage == I)
                return begins<Sensor, Spec, I>(code) || ends<Sensor, Spec, I>(code);
        if constexpr (I < Spec.count)
            return moves<Sensor, Spec, I + 1>(stage, code);
        else
            return ends<Sensor, Spec, I>(code);
    }
    /// Whether the stage above this one begins, and whether this one lets go.
    template <const auto& Sensor, const auto& Spec, uint8_t I>
    [[gnu::always_inline]] static constexpr bool begins(uint16_t code) {
        constexpr detail::CodePoints points = detail::points_of<Sensor>(Spec.stage(I));
        return points.reached.has(code);
    }
    template <const auto& Sensor, const auto& Spec, uint8_t I>
    [[gnu::always_inline]] static constexpr bool ends(uint16_t code) {
        if constexpr (I == 0) {
            return false;
        } else {
            constexpr detail::CodePoints points = detail::points_of<Sensor>(Spec.stage(I - 1));
            return points.released.has(code);
        }
    }
    template <const auto& Sensor, const auto& Spec>
    ZORILLA_SHARED static constexpr uint8_t moved(uint8_t stage, uint16_t code) {
        return lowered<Sensor, Spec, Spec.count>(raised<Sensor, Spec, 0>(stage, code), code);
    }
    // The stages are in order: where one begins, so do those below it, and where one lets go, so do
    // those above it. So one step after the other comes to what `decide` counts.
    template <const auto& Sensor, const auto& Spec, uint8_t I>
    [[gnu::always_inline]] static constexpr uint8_t raised(uint8_t stage, uint16_t code) {
        if constexpr (I < Spec.count) {
            if (stage <= I && begins<Sensor, Spec, I>(code))
                stage = I + 1;
            return raised<Sensor, Spec, I + 1>(stage, code);
        } else {
            return stage;
        }
    }
    template <const auto& Sensor, const auto& Spec, uint8_t I>
    [[gnu::always_inline]] static constexpr uint8_t lowered(uint8_t stage, uint16_t code) {
        if constexpr (I > 0) {
            if (stage >= I && ends<Sensor, Spec, I>(code))
                stage = I - 1;
            return lowered<Sensor, Spec, I - 1>(stage, code);
        } else {
            return stage;
        }
    }

    uint8_t stage_ = 0;
};

/// A ladder whose points are constants of the program. RAM: one byte.
///
///     Ladder<fans> step;
///     const auto stage = step.decide(case_air.read(sample));
///     second_fan.drive(now, on_when(at_least(stage, 2)));
template <const auto& Spec, bool = detail::is_constant<Spec>> class Ladder {
    static_assert(Spec.releases_are_beyond(),
                  "each stage must let go below where it begins (of falling stages: above): that "
                  "gap is the hysteresis");
    static_assert(Spec.stages_are_in_order(),
                  "the stages must begin one after the other, and none may let go before the one "
                  "below it");

  public:
    template <class Q> [[gnu::always_inline]] constexpr Reading<Stage> decide(Reading<Q> reading) {
        if constexpr (Spec.is_whole && detail::are_of_one_kind<Point, Q>())
            return state_.decide(
                Spec.count, [](uint8_t i) { return Spec.stage(i); }, reading);
        else
            return {};
    }
    template <class T> constexpr Reading<Stage> decide(T) {
        detail::expect_reading<T>();
        return {};
    }
    /// A reading straight from a sensor, which must be able to reach every stage.
    template <class Q, const auto& Sensor>
    [[gnu::always_inline]] constexpr Reading<Stage> decide(Measured<Q, Sensor> reading) {
        if constexpr (is_judgeable<Q>)
            static_assert(every_stage_is_judged_by<Sensor>(),
                          "the sensor cannot reach a stage of this ladder, or cannot tell it from "
                          "its release point: move it into its .range(), four codes from its ends");
        return decide(Reading<Q>(reading));
    }
    /// The same by the code, which is cheaper.
    template <class Q, const auto& Sensor>
    [[gnu::always_inline]] constexpr Reading<Stage> decide(MeasuredAtCode<Q, Sensor> reading) {
        if constexpr (is_judgeable<Q>)
            if constexpr (AnalogueTable<Sensor>::goes_one_way() &&
                          every_stage_is_judged_by<Sensor>())
                return reading.ok() ? state_.template decide_by_code<Sensor, Spec>(reading.code)
                                    : Reading<Stage>::without_value(reading.health());
        return decide(Measured<Q, Sensor>(reading));
    }

  private:
    using Point = decltype(Spec.stage(0).threshold);
    template <class Q>
    static constexpr bool is_judgeable = Spec.is_whole&& detail::is_same<Point, Q>;
    template <const auto& Sensor> static constexpr bool every_stage_is_judged_by() {
        for (uint8_t i = 0; i < Spec.count; ++i)
            if (!can_judge(Sensor, Spec.stage(i)))
                return false;
        return true;
    }
    LadderState state_;
};
template <const auto& Spec> class Ladder<Spec, false> : public detail::NotMade<Spec> {};

/// Whether a stage is this one or a higher one; unknown if it has no value.
constexpr Truth at_least(Reading<Stage> stage, uint8_t number) {
    return stage.ok() ? truth_of(stage.value_or(Stage()).number() >= number) : Truth::unknown;
}

} // namespace zorilla
