// SPDX-License-Identifier: MIT
/// \file
/// What temperature and humidity do to a gas sensor, as its data sheet draws it.
#pragma once

#include "zorilla/sense/code_table.hpp"
#include "zorilla/units/logarithm.hpp"
#include "zorilla/units/product.hpp"
#include "zorilla/units/program_memory.hpp"
#include "zorilla/units/temperature.hpp"

#include <stdint.h>

namespace zorilla {

/// How a gas sensor's resistance leans on temperature and humidity: the factor to Rs at each pair,
/// as the data sheet draws it. Between the points its logarithm is taken as straight; beyond the
/// ends it stays as at the end.
template <uint8_t Temperatures, uint8_t Humidities> struct ClimateTable {
    Temperature temperatures[Temperatures];
    RelativeHumidity humidities[Humidities];
    Ratio factors[Temperatures * Humidities]; ///< for each temperature, all humidities

    static constexpr uint8_t rows = Temperatures, columns = Humidities;
    constexpr bool is_possible() const {
        for (uint8_t i = 1; i < Temperatures; ++i)
            if (temperatures[i] - temperatures[i - 1] < 1_K ||
                temperatures[i] - temperatures[i - 1] > 120_K)
                return false;
        for (uint8_t i = 1; i < Humidities; ++i)
            if (humidities[i] - humidities[i - 1] < 1_percent_RH)
                return false;
        for (const Ratio& factor : factors)
            if (factor < 0.1_times || factor > 10_times)
                return false;
        return Temperatures >= 2 && Humidities >= 2;
    }
};

/// 2^32 / distance between two points of an axis, rounded down, as a table of climate keeps it.
constexpr uint32_t inverse_distance(uint32_t distance) {
    return static_cast<uint32_t>((uint64_t{1} << 32) / distance);
}
/// log2 of a factor in units of 2^-11, as such a table keeps it.
constexpr int16_t log_of_factor(Ratio factor) {
    const int64_t log = detail::natural_log(static_cast<uint32_t>(factor.thousandths())) -
                        detail::natural_log(1000);
    return static_cast<int16_t>(divide_rounded(log * 2048, detail::ln_two));
}

namespace detail {

/// Such a table as a chip keeps it.
template <uint8_t Rows, uint8_t Columns> struct ClimateEntries {
    uint32_t row_at[Rows]; ///< in thousandths, as bits
    uint32_t column_at[Columns];
    uint32_t inverse_row[Rows]; ///< 2^32 / distance to the next
    uint32_t inverse_column[Columns];
    int16_t logs[Rows * Columns]; ///< log2 of the factor, in units of 2^-11
};

template <uint8_t R, uint8_t C>
constexpr ClimateEntries<R, C> entries_of(const ClimateTable<R, C>& table) {
    ClimateEntries<R, C> out{};
    for (uint8_t i = 0; i < R; ++i)
        out.row_at[i] = static_cast<uint32_t>(table.temperatures[i].thousandths());
    for (uint8_t i = 0; i < C; ++i)
        out.column_at[i] = static_cast<uint32_t>(table.humidities[i].thousandths());
    for (uint8_t i = 0; i + 1 < R; ++i)
        out.inverse_row[i] = inverse_distance(out.row_at[i + 1] - out.row_at[i]);
    for (uint8_t i = 0; i + 1 < C; ++i)
        out.inverse_column[i] = inverse_distance(out.column_at[i + 1] - out.column_at[i]);
    for (uint8_t i = 0; i < R * C; ++i)
        out.logs[i] = log_of_factor(table.factors[i]);
    return out;
}

/// Where a value lies on an axis: the point before it, and how far along to the next, in 2^-16; at
/// the next one 65,535.
struct Along {
    uint8_t index;
    uint16_t share;
};
ZORILLA_SHARED inline Along along(const uint32_t* points, const uint32_t* inverse, uint8_t count,
                                  int32_t value) {
    const auto point = [points](int i) { return static_cast<int32_t>(load_long(points + i)); };
    uint8_t i = 0;
    while (i + 2 < count && value >= point(i + 1))
        ++i;
    const int32_t from = point(i);
    if (value <= from)
        return {i, 0};
    if (value >= point(i + 1))
        return {i, 0xffff};
    // Less than the distance times its inverse: 2^32.
    const auto way = static_cast<uint32_t>(value - from);
    return {i, static_cast<uint16_t>((way * load_long(inverse + i)) >> 16)};
}

/// Rounded to the nearest, so that 65,535 parts are all of the way.
ZORILLA_SHARED inline int16_t between(int16_t from, int16_t to, uint16_t share) {
    return static_cast<int16_t>(from +
                                ((product(static_cast<int16_t>(to - from), share) + 0x8000) >> 16));
}

/// log2 of the factor in units of 2^-11. \param logs  for each row, all columns
inline int16_t correction_between(Along row, Along column, const int16_t* logs, uint8_t columns) {
    const int16_t* at = logs + row.index * columns + column.index;
    return between(between(load_entry(at), load_entry(at + 1), column.share),
                   between(load_entry(at + columns), load_entry(at + columns + 1), column.share),
                   row.share);
}
} // namespace detail

/// An axis of a table of climate: its points in thousandths, and 2^32 / the distance to the next.
struct ClimateAxis {
    const uint32_t* points;
    const uint32_t* inverse;
    uint8_t count;
};
/// log2 of the factor in a climate, in units of 2^-11. \param logs  for each row, all columns
inline int16_t climate_correction(ClimateAxis rows, ClimateAxis columns, const int16_t* logs,
                                  Temperature t, RelativeHumidity h) {
    return detail::correction_between(
        detail::along(rows.points, rows.inverse, rows.count, t.thousandths()),
        detail::along(columns.points, columns.inverse, columns.count, h.thousandths()), logs,
        columns.count);
}

} // namespace zorilla
