// SPDX-License-Identifier: MIT
/// \file
/// Any raw code against any value, by a table of measured points: for sensors that nobody foresaw.
#pragma once

#include "zorilla/sense/powers.hpp"
#include "zorilla/units/level.hpp"

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
            if (points[i].code <= points[i - 1].code ||
                points[i].value == points[i - 1].value ||
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
        const int64_t value = from.value.thousandths() +
                              divide_rounded(rise * (int32_t{code} - from.code), to.code - from.code);
        return value > detail::largest_int32    ? detail::largest_int32
               : value < detail::smallest_int32 ? detail::smallest_int32
                                                : static_cast<int32_t>(value);
    }
};

/// One line of such a table as a chip keeps it, in 16-bit entries.
struct PointEntry {
    int16_t code;
    int16_t low; ///< the value's lower half, and its upper
    int16_t high;
    int16_t slope; ///< thousandths for each code, times 2^shift
    int16_t shift;
};

namespace detail {

/// The slope of a line by its leading 15 bits.
constexpr PointEntry entry_of(uint16_t code, int32_t value, int64_t rise, int32_t run) {
    PointEntry out{static_cast<int16_t>(code), static_cast<int16_t>(value & 0xffff),
                   static_cast<int16_t>(value >> 16), 0, 0};
    int64_t size = rise < 0 ? -rise : rise;
    while (size / run < 0x4000 && out.shift < 24) {
        size <<= 1;
        ++out.shift;
    }
    while (size / run >= 0x7fff) {
        size >>= 1;
        --out.shift;
    }
    const auto slope = static_cast<int16_t>(divide_rounded(size, run));
    out.slope = rise < 0 ? static_cast<int16_t>(-slope) : slope;
    return out;
}

} // namespace detail

/// A sensor by its measured points.
///
///     constexpr auto float_arm = value_table(at(112, 0_cm), at(480, 20_cm), at(900, 35_cm));
///     ValueTable<float_arm> level;
///
/// Exact to the lines between the points, within a thousandth of the unit and 0.002 % of the line's
/// rise. Default range: from the first point to the last.
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
        ValueTableSpec out = *this;
        out.open_at_top_ = level == Level::high;
        return out;
    }

    constexpr bool points_are_possible() const {
        return points_.is_possible() && points_.points[points_.count - 1].code <= this->full_scale();
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
    return ValueTableSpec<Q, 1 + sizeof...(More)>({{first, more...}, 1 + sizeof...(More)});
}

/// The value of a code by the lines that `entry_at(line)` gives; the code must be in the range.
template <class EntryAt>
[[gnu::always_inline]] constexpr int32_t value_by_points(uint8_t lines, EntryAt entry_at,
                                                         uint16_t code) {
    uint8_t line = 0;
    while (line + 1 < lines && code > static_cast<uint16_t>(entry_at(line + 1).code))
        ++line;
    const PointEntry from = entry_at(line);
    const auto base = static_cast<int32_t>(
        static_cast<uint32_t>(static_cast<uint16_t>(from.high)) << 16 |
        static_cast<uint16_t>(from.low));
    const bool back = code < static_cast<uint16_t>(from.code);
    const auto along = static_cast<uint16_t>(
        back ? static_cast<uint16_t>(from.code) - code : code - static_cast<uint16_t>(from.code));
    const bool falls = (from.slope < 0) != back;
    const auto steep = static_cast<uint16_t>(from.slope < 0 ? -from.slope : from.slope);
    const int32_t way =
        detail::shifted(detail::product(along, steep), static_cast<int8_t>(-from.shift));
    return falls ? base - way : base + way;
}

/// A sensor by its measured points, in a device.
template <const auto& Spec> class ValueTable : public AnalogueChecks<Spec> {
    static_assert(Spec.points_are_possible(),
                  "the points must go up in code, within the converter, and their values one way: "
                  "value_table(at(112, 0_cm), at(480, 20_cm))");
    using Q = decltype(Spec.lowest());
    static constexpr CodeRange range = Spec.code_range();
    struct Entries {
        int16_t at[Spec.lines() * 5];
    };
    static constexpr Entries build() {
        Entries out{};
        for (uint8_t i = 0; i < Spec.lines(); ++i) {
            const PointEntry entry = Spec.entry(i);
            const int16_t all[] = {entry.code, entry.low, entry.high, entry.slope, entry.shift};
            for (uint8_t k = 0; k < 5; ++k)
                out.at[i * 5 + k] = all[k];
        }
        return out;
    }
    ZORILLA_PROGRAM_MEMORY static constexpr Entries entries = build();

  public:
    /// The value, or why there is none.
    Reading<Q> read(Sample sample) const {
        const Health health = range.health_of(sample);
        if (health != Health::ok)
            return Reading<Q>::without_value(health);
        const auto load = [](int line) {
            const int16_t* at = &entries.at[line * 5];
            return PointEntry{detail::load_entry(at), detail::load_entry(at + 1),
                              detail::load_entry(at + 2), detail::load_entry(at + 3),
                              detail::load_entry(at + 4)};
        };
        return Reading<Q>::of(
            Q::from_thousandths(value_by_points(Spec.lines(), load, sample.code())));
    }
};

} // namespace zorilla
