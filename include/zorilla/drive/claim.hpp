// SPDX-License-Identifier: MIT
/// \file
/// Claims: the ordered list of what an output is asked to do.
#pragma once

#include "zorilla/units/truth.hpp"

#include <stdint.h>

namespace zorilla {

/// The value of an output that is either on or off.
enum class OnOff : uint8_t { off, on };

inline constexpr OnOff off = OnOff::off;
inline constexpr OnOff on = OnOff::on;

/// One line of an output's ordered wishes.
struct Claim {
    Truth when;
    OnOff then;
};

/// Asks for on while `when` is yes.
constexpr Claim on_when(Truth when) { return Claim{when, on}; }
/// Asks for off while `when` is yes.
constexpr Claim off_when(Truth when) { return Claim{when, off}; }

/// Which rule picked an output's value, or which guard held it back.
enum class Cause : uint8_t {
    rest,        ///< no claim holds: the rest value
    claim,       ///< the first claim that holds
    safe,        ///< a claim is unknown: the safe value
    minimum_on,  ///< it was on for too short a time to switch off
    minimum_off, ///< it was off for too short a time to switch on
    longest_on,  ///< it was on for as long as it may be
};

/// What the claims ask for, before the guards of the part.
struct Wish {
    OnOff value = off;
    Cause cause = Cause::rest;
    uint8_t claim = 0; ///< the number of the claim that settled it, from 0; with `Cause::rest`, 0
};

/// Goes through the claims in their order: the first that is yes wins; one that is unknown, before
/// any is yes, asks for the safe value; where none holds, the rest value.
/// \param claim_at  gives claim number `i`; it is asked only for as many as are needed
template <class ClaimAt>
[[gnu::always_inline]] constexpr Wish settle(OnOff safe, OnOff rest, ClaimAt claim_at,
                                             uint8_t count) {
    for (uint8_t i = 0; i < count; ++i) {
        const Claim claim = claim_at(i);
        if (claim.when == Truth::yes)
            return Wish{claim.then, Cause::claim, i};
        if (claim.when == Truth::unknown)
            return Wish{safe, Cause::safe, i};
    }
    return Wish{rest, Cause::rest, 0};
}

} // namespace zorilla
