// SPDX-License-Identifier: MIT
/// \file
/// Converter codes to values by a small table of straight lines, made of integers only.
///
/// A *curve* is any type with `int32_t value_at(uint16_t code) const`: the exact value in
/// thousandths. `plan_table` finds the fewest evenly spaced lines that follow it closely enough,
/// `fill_table` writes their end points, `look_up` reads a value off them.
#pragma once

#include "zorilla/units/decimal.hpp"
#include "zorilla/units/product.hpp"

#include <stdint.h>

namespace zorilla {

/// How a table is laid out, and how far it may be off.
struct TablePlan {
    uint16_t first_code = 0;   ///< the first code that the table covers
    uint16_t last_code = 0;    ///< the last one
    uint8_t segment_bits = 0;  ///< one line covers 2^segment_bits codes
    uint8_t entry_bits = 0;    ///< an entry counts 2^entry_bits thousandths
    uint16_t entries = 0;      ///< the number of 16-bit entries
    bool narrow = false;       ///< the products of the look-up fit 16 bits, not only their factors
    int32_t largest_error = 0; ///< thousandths, against the exact curve, over all covered codes
    bool close_enough = false; ///< whether `largest_error` is within what was asked for
};

/// The most entries a table may have: one kilobyte.
inline constexpr uint16_t most_table_entries = 512;

namespace detail {

constexpr int32_t magnitude(int32_t x) { return x < 0 ? -x : x; }

/// Where line number `segment` of the table begins and ends, within the covered codes.
struct Segment {
    int32_t begin;
    int32_t from;
    int32_t to;
    int32_t end;
};

constexpr Segment segment_of(const TablePlan& plan, int32_t number) {
    const int32_t width = int32_t{1} << plan.segment_bits;
    const int32_t begin = ((plan.first_code >> plan.segment_bits) + number) * width;
    const int32_t from = begin < plan.first_code ? plan.first_code : begin;
    const int32_t to = begin + width > plan.last_code ? plan.last_code : begin + width;
    return Segment{begin, from, to, begin + width};
}

/// The line through the exact curve at both ends of a segment, and how far the curve bulges from
/// it in the middle. A segment that is only partly covered follows its covered part.
struct Chord {
    int32_t at_begin;
    int32_t at_end;
    int32_t bulge;
};

template <class Curve> constexpr Chord chord_of(const Curve& curve, Segment s) {
    const int32_t low = curve.value_at(static_cast<uint16_t>(s.from));
    if (s.from == s.to)
        return Chord{low, low, 0};
    const int32_t high = curve.value_at(static_cast<uint16_t>(s.to));
    const int32_t middle = (s.from + s.to) / 2;
    const int64_t rise = int64_t{high} - low;
    const int64_t run = s.to - s.from;
    const int64_t on_line = low + divide_rounded(rise * (middle - s.from), run);
    return Chord{
        static_cast<int32_t>(low - divide_rounded(rise * (s.from - s.begin), run)),
        static_cast<int32_t>(high + divide_rounded(rise * (s.end - s.to), run)),
        static_cast<int32_t>(curve.value_at(static_cast<uint16_t>(middle)) - on_line),
    };
}

/// Hands every entry of the table, in thousandths, to `take(index, value)`. Each entry is moved off
/// the curve by half of the bulge beside it, which halves the largest error of the lines.
template <class Curve, class Take>
constexpr void each_entry(const Curve& curve, const TablePlan& plan, Take& take) {
    Chord before = chord_of(curve, segment_of(plan, 0));
    take(0, before.at_begin + before.bulge / 2);
    for (int32_t i = 1; i < plan.entries - 1; ++i) {
        const Chord after = chord_of(curve, segment_of(plan, i));
        take(i, (before.at_end + after.at_begin) / 2 + (before.bulge + after.bulge) / 4);
        before = after;
    }
    take(plan.entries - 1, before.at_end + before.bulge / 2);
}

struct Extent {
    int32_t largest = 0;
    int32_t steepest = 0;
    int32_t previous = 0;
    constexpr void operator()(int32_t index, int32_t value) {
        if (magnitude(value) > largest)
            largest = magnitude(value);
        if (index > 0 && magnitude(value - previous) > steepest)
            steepest = magnitude(value - previous);
        previous = value;
    }
};

struct Store {
    int16_t* entries;
    uint8_t entry_bits;
    constexpr void operator()(int32_t index, int32_t value) {
        entries[index] = static_cast<int16_t>(divide_rounded(value, int64_t{1} << entry_bits));
    }
};

} // namespace detail

/// Writes the `plan.entries` entries of the table to `out`.
template <class Curve>
constexpr void fill_table(const Curve& curve, const TablePlan& plan, int16_t* out) {
    detail::Store store{out, plan.entry_bits};
    detail::each_entry(curve, plan, store);
}

/// The value of `code`, in thousandths, from a table that `entry_at(index)` reads.
/// The code must lie within what the plan covers.
template <class EntryAt>
[[gnu::always_inline]] constexpr int32_t look_up(const TablePlan& plan, EntryAt entry_at,
                                                 uint16_t code) {
    // One line needs no choice; where its ends are known, it is a product with a constant.
    const auto index = plan.entries == 2
                           ? uint16_t{0}
                           : static_cast<uint16_t>((code >> plan.segment_bits) -
                                                   (plan.first_code >> plan.segment_bits));
    const auto along = static_cast<int16_t>(code & ((1U << plan.segment_bits) - 1U));
    const int16_t begin = entry_at(index);
    if (plan.segment_bits == 0)
        return int32_t{begin} * (int32_t{1} << plan.entry_bits);
    const int16_t end = entry_at(static_cast<uint16_t>(index + 1));
    // 16-bit products are cheap on an 8-bit chip, 32-bit ones are not.
    const int32_t rise =
        plan.narrow ? int32_t{static_cast<int16_t>(static_cast<int16_t>(end - begin) * along)}
        // A compiler counts its steps: no call where there need be none.
        : __builtin_is_constant_evaluated()
            ? (int32_t{end} - begin) * along
            : detail::product(static_cast<int16_t>(end - begin), static_cast<uint16_t>(along));
    const int32_t base = int32_t{begin} * (int32_t{1} << plan.entry_bits);
    if (plan.entry_bits >= plan.segment_bits)
        return base + rise * (int32_t{1} << (plan.entry_bits - plan.segment_bits));
    const int32_t down = plan.segment_bits - plan.entry_bits;
    return base + ((rise + (int32_t{1} << (down - 1))) >> down);
}

namespace detail {

static_assert((-1 >> 1) == -1, "right shifts of negative numbers must keep the sign");

/// The largest distance between table and curve. On lines of at most 16 codes every code is looked
/// at; on longer ones both ends and 15 evenly spaced codes between them, with what may hide beside
/// those added. Stops looking where the error is beyond `enough`: a compiler has only so much
/// patience.
template <class Curve>
constexpr int32_t largest_error_of(const Curve& curve, const TablePlan& plan,
                                   const int16_t* entries, int32_t enough) {
    int32_t worst = 0;
    for (int32_t line = 0; line < plan.entries - 1 && worst <= enough; ++line) {
        const Segment s = segment_of(plan, line);
        const int32_t looks = s.to - s.from < 16 ? s.to - s.from : 16;
        for (int32_t look = 0; look <= looks; ++look) {
            const auto code =
                static_cast<uint16_t>(look == 0 ? s.from : s.from + (s.to - s.from) * look / looks);
            const int32_t read = look_up(
                plan, [entries](uint16_t i) { return entries[i]; }, code);
            const int32_t away = magnitude(read - curve.value_at(code));
            worst = away > worst ? away : worst;
        }
    }
    return plan.segment_bits <= 4 ? worst : worst + worst / 64 + 2;
}

} // namespace detail

/// The table with the fewest lines that stays within `wanted_error` thousandths of the curve from
/// `first_code` to `last_code`. Where none of at most `most_table_entries` does, the finest one
/// possible, with `close_enough` false.
/// \param widest  the widest lines to try, as a power of two; known, it saves a compiler the search
template <class Curve>
constexpr TablePlan plan_table(const Curve& curve, uint16_t first_code, uint16_t last_code,
                               int32_t wanted_error, int32_t widest = 13) {
    TablePlan plan;
    int16_t entries[most_table_entries] = {};
    const auto lines_of = [first_code, last_code](int32_t bits) {
        return (last_code >> bits) - (first_code >> bits) + 1;
    };
    for (int32_t bits = widest; bits >= 0; --bits) {
        const int32_t lines = lines_of(bits);
        if (lines == 1 && bits > 0 && lines_of(bits - 1) == 1)
            continue; // not wider than need be: its ends lie further away than what is covered
        if (lines + 1 > most_table_entries)
            break;
        const bool finest = bits == 0 || lines_of(bits - 1) + 1 > most_table_entries;
        plan = TablePlan{};
        plan.first_code = first_code;
        plan.last_code = last_code;
        plan.segment_bits = static_cast<uint8_t>(bits);
        plan.entries = static_cast<uint16_t>(lines + 1);
        detail::Extent extent;
        detail::each_entry(curve, plan, extent);
        // Neither an entry nor the way to the next may leave 16 bits.
        while ((extent.largest >> plan.entry_bits) >= detail::largest_int16 ||
               (extent.steepest >> plan.entry_bits) >= detail::largest_int16)
            ++plan.entry_bits;
        const int64_t product =
            int64_t{(extent.steepest >> plan.entry_bits) + 1} * ((int64_t{1} << bits) - 1);
        plan.narrow = product <= detail::largest_int16;
        detail::Store store{entries, plan.entry_bits};
        detail::each_entry(curve, plan, store);
        // The desk tells how close the finest comes; a compiler only has to know that it is not
        // enough.
        const bool measure = finest && !__builtin_is_constant_evaluated();
        plan.largest_error = detail::largest_error_of(
            curve, plan, entries, measure ? detail::largest_int32 : wanted_error);
        plan.close_enough = plan.largest_error <= wanted_error;
        if (plan.close_enough)
            break;
    }
    return plan;
}

} // namespace zorilla
