// SPDX-License-Identifier: MIT
/// \file
/// Thresholds and ladders that are judged at the codes of the converter, for devices that do not
/// need the value itself: the compiler finds the codes at which a decision turns, and the chip
/// compares codes. The decisions are the same, code by code, as those of a `Threshold` or a
/// `Ladder` of what the sensor's table reads. A photoresistor is read by its power law instead:
/// there a decision may turn one code earlier or later.
#pragma once

#include "zorilla/decide/code_edge.hpp"
#include "zorilla/decide/ladder.hpp"
#include "zorilla/decide/threshold.hpp"
#include "zorilla/sense/analogue.hpp"

#include <stdint.h>

namespace zorilla {

namespace detail {

/// Why a sample has no value, if it has none.
template <const auto& Sensor> [[gnu::always_inline]] constexpr Health health_of(Sample sample) {
    return AnalogueTable<Sensor>::range.health_of(sample);
}
template <const auto& Sensor> [[gnu::always_inline]] constexpr bool is_healthy(Sample sample) {
    return AnalogueTable<Sensor>::range.has(sample);
}

} // namespace detail

/// A threshold on a sensor whose value nobody else needs. RAM: one byte; no table.
///
///     CodeThreshold<probe, frost> cold;
///     lamp.drive(now, on_when(cold.decide(Wires::read<Probe>())));
///
/// Cost on the ATmega328P: about 20 cycles. Filters and trims need the value: then use `Threshold`.
template <const auto& Sensor, const auto& Spec> class CodeThreshold {
    static_assert(can_judge(Sensor, Spec), "this sensor cannot reach both points of the threshold, "
                                           "or cannot tell them apart");
    static_assert(AnalogueTable<Sensor>::goes_one_way(),
                  "this sensor's readings do not go one way with its codes: use Threshold");

  public:
    [[gnu::always_inline]] constexpr Truth decide(Sample sample) {
        if (!detail::is_healthy<Sensor>(sample))
            return Truth::unknown;
        constexpr detail::CodePoints points = detail::points_of<Sensor>(Spec);
        points.follow(sample.code(), holds_);
        return truth_of(holds_);
    }

  private:
    bool holds_ = false;
};

/// A ladder on such a sensor. RAM: one byte; no table.
///
///     CodeLadder<probe, fans> stage;
///     second_fan.drive(now, on_when(at_least(stage.decide(sample), 2)));
template <const auto& Sensor, const auto& Spec> class CodeLadder {
    static_assert(Spec.releases_are_beyond() && Spec.stages_are_in_order(),
                  "the stages of a ladder must be in order, each with its release point beyond it");
    static_assert(AnalogueTable<Sensor>::goes_one_way(),
                  "this sensor's readings do not go one way with its codes: use Ladder");

  public:
    [[gnu::always_inline]] constexpr Reading<Stage> decide(Sample sample) {
        if (!detail::is_healthy<Sensor>(sample))
            return Reading<Stage>::without_value(detail::health_of<Sensor>(sample));
        return state_.decide_by_code<Sensor, Spec>(sample.code());
    }

  private:
    LadderState state_;
};

} // namespace zorilla
