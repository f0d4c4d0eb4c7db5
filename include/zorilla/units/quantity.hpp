// SPDX-License-Identifier: MIT
/// \file
/// Quantities: strong types over `int32_t` in thousandths of a unit.
#pragma once

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
} // namespace unit

/// Electrical resistance, stored in ohms (thousandths of a kiloohm), up to 2.1 Gohm.
using Resistance = Quantity<unit::Kiloohm>;

/// Voltage, stored in microvolts (thousandths of a millivolt), up to 2,147 V.
using Voltage = Quantity<unit::Millivolt>;

/// How much a voltage changes with temperature, stored in microvolts per kelvin.
using VoltagePerKelvin = Quantity<unit::MillivoltPerKelvin>;

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

} // namespace literals
} // namespace zorilla
