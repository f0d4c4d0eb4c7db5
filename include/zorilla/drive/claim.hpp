// SPDX-License-Identifier: MIT
/// \file
/// Claims: the ordered list of what an output is asked to do.
#pragma once

#include "zorilla/units/duty.hpp"
#include "zorilla/units/one_sentence.hpp"
#include "zorilla/units/reading.hpp"
#include "zorilla/units/truth.hpp"

#include <stdint.h>

namespace zorilla {

/// The value of an output that is either on or off.
enum class OnOff : uint8_t { off, on };

inline constexpr OnOff off = OnOff::off;
inline constexpr OnOff on = OnOff::on;

/// One line of an output's ordered wishes. \tparam V  what the output can be: on or off, a duty, a
/// colour, a tone
template <class V> struct ClaimOf {
    /// One that never holds.
    constexpr ClaimOf() = default;
    // With constructors, so that no list of claims takes a truth for the beginning of one.
    constexpr ClaimOf(Truth condition, V value) : when(condition), then(value) {}
    Truth when = Truth::no;
    V then{};
};
using Claim = ClaimOf<OnOff>;

/// Asks for on while `when` is yes.
constexpr Claim on_when(Truth when) { return Claim{when, on}; }
/// Asks for off while `when` is yes.
constexpr Claim off_when(Truth when) { return Claim{when, off}; }
/// Asks for a value while `when` is yes: `set_when(is_dusk, Duty(40_percent))`.
template <class V> constexpr ClaimOf<V> set_when(Truth when, V then) { return {when, then}; }
/// The same with a share of the whole: `set_when(is_dusk, 40_percent)`.
constexpr ClaimOf<Duty> set_when(Truth when, Percentage then) { return {when, Duty(then)}; }
/// Asks for what a curve says, as long as it says anything; unknown otherwise.
template <class V> constexpr ClaimOf<V> follow(Reading<V> reading) {
    return {reading.ok() ? Truth::yes : Truth::unknown, reading.value_or(V())};
}
template <class T> constexpr ClaimOf<Duty> follow(T) {
    static_assert(detail::is_same<T, detail::Anything>,
                  "follow() takes what a curve says of a reading: follow(speed.decide(heat))");
    return {Truth::unknown, Duty{}};
}
/// The same while `when` is yes.
template <class V> constexpr ClaimOf<V> follow_when(Truth when, Reading<V> reading) {
    return {when && follow(reading).when, reading.value_or(V())};
}

/// Which rule picked an output's value, or which guard held it back.
enum class Cause : uint8_t {
    rest,        ///< no claim holds: the rest value
    claim,       ///< the first claim that holds
    safe,        ///< a claim is unknown: the safe value
    minimum_on,  ///< it was on for too short a time to switch off
    minimum_off, ///< it was off for too short a time to switch on
    longest_on,  ///< it was on for as long as it may be
    warning,     ///< it warns before it switches
    interlock,   ///< another output, which it must never be on with, is on
    kick_start,  ///< a motor is started with more than it needs to go on
    ramp,        ///< it may change only so fast
    stalled,     ///< a motor has stopped by itself, and rests before it is tried again
    failed,      ///< it has been tried often enough; only a reset ends this
};

/// What the claims ask for, before the guards of the part.
template <class V> struct WishOf {
    V value{};
    Cause cause = Cause::rest;
    uint8_t claim = 0; ///< the number of the claim that settled it, from 0; with `Cause::rest`, 0
};
using Wish = WishOf<OnOff>;

/// Goes through the claims in their order: the first that is yes wins; one that is unknown, before
/// any is yes, asks for the safe value; where none holds, the rest value.
/// \param claim_at  gives claim number `i`; it is asked only for as many as are needed
template <class V, class ClaimAt>
[[gnu::always_inline]] constexpr WishOf<V> settle(V safe, V rest, ClaimAt claim_at, uint8_t count) {
    for (uint8_t i = 0; i < count; ++i) {
        const ClaimOf<V> claim = claim_at(i);
        if (claim.when == Truth::yes)
            return {claim.then, Cause::claim, i};
        if (claim.when == Truth::unknown)
            return {safe, Cause::safe, i};
    }
    return {rest, Cause::rest, 0};
}

namespace detail {

/// What these claims ask for; the compiler stops where one of them is something else.
template <class V, class... Claims>
[[gnu::always_inline]] constexpr WishOf<V> wish_of(V safe, V rest, Claims... claims) {
    static_assert(sizeof...(claims) > 0,
                  "say when this output does what: lamp.drive(now, on_when(is_cold))");
    constexpr bool are_claims = all_are<ClaimOf<V>, Claims...>;
    static_assert(are_claims || !is_same<V, OnOff>,
                  "an output that is on or off is driven by claims: write "
                  "lamp.drive(now, on_when(is_cold)), not lamp.drive(now, is_cold)");
    static_assert(are_claims || is_same<V, OnOff>,
                  "this output is driven by claims of what it can be: write "
                  "set_when(is_dusk, Duty(40_percent)) or follow(speed.decide(heat))");
    if constexpr (are_claims && sizeof...(claims) > 0) {
        const ClaimOf<V> list[] = {claims...};
        return settle(
            safe, rest, [&list](uint8_t i) { return list[i]; }, sizeof...(claims));
    } else {
        return {safe, Cause::safe, 0};
    }
}

} // namespace detail

} // namespace zorilla
