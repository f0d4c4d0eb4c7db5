// SPDX-License-Identifier: MIT
/// \file
/// A person who takes an output over for a while.
#pragma once

#include "zorilla/decide/lasting.hpp"
#include "zorilla/drive/claim.hpp"
#include "zorilla/units/one_sentence.hpp"
#include "zorilla/units/time.hpp"

#include <stdint.h>

namespace zorilla {

/// The memory of one output that may be taken over, in one sense or in several in turn.
class HandState {
  public:
    /// One pass. A press of `take` takes over, a further one goes on to the next of `senses`; the
    /// one after the last hands back, and so does the time, which begins anew with each press.
    /// Unknown does nothing, so that a broken button changes nothing, and a button that is held at
    /// power-up was not pressed. `now` may wrap.
    [[gnu::always_inline]] constexpr Truth pass(Duration longest, Instant now, Truth take,
                                                uint8_t senses = 1) {
        const bool over = is_over(longest, now);
        const bool pressed = press_.pass(take) == Truth::yes;
        if (over)
            sense_ = 0;
        else if (pressed)
            go(now, sense_ == senses ? uint8_t{0} : static_cast<uint8_t>(sense_ + 1));
        return is_taken();
    }
    /// One that is handed back while `back` is yes; a press after the last sense takes the first.
    [[gnu::always_inline]] constexpr Truth pass(Duration longest, Instant now, Truth take,
                                                Truth back, uint8_t senses = 1) {
        const bool over = is_over(longest, now);
        const bool pressed = press_.pass(take) == Truth::yes;
        if (back == Truth::yes || over)
            sense_ = 0;
        else if (pressed)
            go(now, sense_ == senses ? uint8_t{1} : static_cast<uint8_t>(sense_ + 1));
        return is_taken();
    }
    constexpr Truth is_taken() const { return truth_of(sense_ != 0); }
    /// Which sense, from 0; only while it is taken over.
    constexpr uint8_t sense() const { return static_cast<uint8_t>(sense_ - 1); }

    static constexpr Duration longest_time = 24_h * 24;

  private:
    constexpr bool is_over(Duration longest, Instant now) const {
        return sense_ != 0 && now - since_ >= longest;
    }
    constexpr void go(Instant now, uint8_t sense) {
        sense_ = sense;
        since_ = now;
    }

    Instant since_{};
    uint8_t sense_ = 0; ///< 0: it is not taken over
    Edge press_;
};

/// A take-over that ends by itself after a time, a constant of the program. Its claim stands first
/// among those of the output; the guards of the part hold for a person too. RAM: six bytes.
///
///     constexpr auto quarter_hour = 15_min;
///     Hand<quarter_hour> hand;
///     blower.drive(now, hand.claim(now, is_pressed, Duty(100_percent)), follow(air));
template <const Duration& Longest, bool = detail::is_constant<Longest>> class Hand {
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
    /// One press for the first value, the next for the second, and a third hands back:
    /// `hand.in_turn(now, is_pressed, on, off)`.
    template <class V>
    [[gnu::always_inline]] constexpr ClaimOf<V> in_turn(Instant now, Truth take, V first,
                                                        V second) {
        const Truth taken = state_.pass(Longest, now, take, uint8_t{2});
        return {taken, state_.sense() == 1 ? second : first};
    }
    constexpr Truth is_taken() const { return state_.is_taken(); }

  private:
    HandState state_;
};
template <const Duration& Longest> class Hand<Longest, false> : public detail::NotMade<Longest> {};

} // namespace zorilla
