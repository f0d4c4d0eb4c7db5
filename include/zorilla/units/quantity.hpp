// SPDX-License-Identifier: MIT
/// \file
/// Quantities: strong types over `int32_t` in thousandths of a unit.
#pragma once

#include "zorilla/units/compiler.hpp"

#include "zorilla/units/decimal.hpp"

#include <stdint.h>

namespace zorilla {

namespace detail {

/// Not `constexpr` on purpose: reaching it while the compiler evaluates a constant is an error
/// whose message shows this name.
inline void overflow_in_a_constant() {}

/// `value`, or, if computing it overflowed, the end of the range on that side. In a constant an
/// overflow is a compile-time error.
constexpr int32_t or_saturated(bool overflowed, int32_t value, bool towards_minus) {
    if (!overflowed)
        return value;
    if (__builtin_is_constant_evaluated())
        overflow_in_a_constant();
    return towards_minus ? detail::smallest_int32 : detail::largest_int32;
}

constexpr int32_t add(int32_t a, int32_t b) {
    int32_t sum = 0;
    const bool overflowed = __builtin_add_overflow(a, b, &sum);
    return or_saturated(overflowed, sum, a < 0);
}

constexpr int32_t subtract(int32_t a, int32_t b) {
    int32_t difference = 0;
    const bool overflowed = __builtin_sub_overflow(a, b, &difference);
    return or_saturated(overflowed, difference, a < 0);
}

constexpr int32_t multiply(int32_t a, int32_t b) {
    int32_t product = 0;
    const bool overflowed = __builtin_mul_overflow(a, b, &product);
    return or_saturated(overflowed, product, (a < 0) != (b < 0));
}

/// How far a number is from 0; right for the smallest too.
constexpr uint32_t size_of_number(int32_t x) {
    return x < 0 ? 0U - static_cast<uint32_t>(x) : static_cast<uint32_t>(x);
}

/// Cuts a 64-bit result to 32 bits, saturating.
constexpr int32_t narrow(int64_t wide) {
    const bool fits = wide >= detail::smallest_int32 && wide <= detail::largest_int32;
    return or_saturated(!fits, fits ? static_cast<int32_t>(wide) : 0, wide < 0);
}

} // namespace detail

/// An amount in thousandths of `Unit`, such as `Duration` or `Resistance`.
///
/// Sums and products never wrap round: in a constant an overflow does not compile, at run time the
/// value stays at the end of its range, `is_saturated()` tells so, and a `Reading` made from it is
/// out of range.
///
///     constexpr Duration rest = 2_min + 30_s;
///     static_assert(rest == 150_s);
template <class Unit> class Quantity {
  public:
    constexpr Quantity() = default;

    /// From an integer in thousandths of the unit.
    static constexpr Quantity from_thousandths(int32_t thousandths) {
        Quantity out;
        out.thousandths_ = thousandths;
        return out;
    }

    /// The integer in thousandths of the unit.
    constexpr int32_t thousandths() const { return thousandths_; }

    /// Whether this value has run into an end of the 32-bit range.
    constexpr bool is_saturated() const {
        return thousandths_ == detail::largest_int32 || thousandths_ == detail::smallest_int32;
    }

    friend constexpr Quantity operator+(Quantity a, Quantity b) {
        return from_thousandths(detail::add(a.thousandths_, b.thousandths_));
    }
    friend constexpr Quantity operator-(Quantity a, Quantity b) {
        return from_thousandths(detail::subtract(a.thousandths_, b.thousandths_));
    }
    friend constexpr Quantity operator-(Quantity a) { return Quantity{} - a; }
    friend constexpr Quantity operator*(Quantity a, int32_t times) {
        return from_thousandths(detail::multiply(a.thousandths_, times));
    }
    friend constexpr Quantity operator*(int32_t times, Quantity a) { return a * times; }

    friend constexpr bool operator==(Quantity a, Quantity b) {
        return a.thousandths_ == b.thousandths_;
    }
    friend constexpr bool operator!=(Quantity a, Quantity b) { return !(a == b); }
    friend constexpr bool operator<(Quantity a, Quantity b) {
        return a.thousandths_ < b.thousandths_;
    }
    friend constexpr bool operator>(Quantity a, Quantity b) { return b < a; }
    friend constexpr bool operator<=(Quantity a, Quantity b) { return !(b < a); }
    friend constexpr bool operator>=(Quantity a, Quantity b) { return !(a < b); }

  private:
    int32_t thousandths_ = 0;
};

namespace unit {
struct Kelvin {};
struct Kiloohm {};
struct Millivolt {};
struct MillivoltPerKelvin {};
struct Second {};
struct Percent {};
struct PercentPerKelvin {};
struct PercentRelativeHumidity {};
struct MillivoltPerPercent {};
struct Lux {};
struct NanoamperePerLux {};
struct Millimetre {};
struct PartPerMillion {};
struct TurnPerMinute {};
struct Hertz {};
struct GramPerCubicMetre {};
struct CubicMetrePerHour {};
struct Watt {};
struct Count {};
struct PartPerThousand {};
struct Times {};
template <class Unit> struct PerMinute {};
} // namespace unit

/// Electrical resistance, stored in ohms (thousandths of a kiloohm), up to 2.1 Gohm.
using Resistance = Quantity<unit::Kiloohm>;

/// Voltage, stored in microvolts (thousandths of a millivolt), up to 2,147 V.
using Voltage = Quantity<unit::Millivolt>;

/// How much a voltage changes with temperature, stored in microvolts per kelvin.
using VoltagePerKelvin = Quantity<unit::MillivoltPerKelvin>;

/// A share of a whole, stored in thousandths of a percent.
using Percentage = Quantity<unit::Percent>;

/// How much of its value a part loses with each kelvin, stored in thousandths of a percent.
using PercentPerKelvin = Quantity<unit::PercentPerKelvin>;

/// Relative humidity, stored in thousandths of a percent; 100 % is saturated air.
using RelativeHumidity = Quantity<unit::PercentRelativeHumidity>;

/// How much a voltage changes with relative humidity, stored in microvolts per percent.
using VoltagePerPercent = Quantity<unit::MillivoltPerPercent>;

/// Illuminance, stored in millilux, up to 2,147 klx.
using Illuminance = Quantity<unit::Lux>;

/// What a phototransistor lets through, stored in picoampere per lux.
using CurrentPerLux = Quantity<unit::NanoamperePerLux>;

/// A length, stored in micrometres (thousandths of a millimetre), up to 2,147 m.
using Length = Quantity<unit::Millimetre>;

/// A concentration by volume, stored in thousandths of a part per million.
using Concentration = Quantity<unit::PartPerMillion>;

/// How fast something turns, stored in thousandths of a turn per minute.
using TurningSpeed = Quantity<unit::TurnPerMinute>;

/// How often something happens, stored in thousandths of a hertz.
using Frequency = Quantity<unit::Hertz>;

/// The water in air, stored in milligrams per cubic metre.
using AbsoluteHumidity = Quantity<unit::GramPerCubicMetre>;

/// A stream of air, stored in litres per hour (thousandths of a cubic metre per hour).
using AirFlow = Quantity<unit::CubicMetrePerHour>;

/// Power, stored in milliwatts, up to 2.1 MW.
using Power = Quantity<unit::Watt>;

/// A bare ratio, stored in thousandths.
using Ratio = Quantity<unit::Times>;
/// A small ratio, stored in millionths.
using Permille = Quantity<unit::PartPerThousand>;
/// Codes of a converter as they are.
using Counts = Quantity<unit::Count>;

inline namespace literals {

/// `10_kohm`, `4.7_kohm`: a resistance.
template <char... Text> constexpr Resistance operator""_kohm() {
    return Resistance::from_thousandths(detail::literal<1000, 1, 0, false, Text...>());
}
/// `330_ohm`: a resistance, in whole ohms.
template <char... Text> constexpr Resistance operator""_ohm() {
    return Resistance::from_thousandths(detail::literal<1, 1, 0, false, Text...>());
}

/// `500_mV`: a voltage.
template <char... Text> constexpr Voltage operator""_mV() {
    return Voltage::from_thousandths(detail::literal<1000, 1, 0, false, Text...>());
}
/// `3.3_V`: a voltage.
template <char... Text> constexpr Voltage operator""_V() {
    return Voltage::from_thousandths(detail::literal<1'000'000, 1, 0, false, Text...>());
}
/// `10_mV_per_K`: a slope, the same for each degree Celsius.
template <char... Text> constexpr VoltagePerKelvin operator""_mV_per_K() {
    return VoltagePerKelvin::from_thousandths(detail::literal<1000, 1, 0, false, Text...>());
}
/// `1.5_Mohm`: a resistance.
template <char... Text> constexpr Resistance operator""_Mohm() {
    return Resistance::from_thousandths(detail::literal<1'000'000, 1, 0, false, Text...>());
}
/// `40_percent`: a share of a whole.
template <char... Text> constexpr Percentage operator""_percent() {
    return Percentage::from_thousandths(detail::literal<1000, 1, 0, false, Text...>());
}
/// `0.22_percent_per_K`: how much of its value a part loses with each kelvin.
template <char... Text> constexpr PercentPerKelvin operator""_percent_per_K() {
    return PercentPerKelvin::from_thousandths(detail::literal<1000, 1, 0, false, Text...>());
}
/// `65_percent_RH`: a relative humidity.
template <char... Text> constexpr RelativeHumidity operator""_percent_RH() {
    return RelativeHumidity::from_thousandths(detail::literal<1000, 1, 0, false, Text...>());
}
/// `31_mV_per_percent`: a slope over relative humidity.
template <char... Text> constexpr VoltagePerPercent operator""_mV_per_percent() {
    return VoltagePerPercent::from_thousandths(detail::literal<1000, 1, 0, false, Text...>());
}
/// `200_lx`: an illuminance.
template <char... Text> constexpr Illuminance operator""_lx() {
    return Illuminance::from_thousandths(detail::literal<1000, 1, 0, false, Text...>());
}
/// `500_nA_per_lx`: a phototransistor's sensitivity.
template <char... Text> constexpr CurrentPerLux operator""_nA_per_lx() {
    return CurrentPerLux::from_thousandths(detail::literal<1000, 1, 0, false, Text...>());
}
/// `25_mm`: a length.
template <char... Text> constexpr Length operator""_mm() {
    return Length::from_thousandths(detail::literal<1000, 1, 0, false, Text...>());
}
/// `40_cm`: a length.
template <char... Text> constexpr Length operator""_cm() {
    return Length::from_thousandths(detail::literal<10'000, 1, 0, false, Text...>());
}
/// `1.2_m`: a length.
template <char... Text> constexpr Length operator""_m() {
    return Length::from_thousandths(detail::literal<1'000'000, 1, 0, false, Text...>());
}
/// `46.4_permille`: a small ratio.
template <char... Text> constexpr Permille operator""_permille() {
    return Permille::from_thousandths(detail::literal<1000, 1, 0, false, Text...>());
}
/// `512_counts`: codes of a converter as they are.
template <char... Text> constexpr Counts operator""_counts() {
    return Counts::from_thousandths(detail::literal<1000, 1, 0, false, Text...>());
}
/// `400_ppm`: a concentration by volume.
template <char... Text> constexpr Concentration operator""_ppm() {
    return Concentration::from_thousandths(detail::literal<1000, 1, 0, false, Text...>());
}
/// `1200_rpm`: a turning speed.
template <char... Text> constexpr TurningSpeed operator""_rpm() {
    return TurningSpeed::from_thousandths(detail::literal<1000, 1, 0, false, Text...>());
}
/// `50_Hz`: a frequency.
template <char... Text> constexpr Frequency operator""_Hz() {
    return Frequency::from_thousandths(detail::literal<1000, 1, 0, false, Text...>());
}
/// `9.4_g_per_m3`: water in air.
template <char... Text> constexpr AbsoluteHumidity operator""_g_per_m3() {
    return AbsoluteHumidity::from_thousandths(detail::literal<1000, 1, 0, false, Text...>());
}
/// `80_m3_per_h`: a stream of air.
template <char... Text> constexpr AirFlow operator""_m3_per_h() {
    return AirFlow::from_thousandths(detail::literal<1000, 1, 0, false, Text...>());
}
/// `150_W`: a power.
template <char... Text> constexpr Power operator""_W() {
    return Power::from_thousandths(detail::literal<1000, 1, 0, false, Text...>());
}
/// `3.6_times`: a ratio.
template <char... Text> constexpr Ratio operator""_times() {
    return Ratio::from_thousandths(detail::literal<1000, 1, 0, false, Text...>());
}

} // namespace literals
} // namespace zorilla
