// SPDX-License-Identifier: MIT
/// \file
/// What all temperature sensors on an analogue pin share.
#pragma once

#include "zorilla/sense/code_table.hpp"
#include "zorilla/sense/sample.hpp"
#include "zorilla/units/program_memory.hpp"
#include "zorilla/units/reading.hpp"
#include "zorilla/units/temperature.hpp"

#include <stdint.h>

namespace zorilla {

/// The codes at both ends of a converter, which mean a broken or a shorted wire.
struct WireEnds {
    uint16_t margin;     ///< how many codes at each end
    uint16_t full_scale; ///< the largest code
    bool open_at_top;    ///< whether a broken wire reads full scale

    /// What a code outside a sensor's range means.
    [[gnu::always_inline]] constexpr Health fault_of(uint16_t code) const {
        const bool at_top = code > full_scale - margin;
        if (!at_top && code >= margin)
            return Health::out_of_range;
        return at_top == open_at_top ? Health::open_circuit : Health::short_circuit;
    }
};

/// The common part of the specs of such sensors: converter, range, accuracy, and what follows from
/// a curve over the converter's codes.
/// \tparam Spec  the sensor's own spec, derived from this. It offers `curve()`, the exact and
///     strictly monotone temperature of each code; `rising()`, whether a higher code means warmer;
///     `open_at_top()`, whether a broken wire reads full scale; and `part_is_possible()`.
template <class Spec> class AnalogueTemperature {
  public:
    /// The width of the converter, 8 to 16 bits. Default: 10.
    constexpr Spec bits(uint8_t converter_bits) const {
        Spec out = self();
        out.bits_ = converter_bits;
        return out;
    }
    /// The temperatures to be measured; outside, the reading is out of range.
    /// Default: -40 to 125 degC. A smaller range makes a smaller table.
    constexpr Spec range(Temperature lowest, Temperature highest) const {
        Spec out = self();
        out.lowest_ = lowest;
        out.highest_ = highest;
        return out;
    }
    /// How far the table may be from the exact curve.
    constexpr Spec accuracy(TemperatureDifference within) const {
        Spec out = self();
        out.accuracy_ = within;
        return out;
    }

    constexpr Temperature lowest() const { return lowest_; }
    constexpr Temperature highest() const { return highest_; }
    constexpr TemperatureDifference accuracy() const { return accuracy_; }

    // What the numbers must be like, one by one; see the messages in `AnalogueTable` below.
    constexpr bool bits_are_possible() const { return bits_ >= 8 && bits_ <= 16; }
    constexpr bool range_is_possible() const {
        return lowest_ >= -100_degC && highest_ <= 300_degC && highest_ - lowest_ >= 10_K;
    }
    constexpr bool accuracy_is_possible() const {
        return accuracy_ >= 0.001_K && accuracy_ <= 10_K;
    }
    constexpr bool is_possible() const {
        return self().part_is_possible() && bits_are_possible() && range_is_possible() &&
               accuracy_is_possible();
    }

    /// The largest code of the converter.
    constexpr uint16_t full_scale() const {
        return static_cast<uint16_t>((uint32_t{1} << bits_) - 1);
    }

    /// The lowest code at which the temperature is at least (rising) or at most (falling) `t`.
    constexpr uint16_t code_at(Temperature t) const {
        const auto exact = self().curve();
        const bool rising = self().rising();
        int32_t below = 0;
        int32_t from = full_scale();
        while (from - below > 1) {
            const int32_t middle = (below + from) / 2;
            const int32_t value = exact.value_at(static_cast<uint16_t>(middle));
            const bool reached = rising ? value >= t.thousandths() : value <= t.thousandths();
            (reached ? from : below) = middle;
        }
        return static_cast<uint16_t>(from);
    }

    /// The codes that stand for temperatures within the range.
    constexpr uint16_t first_code() const { return code_at(self().rising() ? lowest_ : highest_); }
    constexpr uint16_t last_code() const {
        const Temperature end = self().rising() ? highest_ : lowest_;
        const uint16_t code = code_at(end);
        return self().curve().value_at(code) == end.thousandths() ? code
                                                                  : static_cast<uint16_t>(code - 1);
    }

    /// Which codes are those of a broken and a shorted wire.
    constexpr WireEnds wire_ends() const {
        const auto margin = static_cast<uint16_t>((uint32_t{full_scale()} + 1) >> 7);
        return WireEnds{margin < uint16_t{2} ? uint16_t{2} : margin, full_scale(),
                        self().open_at_top()};
    }

    /// Whether cold and hot ends of the range can be told from a broken and a shorted wire.
    constexpr bool wires_can_be_told() const {
        const uint16_t margin = wire_ends().margin;
        return first_code() >= margin && last_code() <= full_scale() - margin;
    }

    /// Whether the range covers enough codes of the converter to tell temperatures apart at all.
    constexpr bool codes_can_be_told() const {
        return int32_t{last_code()} - first_code() + 1 >= least_codes;
    }
    static constexpr int32_t least_codes = 10;

    /// How many codes a temperature keeps from the nearer end of the range; negative if outside.
    constexpr int32_t counts_inside(Temperature t) const {
        const int32_t code = code_at(t);
        const int32_t from_first = code - first_code();
        const int32_t from_last = last_code() - code;
        return from_first < from_last ? from_first : from_last;
    }

    constexpr TablePlan plan() const {
        return plan_table(self().curve(), first_code(), last_code(), accuracy_.thousandths());
    }

  protected:
    /// \param within  the default accuracy of this kind of sensor
    constexpr explicit AnalogueTemperature(TemperatureDifference within) : accuracy_(within) {}

  private:
    constexpr const Spec& self() const { return static_cast<const Spec&>(*this); }

    uint8_t bits_ = 10;
    Temperature lowest_ = -40_degC;
    Temperature highest_ = 125_degC;
    TemperatureDifference accuracy_;
};

/// A sample to a temperature, or to what is wrong with the wire. The same code on desk and chip;
/// the desk gives its table at run time, the chip at compile time.
template <class EntryAt>
[[gnu::always_inline]] constexpr Reading<Temperature>
read_temperature(const WireEnds& ends, const TablePlan& plan, EntryAt entry_at, Sample sample) {
    if (!sample.taken())
        return Reading<Temperature>::without_value(Health::missing);
    if (sample.code() < plan.first_code || sample.code() > plan.last_code)
        return Reading<Temperature>::without_value(ends.fault_of(sample.code()));
    return Reading<Temperature>::of_bounded(
        Temperature::from_thousandths(look_up(plan, entry_at, sample.code())));
}

/// The common part of such sensors in a device: the table, built by the compiler and kept in
/// program memory.
template <const auto& Spec> class AnalogueTable {
    static constexpr bool usable = Spec.is_possible() && Spec.codes_can_be_told();

    static_assert(Spec.bits_are_possible(), "the converter must have 8 to 16 bits: .bits(10)");
    static_assert(Spec.range_is_possible(),
                  "the range must lie between -100 and 300 degC and span at least 10 K");
    static_assert(Spec.accuracy_is_possible(), "the accuracy must lie between 0.001 K and 10 K");
    static_assert(
        !Spec.is_possible() || Spec.codes_can_be_told(),
        "the range covers fewer than 10 codes of the converter: widen .range(), or choose "
        "a part, a resistor or a reference that uses more of it");
    static_assert(!usable || Spec.wires_can_be_told(),
                  "an end of the range cannot be told from a broken or shorted wire: narrow "
                  ".range(), or choose parts that bring it nearer to the middle of the converter");

  public:
    /// The layout of the table.
    static constexpr TablePlan plan = usable ? Spec.plan() : TablePlan{};
    static_assert(!usable || plan.close_enough,
                  "no table of one kilobyte is that close to the model: ask for less .accuracy()");

    /// The codes of broken and shorted wires.
    static constexpr WireEnds ends = Spec.wire_ends();

    /// How far a reading may be from the exact curve, over the whole range.
    static constexpr TemperatureDifference largest_error() {
        return TemperatureDifference::from_thousandths(plan.largest_error);
    }

    /// The temperature, or why there is none. Cost on the ATmega328P: printed by `./dev metal`.
    [[gnu::always_inline]] Reading<Temperature> read(Sample sample) const {
        return read_temperature(
            ends, plan, [](uint16_t i) { return detail::load_entry(&table.entries[i]); }, sample);
    }

  private:
    struct Table {
        int16_t entries[plan.entries];
    };
    static constexpr Table build() {
        Table out{};
        fill_table(Spec.curve(), plan, out.entries);
        return out;
    }
    ZORILLA_PROGRAM_MEMORY static constexpr Table table = build();
};

} // namespace zorilla
