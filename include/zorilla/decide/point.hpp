// SPDX-License-Identifier: MIT
/// \file
/// The points at which decisions turn, as they are written: `4_degC`, `25_ppm`, `40_percent`.
#pragma once

#include "zorilla/units/one_sentence.hpp"
#include "zorilla/units/quantity.hpp"
#include "zorilla/units/temperature.hpp"

namespace zorilla::detail {

template <class T> inline constexpr bool is_quantity = is_taken_as<Temperature, T>;
template <class Unit> inline constexpr bool is_quantity<Quantity<Unit>> = true;

/// A point as the quantity that it is of.
template <class T> constexpr auto as_point(T point) {
    static_assert(is_quantity<T>,
                  "write a point with its unit, such as 4_degC, 25_ppm, 40_percent");
    if constexpr (is_taken_as<Temperature, T>)
        return Temperature(point);
    else if constexpr (is_quantity<T>)
        return point;
    else
        return Temperature{};
}
template <class T> using PointOf = decltype(as_point(given<T>()));

/// A point that would do, for one that does not.
template <class Q> constexpr Q moved(Q point, int32_t thousandths) {
    return Q::from_thousandths(point.thousandths() + thousandths);
}

} // namespace zorilla::detail
