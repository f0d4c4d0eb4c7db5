// SPDX-License-Identifier: MIT
/// \file
/// Claims: the ordered list of what an output is asked to do.
#pragma once

#include "zorilla/units/duty.hpp"
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
    Truth when;
    V then;
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

} // namespace zorilla
