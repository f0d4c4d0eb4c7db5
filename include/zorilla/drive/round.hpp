// SPDX-License-Identifier: MIT
/// \file
/// Outputs one after the other: how a device shuts down, and how its outputs are tried alone.
#pragma once

#include "zorilla/decide/lasting.hpp"
#include "zorilla/drive/claim.hpp"
#include "zorilla/units/time.hpp"

#include <stdint.h>

namespace zorilla {

/// A shutdown in a stated order. RAM: five bytes.
///
///     ShutdownState shutdown;
///     shutdown.pass(2_s, 3, now, is_switched_off);
///     valve.drive(now, shutdown.claim(0, off), on_when(is_low));   // the first to go
///     lamp.drive(now, shutdown.claim(1, off), on_when(is_cold));   // 2 s later
class ShutdownState {
  public:
    /// One pass: how many outputs are to be shut down by now. It begins when `when` is yes, and
    /// ends when it is no; unknown leaves it as it is. `now` may wrap. \param gap  0 to 24 days
    [[gnu::always_inline]] constexpr uint8_t pass(Duration gap, uint8_t count, Instant now,
                                                  Truth when) {
        if (when == Truth::no) {
            reached_ = 0;
        } else if (reached_ == 0) {
            if (when == Truth::yes) {
                reached_ = 1;
                since_ = now;
            }
        }
        while (reached_ > 0 && reached_ < count && now - since_ >= gap) {
            ++reached_;
            since_ = since_ + gap;
        }
        return reached_;
    }
    /// Whether an output is to be shut down, by its place in the order, from 0.
    constexpr Truth of(uint8_t place) const { return truth_of(place < reached_); }
    /// The first claim of that output. \param then  what it is when it is shut down: off
    template <class V> constexpr ClaimOf<V> claim(uint8_t place, V then) const {
        return {of(place), then};
    }

  private:
    Instant since_{};
    uint8_t reached_ = 0;
};

/// Tries outputs alone: each in turn for a time, past claims and guards, while a person looks
/// whether it does what it should. RAM: six bytes.
///
///     SelfTestState test;
///     if (test.pass(2_s, 3, now, is_test_pressed))
///         board.set(lamp_pin, lamp_wiring.level(test.of(0)));
///     else
///         board.set(lamp_pin, lamp.level());
class SelfTestState {
  public:
    /// One pass: whether it goes on. It begins when `start` becomes yes and no test runs.
    [[gnu::always_inline]] constexpr bool pass(Duration each, uint8_t count, Instant now,
                                               Truth start) {
        const bool starts = start_.pass(start) == Truth::yes;
        if (turn_ == 0) {
            if (!starts)
                return false;
            turn_ = 1;
            since_ = now;
        }
        while (turn_ != 0 && now - since_ >= each) {
            turn_ = turn_ == count ? uint8_t{0} : static_cast<uint8_t>(turn_ + 1);
            since_ = since_ + each;
        }
        return turn_ != 0;
    }
    /// What an output does in the test, by its place in the order, from 0.
    constexpr OnOff of(uint8_t place) const { return turn_ == place + 1 ? on : off; }

  private:
    Instant since_{};
    uint8_t turn_ = 0;
    Edge start_;
};

} // namespace zorilla
