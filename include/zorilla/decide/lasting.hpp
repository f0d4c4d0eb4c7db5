// SPDX-License-Identifier: MIT
/// \file
/// Truths that must last before they count, edges of truths, and how often there was one.
#pragma once

#include "zorilla/units/one_sentence.hpp"
#include "zorilla/units/time.hpp"
#include "zorilla/units/truth.hpp"

#include <stdint.h>

namespace zorilla {

/// How long a truth must be yes, and how long no, before it counts. 0 to 24 days each.
///
///     constexpr auto slow = lasting(30_s);           // yes for half a minute; no at once
///     constexpr auto calm = lasting(30_s, 2_min);    // and no for two minutes
struct LastingSpec {
    Duration yes_for;
    Duration no_for;

    constexpr bool times_can_be_told() const {
        return yes_for >= Duration{} && no_for >= Duration{} && yes_for <= 24_h * 24 &&
               no_for <= 24_h * 24;
    }
};
constexpr LastingSpec lasting(Duration yes_for, Duration no_for = Duration{}) {
    return {yes_for, no_for};
}

/// The memory of one such truth; starts as no.
class LastingState {
  public:
    /// One pass. An unknown goes through at once, and what was being waited for begins anew: only
    /// what was known all the time has lasted. Passes must be less than 24 days apart.
    [[gnu::always_inline]] constexpr Truth pass(const LastingSpec& spec, Instant now, Truth truth) {
        if (truth == Truth::unknown) {
            waits_ = false;
            return truth;
        }
        const bool yes = truth == Truth::yes;
        if (yes == holds_) {
            waits_ = false;
        } else {
            if (!waits_) {
                waits_ = true;
                since_ = now;
            }
            // Not chosen before it is compared, or a small chip would keep both times in RAM.
            if (yes ? now - since_ >= spec.yes_for : now - since_ >= spec.no_for) {
                holds_ = yes;
                waits_ = false;
            }
        }
        return truth_of(holds_);
    }

  private:
    Instant since_{};
    bool holds_ = false;
    bool waits_ = false;
};

/// A truth that must last for a constant time. RAM: six bytes.
///
///     Lasting<slow> wind_is_up;
///     const Truth up = wind_is_up.pass(now, gust);
template <const auto& Spec, bool = detail::is_constant<Spec>> class Lasting {
    static_assert(Spec.times_can_be_told(), "these times must lie between 0 and 24 days");

  public:
    [[gnu::always_inline]] constexpr Truth pass(Instant now, Truth truth) {
        return state_.pass(Spec, now, truth);
    }

  private:
    LastingState state_;
};
template <const auto& Spec> class Lasting<Spec, false> : public detail::NotMade<Spec> {};

/// When a truth becomes yes. RAM: one byte.
class Edge {
  public:
    /// Yes in the pass in which `truth` has become yes; unknown while it is unknown. What was yes
    /// before an unknown and is yes after it is no new edge, and neither is a yes at power-up: a
    /// button that is held then was not pressed.
    constexpr Truth pass(Truth truth) {
        if (truth == Truth::unknown)
            return truth;
        const bool rises = truth == Truth::yes && !was_yes_;
        was_yes_ = truth == Truth::yes;
        return truth_of(rises);
    }

  private:
    bool was_yes_ = true;
};

/// How often a truth has become yes, up to a number. RAM: four bytes.
///
///     Counter<3> slams;
///     const Truth enough = slams.pass(door_is_shut, reset_is_pressed);
class CounterState {
  public:
    /// Yes once there were `enough` edges since the last reset; counting stops there. An unknown
    /// counts nothing. A reset counts when it becomes yes, and wins over an edge in the same pass.
    constexpr Truth pass(uint16_t enough, Truth truth, Truth reset) {
        const bool rises = edge_.pass(truth) == Truth::yes;
        if (reset_.pass(reset) == Truth::yes)
            count_ = 0;
        else if (rises && count_ < enough)
            ++count_;
        return truth_of(count_ >= enough);
    }
    constexpr uint16_t count() const { return count_; }

  private:
    Edge edge_;
    Edge reset_;
    uint16_t count_ = 0;
};
template <uint16_t Enough> class Counter {
    static_assert(Enough > 0, "a counter must have something to count to");

  public:
    constexpr Truth pass(Truth truth, Truth reset = Truth::no) {
        return state_.pass(Enough, truth, reset);
    }
    constexpr uint16_t count() const { return state_.count(); }

  private:
    CounterState state_;
};

} // namespace zorilla
