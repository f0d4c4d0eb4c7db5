// SPDX-License-Identifier: MIT
/// \file
/// A person who takes an output over for a while.
#pragma once

#include "zorilla/drive/claim.hpp"
#include "zorilla/units/time.hpp"

#include <stdint.h>

namespace zorilla {

/// The memory of one output that may be taken over.
class HandState {
  public:
    /// One pass. A press of `take` takes over, the next one hands back, and so does the time.
    /// Unknown does neither, so that a broken button changes nothing. `now` may wrap.
    [[gnu::always_inline]] constexpr Truth pass(Duration longest, Instant now, Truth take) {
        const bool pressed = take == Truth::yes && !was_;
        if (take != Truth::unknown)
            was_ = take == Truth::yes;
        if (taken_)
            taken_ = !pressed && now - since_ < longest;
        else if (pressed)
            begin(now);
        return is_taken();
    }
    /// One that is handed back by `back`; a further press of `take` begins the time anew.
    [[gnu::always_inline]] constexpr Truth pass(Duration longest, Instant now, Truth take,
                                                Truth back) {
        const bool pressed = take == Truth::yes && !was_;
        if (take != Truth::unknown)
            was_ = take == Truth::yes;
        if (back == Truth::yes || (taken_ && now - since_ >= longest))
            taken_ = false;
        else if (pressed)
            begin(now);
        return is_taken();
    }
    constexpr Truth is_taken() const { return truth_of(taken_); }

    static constexpr Duration longest_time = 24_h * 24;

  private:
    constexpr void begin(Instant now) {
        taken_ = true;
        since_ = now;
    }

    Instant since_{};
    bool taken_ = false;
    bool was_ = false;
};

/// A take-over that ends by itself after a time, a constant of the program. Its claim stands first
/// among those of the output; the guards of the part hold for a person too. RAM: six bytes.
///
///     constexpr auto quarter_hour = 15_min;
///     Hand<quarter_hour> hand;
///     blower.drive(now, hand.claim(now, is_pressed, Duty(100_percent)), follow(air));
template <const Duration& Longest> class Hand {
    static_assert(Longest > Duration{} && Longest <= HandState::longest_time,
                  "a take-over must end by itself, after 1 ms to 24 days");

  public:
    /// Pressed once it takes over, pressed again it hands back.
    template <class V>
    [[gnu::always_inline]] constexpr ClaimOf<V> claim(Instant now, Truth take, V then) {
        return {state_.pass(Longest, now, take), then};
    }
    /// With something else that hands back.
    template <class V>
    [[gnu::always_inline]] constexpr ClaimOf<V> claim(Instant now, Truth take, Truth back, V then) {
        return {state_.pass(Longest, now, take, back), then};
    }
    constexpr Truth is_taken() const { return state_.is_taken(); }

  private:
    HandState state_;
};

} // namespace zorilla
