// SPDX-License-Identifier: MIT
/// \file
/// What makes the compiler say one sentence of a mistake in a device, and no more than that.
///
///     auto wiring = relay(active_low).safe(off); // `constexpr` is missing
///     Relay<wiring> lamp;                        // error: ... write constexpr auto ...
///     lamp.drive(now, on_when(is_cold));         // nothing is said of this line
#pragma once

#include "zorilla/units/compiler.hpp"

namespace zorilla::detail {

template <class A, class B> inline constexpr bool is_same = false;
template <class A> inline constexpr bool is_same<A, A> = true;
/// Whether all of them are one type.
template <class Wanted, class... Given>
inline constexpr bool all_are = (is_same<Wanted, Given> && ... && true);

template <class T> T given();
template <class To> constexpr bool wants(To) { return true; }
template <class To, class From, class = bool> inline constexpr bool is_taken_as = false;
/// Whether a `From` may stand where a `To` is wanted.
template <class To, class From>
inline constexpr bool is_taken_as<To, From, decltype(wants<To>(given<From>()))> = true;

/// The other, where it is a `T` as well.
template <class T, class Other> constexpr T this_or(T instead, Other other) {
    if constexpr (is_same<T, Other>)
        return other;
    else
        return instead;
}

/// Whether a point is of the quantity of the others, or passes for it; else the compiler stops.
template <class Wanted, class... Given> constexpr bool are_of_one_kind() {
    constexpr bool of_one_kind = (is_taken_as<Wanted, Given> && ... && true);
    static_assert(of_one_kind, "these are of two kinds: 4_degC is a temperature and 4_K a "
                               "difference, 80_percent is a share and 80_percent_RH a humidity; "
                               "write all of them as what the reading is");
    return of_one_kind;
}

/// What a block gives that could not be made: it passes for whatever is wanted of it.
struct Anything {
    // Never run, since what gives it does not compile.
    template <class T> operator T() const {
        while (true) {
        }
    }
    template <class T> friend bool operator==(Anything, const T&) { return false; }
    template <class T> friend bool operator!=(Anything, const T&) { return false; }
};
/// Stops the compiler where something else is judged than a reading.
template <class T> constexpr void expect_reading() {
    static_assert(is_same<T, Anything>, "decide() takes a reading, which a sensor makes of a "
                                        "sample: cold.decide(roost.read(sample))");
}

template <bool> struct Known {};
template <class T> constexpr bool can_be_copied(T) { return true; }
/// Whether the compiler knows the value of a spec.
template <const auto& Spec, class = Known<true>> inline constexpr bool is_constant = false;
template <const auto& Spec>
inline constexpr bool is_constant<Spec, Known<can_be_copied(Spec)>> = true;

/// Stands in for a block whose spec is no constant. It has what any block has, so that nothing
/// more is said where it is used.
template <const auto& Spec> struct NotMade {
    static_assert(is_constant<Spec>,
                  "what a block is made of must be known while it is compiled: write constexpr "
                  "auto for it, outside of any function: constexpr auto wiring = relay(...);");

    template <class... T> Anything drive(T...) { return {}; }
    template <class... T> Anything drive_unless(T...) { return {}; }
    template <class... T> Anything decide(T...) { return {}; }
    template <class... T> Anything read(T...) { return {}; }
    template <class... T> Anything pass(T...) { return {}; }
    template <class... T> Anything claim(T...) { return {}; }
    template <class... T> Anything value(T...) const { return {}; }
    template <class... T> Anything in(T...) const { return {}; }
    template <class... T> Anything level(T...) const { return {}; }
    template <class... T> Anything high_for(T...) const { return {}; }
};

} // namespace zorilla::detail
