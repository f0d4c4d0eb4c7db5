// SPDX-License-Identifier: MIT
/// \file
/// Thresholds and ladders that are judged at the codes of the converter, for devices that do not
/// need the value itself: the compiler finds the codes at which a decision turns, and the chip
/// compares codes. The decisions are the same, code by code, as those of a `Threshold` or a
/// `Ladder` of what the sensor's table reads. A photoresistor is read by its power law instead:
/// there a decision may turn one code earlier or later.
#pragma once

#include "zorilla/decide/ladder.hpp"
#include "zorilla/decide/threshold.hpp"
#include "zorilla/sense/analogue.hpp"

#include <stdint.h>

namespace zorilla {

namespace detail {

/// The codes at which a point is reached: those from `code` up, or those up to it.
struct CodeEdge {
    uint16_t code = 0;
    bool upwards = true;
    /// None: no code reaches it.
    bool any = false;
    [[gnu::always_inline]] constexpr bool has(uint16_t c) const {
        return any && (upwards ? c >= code : c <= code);
    }
};

/// Where `reached(value)` begins to hold, among the codes of a sensor.
template <const auto& Sensor, class Reached> constexpr CodeEdge edge_of(Reached reached) {
    using Table = AnalogueTable<Sensor>;
    const uint16_t first = Table::plan.first_code, last = Table::plan.last_code;
    const bool at_first = reached(Table::value_at(first)), at_last = reached(Table::value_at(last));
    if (at_first == at_last)
        return {first, true, at_first}; // all or none
    uint16_t low = first, high = last;  // it turns between them
    while (high - low > 1) {
        const auto middle = static_cast<uint16_t>((uint32_t{low} + high) / 2);
        (reached(Table::value_at(middle)) == at_first ? low : high) = middle;
    }
    return at_last ? CodeEdge{high, true, true} : CodeEdge{low, false, true};
}

/// Both points of a threshold as codes.
struct CodePoints {
    CodeEdge reached;
    CodeEdge released;
};
template <const auto& Sensor, class Q> constexpr CodePoints points_of(ThresholdSpec<Q> spec) {
    return {edge_of<Sensor>([spec](Q value) { return spec.reached_by(value); }),
            edge_of<Sensor>([spec](Q value) { return spec.released_by(value); })};
}

/// Why a sample has no value, if it has none.
template <const auto& Sensor> [[gnu::always_inline]] constexpr Health health_of(Sample sample) {
    using Table = AnalogueTable<Sensor>;
    return CodeRange{Table::plan.first_code, Table::plan.last_code, Table::ends}.health_of(sample);
}
template <const auto& Sensor> [[gnu::always_inline]] constexpr bool is_healthy(Sample sample) {
    using Table = AnalogueTable<Sensor>;
    return sample.taken() && sample.code() >= Table::plan.first_code &&
           sample.code() <= Table::plan.last_code;
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
        // No code both reaches the point and lets go.
        if (points.reached.has(sample.code()))
            holds_ = true;
        else if (points.released.has(sample.code()))
            holds_ = false;
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
        stage_ = lowered<Spec.count>(raised<0>(stage_, sample.code()), sample.code());
        return Reading<Stage>::of_bounded(Stage(stage_));
    }

  private:
    // The stages are in order: where one begins, so do those below it, and where one lets go, so do
    // those above it. So one step after the other comes to what a `LadderState` counts.
    template <uint8_t I>
    [[gnu::always_inline]] static constexpr uint8_t raised(uint8_t stage, uint16_t code) {
        if constexpr (I < Spec.count) {
            constexpr detail::CodePoints points = detail::points_of<Sensor>(Spec.stage(I));
            if (stage <= I && points.reached.has(code))
                stage = I + 1;
            return raised<I + 1>(stage, code);
        } else {
            return stage;
        }
    }
    template <uint8_t I>
    [[gnu::always_inline]] static constexpr uint8_t lowered(uint8_t stage, uint16_t code) {
        if constexpr (I > 0) {
            constexpr detail::CodePoints points = detail::points_of<Sensor>(Spec.stage(I - 1));
            if (stage >= I && points.released.has(code))
                stage = I - 1;
            return lowered<I - 1>(stage, code);
        } else {
            return stage;
        }
    }

    uint8_t stage_ = 0;
};

} // namespace zorilla
