// SPDX-License-Identifier: MIT
/// \file
/// Percent between two points that were measured: dark and bright, dry and wet, empty and full.
#pragma once

#include "zorilla/sense/analogue.hpp"
#include "zorilla/units/level.hpp"
#include "zorilla/units/one_sentence.hpp"

#include <stdint.h>

namespace zorilla {

/// The exact line through both points.
struct ShareCurve {
    uint16_t at_none;
    uint16_t at_all;
    constexpr int32_t value_at(uint16_t code) const {
        const bool rises = at_all > at_none;
        const int64_t along = rises ? int64_t{code} - at_none : int64_t{at_none} - code;
        const int64_t span = rises ? at_all - at_none : at_none - at_all;
        return span == 0 ? 0 : static_cast<int32_t>(divide_rounded(along * 100'000, span));
    }
    constexpr StraightLine line(uint16_t first) const {
        const bool rises = at_all > at_none;
        const int64_t times = rises ? 100'000 : -100'000;
        return straight_line(times, -times * at_none, rises ? at_all - at_none : at_none - at_all,
                             first);
    }
};

/// The common part of the specs of sensors of which two codes are known: that of 0 % and that of
/// 100 %, in either order.
///
/// A reading a little beyond a point counts as 0 or 100 %; one further beyond than the range says
/// (default: -10 to 110 %), or as far as the codes of a wire fault, has no value.
template <class Spec> class BetweenPoints : public AnalogueSensor<Spec, Percentage> {
    using Base = AnalogueSensor<Spec, Percentage>;

  public:
    static constexpr Percentage smallest = -50_percent, largest = 150_percent,
                                least_span = 50_percent;

    /// What the pin reads when the sensor's wire is off. Default: high, as with a weak pull-up.
    constexpr Spec wire_off_reads(Level level) const {
        Spec out = static_cast<const Spec&>(*this);
        out.open_at_top_ = level == Level::high;
        return out;
    }

    /// Whether both points are codes of the converter, and far enough apart.
    constexpr bool points_are_possible() const {
        const int32_t span = int32_t{at_all_} - at_none_;
        return at_none_ <= this->full_scale() && at_all_ <= this->full_scale() &&
               (span >= Base::least_codes || span <= -Base::least_codes);
    }
    /// Whether both points can be told from a broken and a shorted wire.
    constexpr bool wires_can_be_told() const {
        const WireEnds ends = this->wire_ends();
        return lower() >= ends.low && upper() <= ends.high;
    }
    // The range does not reach into the codes of wire faults.
    constexpr uint16_t first_code() const {
        const uint16_t wanted = Base::first_code();
        return wanted < this->wire_ends().low ? this->wire_ends().low : wanted;
    }
    constexpr uint16_t last_code() const {
        const uint16_t wanted = Base::last_code();
        return wanted > this->wire_ends().high ? this->wire_ends().high : wanted;
    }

    constexpr ShareCurve curve() const { return {at_none_, at_all_}; }
    constexpr bool rising() const { return at_all_ > at_none_; }
    constexpr bool open_at_top() const { return open_at_top_; }

  protected:
    constexpr BetweenPoints(uint16_t code_at_none, uint16_t code_at_all)
        : Base(-10_percent, 110_percent, 0.01_percent), at_none_(code_at_none),
          at_all_(code_at_all) {}

  private:
    constexpr uint16_t lower() const { return rising() ? at_none_ : at_all_; }
    constexpr uint16_t upper() const { return rising() ? at_all_ : at_none_; }

    uint16_t at_none_;
    uint16_t at_all_;
    bool open_at_top_ = true;
};

/// A sensor read between two measured points, in percent.
///
///     constexpr auto yard = percent_between(60, 910).bits(10); // its codes in the dark and at
///     noon Share<yard> light;
class ShareSpec : public BetweenPoints<ShareSpec> {
  public:
    constexpr ShareSpec(uint16_t code_at_none, uint16_t code_at_all)
        : BetweenPoints(code_at_none, code_at_all) {}
    constexpr bool part_is_possible() const { return points_are_possible(); }
};

/// Starts a `ShareSpec`: the codes that were read at 0 % and at 100 %.
constexpr ShareSpec percent_between(uint16_t code_at_none, uint16_t code_at_all) {
    return ShareSpec(code_at_none, code_at_all);
}

/// Cuts what lies a little beyond an end.
template <class Q>
[[gnu::always_inline]] constexpr Reading<Q> within(Reading<Q> reading, Q lowest, Q highest) {
    if (!reading.ok())
        return reading;
    const Q value = reading.value_or(lowest);
    return Reading<Q>::of_bounded(value < lowest ? lowest : value > highest ? highest : value);
}

/// Such a sensor in a device; see `AnalogueTable` for what it offers.
template <const auto& Spec, bool = detail::is_constant<Spec>>
class Share : public AnalogueTable<Spec> {
    static_assert(Spec.points_are_possible(),
                  "both points must be codes of the converter, at least 10 apart: "
                  "percent_between(60, 910)");

  public:
    [[gnu::always_inline]] Measured<Percentage, Spec> read(Sample sample) const {
        return within<Percentage>(AnalogueTable<Spec>::read(sample), 0_percent, 100_percent);
    }
};
template <const auto& Spec> class Share<Spec, false> : public detail::NotMade<Spec> {};

} // namespace zorilla
