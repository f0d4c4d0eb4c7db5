// SPDX-License-Identifier: MIT
/// \file
/// Air temperature as the argument of a table, shared by all that is corrected by it.
#pragma once

#include "zorilla/sense/powers.hpp"
#include "zorilla/units/temperature.hpp"

#include <stdint.h>

namespace zorilla {

namespace detail {

inline constexpr int32_t coldest_climate = -40'000; // in thousandths of a degree Celsius
inline constexpr int32_t hottest_climate = 85'000;
inline constexpr uint16_t last_climate_argument = (hottest_climate - coldest_climate) / 2;

/// The argument of a temperature that is: steps of 0.002 degC from the coldest.
constexpr uint16_t climate_argument(Temperature t) {
    return static_cast<uint16_t>(static_cast<uint32_t>(t.thousandths() - coldest_climate) >> 1);
}
/// Back again, in thousandths of a degree Celsius.
constexpr int32_t climate_temperature(uint16_t argument) {
    return coldest_climate + 2 * int32_t{argument};
}

} // namespace detail

/// Whether a temperature is one that air and its sensors have: -40 to 85 degC.
constexpr bool in_climate(Temperature t) {
    return t.thousandths() >= detail::coldest_climate && t.thousandths() <= detail::hottest_climate;
}

} // namespace zorilla
