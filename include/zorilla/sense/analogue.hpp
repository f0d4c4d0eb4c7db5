// SPDX-License-Identifier: MIT
/// \file
/// What all sensors on an analogue pin share.
#pragma once

#include "zorilla/sense/code_table.hpp"
#include "zorilla/sense/sample.hpp"
#include "zorilla/sense/straight_line.hpp"
#include "zorilla/units/program_memory.hpp"
#include "zorilla/units/reading.hpp"
#include "zorilla/units/temperature.hpp"

#include <stdint.h>

namespace zorilla {

/// The codes at both ends of a converter, which mean a broken or a shorted wire.
struct WireEnds {
    uint16_t low;     ///< every code below this is that of a wire fault
    uint16_t high;    ///< and every code above this
    bool open_at_top; ///< whether a broken wire reads full scale

    /// What a code outside a sensor's range means.
    [[gnu::always_inline]] constexpr Health fault_of(uint16_t code) const {
        const bool at_top = code > high;
        if (!at_top && code >= low)
            return Health::out_of_range;
        return at_top == open_at_top ? Health::open_circuit : Health::short_circuit;
    }
};

/// Which codes of a converter stand for healthy values, and which for wire faults.
struct CodeRange {
    uint16_t first;
    uint16_t last;
    WireEnds ends;

    /// Why `sample` has no value; `Health::ok` if it has one.
    [[gnu::always_inline]] constexpr Health health_of(Sample sample) const {
        if (!sample.taken())
            return Health::missing;
        return has(sample) ? Health::ok : ends.fault_of(sample.code());
    }
    /// Whether it has one.
    [[gnu::always_inline]] constexpr bool has(Sample sample) const {
        return sample.taken() &&
               static_cast<uint16_t>(sample.code() - first) <= static_cast<uint16_t>(last - first);
    }
};

/// The common part of the specs of such sensors: converter, range, accuracy, and what follows from
/// a curve over the converter's codes.
/// \tparam Spec  the sensor's own spec, derived from this. It offers `curve()`, the exact and
///     strictly monotone value of each code; `rising()`, whether a higher code means more;
///     `open_at_top()`, whether a broken wire reads full scale; `part_is_possible()`; and
///     `smallest`, `largest` and `least_span`, what a range may be at all.
/// \tparam Q  what the sensor measures, such as `Temperature`
template <class Spec, class Q> class AnalogueSensor {
  public:
    using Value = Q;
    using Gap = decltype(Q{} - Q{});
    /// Whether it is read by a table that may be more or less close; a spec may say otherwise.
    static constexpr bool has_accuracy = true;

    /// The width of the converter, 8 to 16 bits. Default: 10.
    constexpr Spec bits(uint8_t converter_bits) const {
        Spec out = self();
        out.bits_ = converter_bits;
        return out;
    }
    /// The values to be measured; outside, the reading is out of range. A smaller range makes a
    /// smaller table.
    constexpr Spec range(Q lowest, Q highest) const {
        Spec out = self();
        out.lowest_ = lowest;
        out.highest_ = highest;
        return out;
    }
    /// How far the table may be from the exact curve.
    constexpr Spec accuracy(Gap within) const {
        Spec out = self();
        out.accuracy_ = within;
        return out;
    }

    /// Says that the ends of the converter stand for values too, as with a photoresistor in the
    /// dark: a broken or shorted wire then reads as a value, and cannot be told.
    constexpr Spec without_wire_check() const {
        Spec out = self();
        out.wire_check_ = false;
        return out;
    }

    constexpr uint8_t bits() const { return bits_; }
    constexpr Q lowest() const { return lowest_; }
    constexpr Q highest() const { return highest_; }
    constexpr Gap accuracy() const { return accuracy_; }

    // What the numbers must be like, one by one; see the messages in `AnalogueTable` below.
    constexpr bool bits_are_possible() const { return bits_ >= 8 && bits_ <= 16; }
    constexpr bool range_is_possible() const {
        return lowest_ >= Spec::smallest && highest_ <= Spec::largest &&
               highest_ - lowest_ >= Spec::least_span;
    }
    constexpr bool accuracy_is_possible() const {
        return accuracy_ >= Gap::from_thousandths(1) &&
               accuracy_ <= Gap::from_thousandths((Spec::largest - Spec::smallest).thousandths());
    }
    constexpr bool is_possible() const {
        return self().part_is_possible() && bits_are_possible() && range_is_possible() &&
               accuracy_is_possible();
    }

    /// The largest code of the converter.
    constexpr uint16_t full_scale() const {
        return static_cast<uint16_t>((uint32_t{1} << bits_) - 1);
    }
    /// The largest code that the sensor can drive it to; less where the reference is higher than
    /// the sensor's supply.
    constexpr uint16_t top_code() const { return full_scale(); }

    /// The lowest code at which the value is at least (rising) or at most (falling) `value`.
    constexpr uint16_t code_at(Q value) const {
        const auto exact = self().curve();
        const bool rising = self().rising();
        int32_t below = -1;
        int32_t from = full_scale();
        while (from - below > 1) {
            const int32_t middle = (below + from) / 2;
            const int32_t there = exact.value_at(static_cast<uint16_t>(middle));
            const bool reached =
                rising ? there >= value.thousandths() : there <= value.thousandths();
            (reached ? from : below) = middle;
        }
        return static_cast<uint16_t>(from);
    }

    /// The codes that stand for values within the range.
    constexpr uint16_t first_code() const { return code_at(self().rising() ? lowest_ : highest_); }
    constexpr uint16_t last_code() const {
        // Several codes may stand for the very end.
        const int32_t end = (self().rising() ? highest_ : lowest_).thousandths();
        const auto exact = self().curve();
        const bool rising = self().rising();
        int32_t inside = -1;
        int32_t beyond = int32_t{full_scale()} + 1;
        while (beyond - inside > 1) {
            const int32_t middle = (inside + beyond) / 2;
            const int32_t there = exact.value_at(static_cast<uint16_t>(middle));
            ((rising ? there <= end : there >= end) ? inside : beyond) = middle;
        }
        return static_cast<uint16_t>(inside < 0 ? 0 : inside);
    }

    /// Which codes are those of a broken and a shorted wire.
    constexpr WireEnds wire_ends() const {
        if (!wire_check_)
            return WireEnds{0, full_scale(), self().open_at_top()};
        const uint16_t top = self().top_code();
        const auto share = static_cast<uint16_t>((uint32_t{top} + 1) >> 7);
        const uint16_t margin = share < uint16_t{2} ? uint16_t{2} : share;
        return WireEnds{margin, static_cast<uint16_t>(top - margin), self().open_at_top()};
    }

    /// The codes that are used, and what the others mean.
    constexpr CodeRange code_range() const {
        return CodeRange{self().first_code(), self().last_code(), self().wire_ends()};
    }

    /// Whether both ends of the range can be told from a broken and a shorted wire.
    constexpr bool wires_can_be_told() const {
        const WireEnds ends = self().wire_ends();
        return self().first_code() >= ends.low && self().last_code() <= ends.high;
    }

    /// Whether the range covers enough codes of the converter to tell values apart at all.
    constexpr bool codes_can_be_told() const {
        return int32_t{self().last_code()} - self().first_code() + 1 >= least_codes;
    }
    static constexpr int32_t least_codes = 10;

    /// How many codes a value keeps from the nearer end of the range; negative if outside.
    constexpr int32_t counts_inside(Q value) const {
        const int32_t code = code_at(value);
        const int32_t from_first = code - self().first_code();
        const int32_t from_last = self().last_code() - code;
        return from_first < from_last ? from_first : from_last;
    }

    constexpr TablePlan plan() const {
        return plan_table(self().curve(), self().first_code(), self().last_code(),
                          accuracy_.thousandths());
    }

  protected:
    /// The default range and accuracy of this kind of sensor.
    constexpr AnalogueSensor(Q lowest, Q highest, Gap within)
        : lowest_(lowest), highest_(highest), accuracy_(within) {}

  private:
    constexpr const Spec& self() const { return static_cast<const Spec&>(*this); }

    uint8_t bits_ = 10;
    bool wire_check_ = true;
    Q lowest_;
    Q highest_;
    Gap accuracy_;
};

/// A sample to a value, or to what is wrong with the wire. The same code on desk and chip; the desk
/// gives its table at run time, the chip at compile time.
template <class Q, class EntryAt>
[[gnu::always_inline]] constexpr Reading<Q>
read_by_table(const WireEnds& ends, const TablePlan& plan, EntryAt entry_at, Sample sample) {
    const Health health = CodeRange{plan.first_code, plan.last_code, ends}.health_of(sample);
    if (health != Health::ok)
        return Reading<Q>::without_value(health);
    return Reading<Q>::of_bounded(Q::from_thousandths(look_up(plan, entry_at, sample.code())));
}
/// The same of a sensor whose curve is a line.
template <class Q>
[[gnu::always_inline]] constexpr Reading<Q> read_by_line(const CodeRange& range,
                                                         const StraightLine& line, Sample sample) {
    const Health health = range.health_of(sample);
    if (health != Health::ok)
        return Reading<Q>::without_value(health);
    return Reading<Q>::of_bounded(Q::from_thousandths(line.value_at(sample.code())));
}

/// What the numbers of every analogue sensor must be like.
template <const auto& Spec> class AnalogueChecks {
  protected:
    static constexpr bool usable = Spec.is_possible() && Spec.codes_can_be_told();

    static_assert(Spec.bits_are_possible(), "the converter must have 8 to 16 bits: .bits(10)");
    static_assert(Spec.range_is_possible(),
                  "the range must lie within what this kind of sensor can measure, the lower end "
                  "first (temperatures: -100 to 300 degC, at least 10 K apart)");
    static_assert(
        Spec.accuracy_is_possible(),
        "the accuracy must be at least a thousandth of the unit, and less than the range");
    static_assert(
        !Spec.is_possible() || Spec.codes_can_be_told(),
        "the range covers fewer than 10 codes of the converter: widen .range(), or choose "
        "a part, a resistor or a reference that uses more of it");
    static_assert(!usable || Spec.wires_can_be_told(),
                  "an end of the range cannot be told from a broken or shorted wire: narrow "
                  ".range(), or choose parts that bring it nearer to the middle of the converter");
};

/// The common part of such sensors in a device: the table, built by the compiler and kept in
/// program memory; or the line, where the curve is one.
template <const auto& Spec, bool = detail::is_line<decltype(Spec.curve())>>
class AnalogueTable : public AnalogueChecks<Spec> {
    using AnalogueChecks<Spec>::usable;
    using Q = decltype(Spec.lowest());

  public:
    /// The layout of the table.
    static constexpr TablePlan plan = usable ? Spec.plan() : TablePlan{};
    static_assert(!usable || plan.close_enough,
                  "no table of one kilobyte is that close to the model: ask for less .accuracy()");

    /// The codes that it has values of, and what the others mean.
    static constexpr CodeRange range{plan.first_code, plan.last_code, Spec.wire_ends()};

    /// How far a reading may be from the exact curve, over the whole range.
    static constexpr auto largest_error() {
        return decltype(Spec.accuracy())::from_thousandths(plan.largest_error);
    }

    /// The value, or why there is none. Cost on the ATmega328P: printed by `./dev metal`.
    [[gnu::always_inline]] MeasuredAtCode<Q, Spec> read(Sample sample) const {
        const auto entry_at = [](uint16_t i) { return detail::load_entry(&table.entries[i]); };
        return {read_by_table<Q>(range.ends, plan, entry_at, sample), sample.code()};
    }

    /// The value of a code that the table covers, for the compiler only: a chip's table lies where
    /// only `read` finds it.
    static constexpr Q value_at(uint16_t code) {
        return Q::from_thousandths(look_up(
            plan, [](uint16_t i) { return table.entries[i]; }, code));
    }
    /// Whether the table goes one way only, so that each of its values is passed once.
    static constexpr bool goes_one_way() {
        for (uint16_t i = 2; i < plan.entries; ++i)
            if ((table.entries[i] < table.entries[i - 1]) != (table.entries[1] < table.entries[0]))
                return false;
        return true;
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

/// A sensor whose curve is a line: no table, and nothing to be close to.
template <const auto& Spec> class AnalogueTable<Spec, true> : public AnalogueChecks<Spec> {
    using AnalogueChecks<Spec>::usable;
    using Q = decltype(Spec.lowest());

  public:
    /// The codes that it has values of, and what the others mean.
    static constexpr CodeRange range = usable ? Spec.code_range() : CodeRange{};
    static constexpr StraightLine line = usable ? Spec.curve().line(range.first) : StraightLine{};

    /// How far a reading may be from the exact line; where that gives a whole number of
    /// thousandths, it is that.
    static constexpr auto largest_error() { return decltype(Spec.accuracy())::from_thousandths(1); }

    /// The value, or why there is none. Cost on the ATmega328P: printed by `./dev metal`.
    [[gnu::always_inline]] MeasuredAtCode<Q, Spec> read(Sample sample) const {
        return {read_by_line<Q>(range, line, sample), sample.code()};
    }
    static constexpr Q value_at(uint16_t code) { return Q::from_thousandths(line.value_at(code)); }
    static constexpr bool goes_one_way() { return true; }
};

namespace detail {

/// `T`, but only once a template that names it is used: until then its table is not computed, which
/// keeps the compiler quick where nobody needs it.
template <class T, class User> struct LateType { using Type = T; };
template <class T, class User> using Late = typename LateType<T, User>::Type;

/// A table of a function that is the same in every device, over 16-bit arguments.
/// \tparam Curve  has `value_at(uint16_t)`, and as constants `first`, `last`, `error`, and
///     `widest`, from which on `plan_table` is to look for the width of its lines
template <class Curve> class FunctionTable {
  public:
    static constexpr TablePlan plan =
        plan_table(Curve{}, Curve::first, Curve::last, Curve::error, Curve::widest);
    static_assert(plan.close_enough);

    /// The value at `argument`, which must lie from `Curve::first` to `Curve::last`.
    static constexpr int32_t at(uint16_t argument) { return inlined(argument); }
    /// The same where the saving of a call is worth the space.
    [[gnu::always_inline]] static constexpr int32_t inlined(uint16_t argument) {
        return look_up(
            plan,
            [](uint16_t i) {
                return __builtin_is_constant_evaluated() ? table.entries[i]
                                                         : load_entry(&table.entries[i]);
            },
            argument);
    }

  private:
    struct Table {
        int16_t entries[plan.entries];
    };
    static constexpr Table build() {
        Table out{};
        fill_table(Curve{}, plan, out.entries);
        return out;
    }
    ZORILLA_PROGRAM_MEMORY static constexpr Table table = build();
};

} // namespace detail
} // namespace zorilla
