// SPDX-License-Identifier: MIT
/// \file
/// Any raw code against any value, by a table of measured points: for sensors that nobody foresaw.
#pragma once

#include "zorilla/sense/powers.hpp"
#include "zorilla/units/level.hpp"
#include "zorilla/units/one_sentence.hpp"
#include "zorilla/units/settable.hpp"

#include <stdint.h>

namespace zorilla {

/// One measured point: `at(120, 0_cm)`.
template <class Q> struct ValueAt {
    uint16_t code;
    Q value;
};
template <class Q> constexpr ValueAt<Q> at(uint16_t code, Q value) { return {code, value}; }
constexpr ValueAt<Temperature> at(uint16_t code, DegreesCelsius t) { return {code, t}; }
constexpr ValueAt<Temperature> at(uint16_t code, DegreesFahrenheit t) { return {code, t}; }

/// Straight lines between measured points, going up in code, and their values one way.
template <class Q, uint8_t Most> struct PointsCurve {
    ValueAt<Q> points[Most] = {};
    uint8_t count = Most;

    constexpr bool is_possible() const {
        if (count < 2)
            return false;
        for (uint8_t i = 1; i < count; ++i)
            if (points[i].code <= points[i - 1].code || points[i].value == points[i - 1].value ||
                (points[i].value > points[i - 1].value) != rising())
                return false;
        return true;
    }
    constexpr bool rising() const { return points[1].value > points[0].value; }

    constexpr uint8_t line_of(uint16_t code) const {
        uint8_t i = 0;
        while (i + 2 < count && code > points[i + 1].code)
            ++i;
        return i;
    }
    constexpr int32_t value_at(uint16_t code) const {
        const ValueAt<Q>& from = points[line_of(code)];
        const ValueAt<Q>& to = points[line_of(code) + 1];
        const int64_t rise = int64_t{to.value.thousandths()} - from.value.thousandths();
        const int64_t value =
            from.value.thousandths() +
            divide_rounded(rise * (int32_t{code} - from.code), to.code - from.code);
        return value > detail::largest_int32    ? detail::largest_int32
               : value < detail::smallest_int32 ? detail::smallest_int32
                                                : static_cast<int32_t>(value);
    }
};

/// One line of such a table as a chip keeps it, in 16-bit entries.
struct PointEntry {
    uint16_t code;
    uint16_t low; ///< the value's lower half, and its upper
    uint16_t high;
    uint16_t slope;    ///< whole thousandths for each code, without their sign
    uint16_t fraction; ///< and the rest, in units of 2^-16
    uint16_t flags;    ///< 1: the value falls; 2: the slope is 256 times that

    static constexpr uint8_t size = 6;
    static constexpr uint16_t falls = 1, steep = 2;
};

namespace detail {

constexpr PointEntry entry_of(uint16_t code, int32_t value, int64_t rise, int32_t run) {
    const auto bits = static_cast<uint32_t>(value);
    PointEntry out{code,
                   static_cast<uint16_t>(bits),
                   static_cast<uint16_t>(bits >> 16),
                   0,
                   0,
                   rise < 0 ? PointEntry::falls : uint16_t{0}};
    const int64_t size = rise < 0 ? -rise : rise;
    int64_t slope = divide_rounded(size << 16, run);
    if (slope >= int64_t{1} << 32) {
        slope = divide_rounded(size << 8, run);
        out.flags |= PointEntry::steep;
    }
    out.slope = static_cast<uint16_t>(slope >> 16);
    out.fraction = static_cast<uint16_t>(slope);
    return out;
}

} // namespace detail

/// A sensor by its measured points.
///
///     constexpr auto float_arm = value_table(at(112, 0_cm), at(480, 20_cm), at(900, 35_cm));
///     ValueTable<float_arm> level;
///
/// Exact to the lines between the points, within a thousandth of the unit, or 0.002 % of the line's
/// rise where that is more; a line that rises by more than 65 units with each code, within 0.13
/// units. Default range: from the first point to the last.
template <class Q, uint8_t Most>
class ValueTableSpec : public AnalogueSensor<ValueTableSpec<Q, Most>, Q> {
    using Base = AnalogueSensor<ValueTableSpec, Q>;

  public:
    static constexpr bool has_accuracy = false;
    static constexpr Q smallest = Q::from_thousandths(-1'000'000'000),
                       largest = Q::from_thousandths(1'000'000'000);
    static constexpr typename Base::Gap least_span = Base::Gap::from_thousandths(1);

    constexpr explicit ValueTableSpec(const PointsCurve<Q, Most>& points)
        : Base(points.rising() ? points.points[0].value : points.points[points.count - 1].value,
               points.rising() ? points.points[points.count - 1].value : points.points[0].value,
               Base::Gap::from_thousandths(1)),
          points_(points) {}

    /// What the pin reads when the sensor's wire is off. Default: high, as with a weak pull-up.
    constexpr ValueTableSpec wire_off_reads(Level level) const {
        return detail::with(*this, &ValueTableSpec::open_at_top_, level == Level::high);
    }

    constexpr bool points_are_possible() const {
        return points_.is_possible() &&
               points_.points[points_.count - 1].code <= this->full_scale();
    }
    constexpr bool part_is_possible() const { return points_are_possible(); }
    constexpr const PointsCurve<Q, Most>& curve() const { return points_; }
    constexpr bool rising() const { return points_.rising(); }
    constexpr bool open_at_top() const { return open_at_top_; }

    /// Line `i` as a chip keeps it.
    constexpr PointEntry entry(uint8_t i) const {
        const ValueAt<Q>& from = points_.points[i];
        const ValueAt<Q>& to = points_.points[i + 1];
        return detail::entry_of(from.code, from.value.thousandths(),
                                int64_t{to.value.thousandths()} - from.value.thousandths(),
                                to.code - from.code);
    }
    constexpr uint8_t lines() const { return static_cast<uint8_t>(points_.count - 1); }

  private:
    PointsCurve<Q, Most> points_;
    bool open_at_top_ = true;
};

/// Starts a `ValueTableSpec` from two points or more, going up in code.
template <class First, class... More> constexpr auto value_table(First first, More... more) {
    using Q = decltype(first.value);
    static_assert(detail::all_are<First, More...>, "a table is made of points of one quantity: "
                                                   "value_table(at(100, 0_cm), at(900, 40_cm))");
    return ValueTableSpec<Q, 1 + sizeof...(More)>(
        {{first, detail::this_or(first, more)...}, 1 + sizeof...(More)});
}

/// The value of a code on a line, or a little beyond its ends.
[[gnu::always_inline]] constexpr int32_t value_on(const PointEntry& from, uint16_t code) {
    const auto base = static_cast<int32_t>(uint32_t{from.high} << 16 | from.low);
    const bool back = code < from.code;
    const auto along = static_cast<uint16_t>(back ? from.code - code : code - from.code);
    uint32_t way = detail::product(along, from.slope) +
                   ((detail::product(along, from.fraction) + 0x8000U) >> 16);
    if ((from.flags & PointEntry::steep) != 0)
        way <<= 8;
    return ((from.flags & PointEntry::falls) != 0) != back ? base - static_cast<int32_t>(way)
                                                           : base + static_cast<int32_t>(way);
}

/// The value of a code by the lines that `entry_at(line)` gives; the code must be in the range.
template <class EntryAt>
[[gnu::always_inline]] constexpr int32_t value_by_points(uint8_t lines, EntryAt entry_at,
                                                         uint16_t code) {
    uint8_t line = 0;
    while (line + 1 < lines && code > entry_at(line + 1).code)
        ++line;
    return value_on(entry_at(line), code);
}

/// A sensor by its measured points, in a device.
template <const auto& Spec, bool = detail::is_constant<Spec>>
class ValueTable : public AnalogueChecks<Spec> {
    static_assert(Spec.points_are_possible(),
                  "the points must go up in code, within the converter, and their values one way: "
                  "value_table(at(112, 0_cm), at(480, 20_cm))");
    using Q = decltype(Spec.lowest());
    static constexpr CodeRange range = Spec.code_range();
    struct Entries {
        int16_t at[Spec.lines() * PointEntry::size];
    };
    static constexpr Entries build() {
        Entries out{};
        for (uint8_t i = 0; i < Spec.lines(); ++i) {
            const PointEntry e = Spec.entry(i);
            const uint16_t all[] = {e.code, e.low, e.high, e.slope, e.fraction, e.flags};
            for (uint8_t k = 0; k < PointEntry::size; ++k)
                out.at[i * PointEntry::size + k] = static_cast<int16_t>(all[k]);
        }
        return out;
    }
    ZORILLA_PROGRAM_MEMORY static constexpr Entries entries = build();

    // A few lines are constants of the program, which takes less than to read them from a table.
    static constexpr uint8_t few = 4;
    template <uint8_t I = 0>
    [[gnu::always_inline]] static constexpr PointEntry line_of(uint16_t code) {
        constexpr PointEntry line = Spec.entry(I);
        if constexpr (I + 1 < Spec.lines()) {
            constexpr uint16_t end = Spec.entry(I + 1).code;
            if (code > end)
                return line_of<I + 1>(code);
        }
        return line;
    }
    [[gnu::always_inline]] static constexpr int32_t value_of(uint16_t code) {
        if constexpr (Spec.lines() <= few) {
            const PointEntry line = line_of(code);
            // No code that is used lies before the first point: said to the compiler.
            if (range.first >= Spec.entry(0).code && code < line.code)
                __builtin_unreachable();
            return value_on(line, code);
        } else
            return value_by_points(Spec.lines(), load, code);
    }
    static PointEntry load(int line) {
        const int16_t* const begin = &entries.at[line * PointEntry::size];
        const auto at = [begin](int i) {
            return static_cast<uint16_t>(detail::load_entry(begin + i));
        };
        return PointEntry{at(0), at(1), at(2), at(3), at(4), at(5)};
    }

  public:
    /// The value, or why there is none.
    [[gnu::always_inline]] Measured<Q, Spec> read(Sample sample) const {
        const Health health = range.health_of(sample);
        if (health != Health::ok)
            return Reading<Q>::without_value(health);
        return Reading<Q>::of_bounded(Q::from_thousandths(value_of(sample.code())));
    }
};
template <const auto& Spec> class ValueTable<Spec, false> : public detail::NotMade<Spec> {};

} // namespace zorilla
