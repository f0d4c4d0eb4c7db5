// SPDX-License-Identifier: MIT
/// \file
/// Temperatures and temperature differences: as different as a time of day and a duration.
#pragma once

#include "zorilla/units/quantity.hpp"

#include <stdint.h>

namespace zorilla {

/// How far two temperatures are apart, in thousandths of a kelvin (one kelvin apart is one degree
/// Celsius apart). Also the unit in which data sheets give a thermistor's Beta.
using TemperatureDifference = Quantity<unit::Kelvin>;

/// A temperature in thousandths of a degree Celsius, from -2,147,483 to 2,147,483 degC.
///
/// Two temperatures can be compared and subtracted, not added:
///
///     constexpr Temperature cold = 4_degC;
///     constexpr Temperature warm = cold + 2_K;
///     static_assert(warm - cold == 2_K && warm > 39_degF);
class Temperature {
  public:
    constexpr Temperature() = default;

    /// From an integer in thousandths of a degree Celsius.
    static constexpr Temperature from_thousandths(int32_t millidegrees_celsius) {
        Temperature out;
        out.thousandths_ = millidegrees_celsius;
        return out;
    }

    /// The integer in thousandths of a degree Celsius.
    constexpr int32_t thousandths() const { return thousandths_; }

    /// Whether this value has run into an end of the 32-bit range.
    constexpr bool is_saturated() const {
        return thousandths_ == detail::largest_int32 || thousandths_ == detail::smallest_int32;
    }

  private:
    int32_t thousandths_ = 0;
};

constexpr Temperature operator+(Temperature point, TemperatureDifference by) {
    return Temperature::from_thousandths(detail::add(point.thousandths(), by.thousandths()));
}
constexpr Temperature operator+(TemperatureDifference by, Temperature point) { return point + by; }
constexpr Temperature operator-(Temperature point, TemperatureDifference by) {
    return Temperature::from_thousandths(detail::subtract(point.thousandths(), by.thousandths()));
}
constexpr TemperatureDifference operator-(Temperature a, Temperature b) {
    return TemperatureDifference::from_thousandths(
        detail::subtract(a.thousandths(), b.thousandths()));
}
constexpr bool operator==(Temperature a, Temperature b) {
    return a.thousandths() == b.thousandths();
}
constexpr bool operator!=(Temperature a, Temperature b) { return !(a == b); }
constexpr bool operator<(Temperature a, Temperature b) { return a.thousandths() < b.thousandths(); }
constexpr bool operator>(Temperature a, Temperature b) { return b < a; }
constexpr bool operator<=(Temperature a, Temperature b) { return !(b < a); }
constexpr bool operator>=(Temperature a, Temperature b) { return !(a < b); }

namespace scale {

/// The scales' definitions against degrees Celsius (International System of Units, 9th brochure,
/// section 2.3.1, for the kelvin; degrees Fahrenheit have 9/5 the number of steps and 32 as zero).
struct Celsius {
    static constexpr int32_t steps_up = 1, steps_down = 1;
    static constexpr int64_t zero_in_hundredths = 0;
};
struct Fahrenheit {
    static constexpr int32_t steps_up = 9, steps_down = 5;
    static constexpr int64_t zero_in_hundredths = 3200;
};
struct Kelvin {
    static constexpr int32_t steps_up = 1, steps_down = 1;
    static constexpr int64_t zero_in_hundredths = 27315;
};

} // namespace scale

/// A temperature as a number on one scale, in thousandths of a degree: what is written in a
/// program or shown to a person. It becomes a `Temperature` by itself, rounded to the nearest
/// thousandth of a degree Celsius, halves away from zero.
///
/// It exists so that `-4_degF` means four below zero Fahrenheit; the minus belongs to the scale.
template <class Scale> class Degrees {
  public:
    constexpr explicit Degrees(int32_t thousandths) : thousandths_(thousandths) {}

    /// The same temperature on this scale, rounded to the nearest thousandth of its degree, halves
    /// away from zero. Off the end of the range: saturated. About 64-bit work: for display, not
    /// for every pass on an 8-bit chip.
    constexpr explicit Degrees(Temperature t) {
        const int64_t steps =
            divide_rounded(int64_t{t.thousandths()} * Scale::steps_up, Scale::steps_down);
        thousandths_ = detail::narrow(steps + Scale::zero_in_hundredths * 10);
    }

    constexpr int32_t thousandths() const { return thousandths_; }

    constexpr Degrees operator-() const { return Degrees(detail::subtract(0, thousandths_)); }

    // Implicit on purpose: nothing but a thousandth of a degree is lost.
    constexpr operator Temperature() const {
        const int64_t above_zero = int64_t{thousandths_} - Scale::zero_in_hundredths * 10;
        return Temperature::from_thousandths(
            detail::narrow(divide_rounded(above_zero * Scale::steps_down, Scale::steps_up)));
    }

  private:
    int32_t thousandths_ = 0;
};

/// A number of degrees Celsius, Fahrenheit or kelvin, in thousandths.
using DegreesCelsius = Degrees<scale::Celsius>;
using DegreesFahrenheit = Degrees<scale::Fahrenheit>;
using DegreesKelvin = Degrees<scale::Kelvin>;

inline namespace literals {

/// `4_degC`, `-20.5_degC`: a temperature.
template <char... Text> constexpr DegreesCelsius operator""_degC() {
    return DegreesCelsius(detail::literal<1000, 1, 0, false, Text...>());
}
/// `39_degF`: a temperature.
template <char... Text> constexpr DegreesFahrenheit operator""_degF() {
    return DegreesFahrenheit(detail::literal<1000, 1, 0, false, Text...>());
}
/// `293.15_K_absolute`: a temperature on the absolute scale.
template <char... Text> constexpr DegreesKelvin operator""_K_absolute() {
    return DegreesKelvin(detail::literal<1000, 1, 0, false, Text...>());
}
/// `0.5_K`: a temperature difference; `3950_K`: a thermistor's Beta.
template <char... Text> constexpr TemperatureDifference operator""_K() {
    return TemperatureDifference::from_thousandths(detail::literal<1000, 1, 0, false, Text...>());
}
/// `2_degF_apart`: a temperature difference, rounded to the nearest thousandth of a kelvin.
template <char... Text> constexpr TemperatureDifference operator""_degF_apart() {
    return TemperatureDifference::from_thousandths(detail::literal<5000, 9, 0, true, Text...>());
}

} // namespace literals
} // namespace zorilla
