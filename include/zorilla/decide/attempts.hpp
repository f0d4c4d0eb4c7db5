// SPDX-License-Identifier: MIT
/// \file
/// Timed action: act, rest, look again; and stop after so many tries until somebody resets it.
#pragma once

#include "zorilla/decide/lasting.hpp"
#include "zorilla/units/one_sentence.hpp"
#include "zorilla/units/settable.hpp"
#include "zorilla/units/time.hpp"
#include "zorilla/units/truth.hpp"

#include <stdint.h>

namespace zorilla {

/// How long to act, how long to rest before looking again, and how often.
///
///     constexpr auto unjam = act_for(2_s).rest_for(5_s).tries(3);
///     constexpr auto mist = act_for(10_s).rest_for(20_min).longest_total(5_min);
///
/// - `act_for`: each action takes this long, even if its cause goes away meanwhile.
/// - `rest_for`: after each action this long nothing happens; then the cause is looked at again.
/// - `tries`: if the cause is still there after so many actions, it locks. Default: no limit.
/// - `longest_total`: if it has acted for this long in all since it last came to rest without a
///   cause, it locks. Default: no limit.
///
/// Times: 1 ms to 24 days.
class AttemptsSpec {
  public:
    constexpr explicit AttemptsSpec(Duration act) : act_(act) {}

    constexpr AttemptsSpec rest_for(Duration d) const {
        return detail::with(*this, &AttemptsSpec::rest_, d);
    }
    constexpr AttemptsSpec tries(uint8_t most) const {
        return detail::with(*this, &AttemptsSpec::tries_, most);
    }
    constexpr AttemptsSpec longest_total(Duration d) const {
        return detail::with(*this, &AttemptsSpec::longest_total_, d);
    }

    constexpr Duration act() const { return act_; }
    constexpr Duration rest() const { return rest_; }
    constexpr uint8_t tries() const { return tries_; }
    constexpr Duration longest_total() const { return longest_total_; }

    /// Whether acting and resting take some time, at most 24 days.
    constexpr bool times_can_be_told() const {
        return act_ > Duration{} && act_ <= longest && rest_ > Duration{} && rest_ <= longest &&
               longest_total_ >= Duration{} && longest_total_ <= longest;
    }
    /// Whether the longest total, if any, leaves room for one action.
    constexpr bool total_makes_sense() const {
        return longest_total_ == Duration{} || longest_total_ >= act_;
    }

  private:
    static constexpr Duration longest = 24_h * 24;
    Duration act_;
    Duration rest_{};
    uint8_t tries_ = 0;
    Duration longest_total_{};
};

/// Starts an `AttemptsSpec`; it needs a `rest_for` too.
constexpr AttemptsSpec act_for(Duration d) { return AttemptsSpec(d); }

/// What a timed action is doing.
enum class Attempting : uint8_t {
    idle, ///< there is no cause
    acting,
    resting, ///< until the cause is looked at again
    locked,  ///< it has tried often or long enough; only a reset ends this
};

namespace detail {
/// How long a timed action has acted in all; nothing where nobody asks.
template <bool> struct ActedTime {
    constexpr void add(Duration) {}
    constexpr bool has_room_for(const AttemptsSpec&) const { return true; }
};
template <> struct ActedTime<true> {
    Duration total{};
    constexpr void add(Duration spent) { total = total + spent; }
    constexpr bool has_room_for(const AttemptsSpec& spec) const {
        return spec.longest_total() == Duration{} || total + spec.act() <= spec.longest_total();
    }
};
} // namespace detail

/// The memory of one timed action. \tparam Totals  whether it may have a `longest_total`
template <bool Totals> class AttemptsStateOf : detail::ActedTime<Totals> {
  public:
    /// One pass. A cause that is unknown ends an action and is answered by a rest, after which it
    /// is looked at again; it neither starts an action nor locks. Passes must be less than 24 days
    /// apart.
    /// \param reset  in the pass in which it becomes yes: as at power-up
    [[gnu::always_inline]] constexpr Attempting pass(const AttemptsSpec& spec, Instant now,
                                                     Truth cause, Truth reset) {
        if (reset_.pass(reset) == Truth::yes) {
            doing_ = Attempting::idle;
            forget();
        }
        const Elapsed spent = now - since_;
        switch (doing_) {
        case Attempting::idle:
            if (cause == Truth::yes)
                begin(Attempting::acting, now);
            break;
        case Attempting::acting:
            if (cause == Truth::unknown || spent >= spec.act()) {
                this->add(spent);
                if (done_ < 255)
                    ++done_;
                begin(Attempting::resting, now);
            }
            break;
        case Attempting::resting:
            if (spent < spec.rest())
                break;
            if (cause == Truth::unknown) {
                // A rest that is over stays over, though the clock wraps before the cause is known.
                since_ = now + (Duration{} - spec.rest());
            } else if (cause == Truth::no) {
                doing_ = Attempting::idle;
                forget();
            } else if ((spec.tries() != 0 && done_ >= spec.tries()) || !this->has_room_for(spec)) {
                doing_ = Attempting::locked;
            } else {
                begin(Attempting::acting, now);
            }
            break;
        case Attempting::locked: break;
        }
        return doing_;
    }

    constexpr Attempting doing() const { return doing_; }
    /// How many actions there were since it was last idle.
    constexpr uint8_t done() const { return done_; }

  private:
    constexpr void begin(Attempting what, Instant now) {
        doing_ = what;
        since_ = now;
    }
    constexpr void forget() {
        done_ = 0;
        static_cast<detail::ActedTime<Totals>&>(*this) = {};
    }

    Instant since_{};
    Attempting doing_ = Attempting::idle;
    uint8_t done_ = 0;
    Edge reset_;
};
/// One that may have everything, for the desk.
using AttemptsState = AttemptsStateOf<true>;

/// Whether to act: unknown while the cause is, unless it is locked.
constexpr Truth acts(Attempting doing, bool cause_is_unknown) {
    return doing == Attempting::locked ? Truth::no
           : cause_is_unknown          ? Truth::unknown
                                       : truth_of(doing == Attempting::acting);
}

/// A timed action whose times are constants of the program. RAM: eight bytes;
/// twelve with `longest_total`.
///
///     Attempts<unjam> shake;
///     shake.pass(now, hatch_is_stuck, reset_is_pressed);
///     motor.drive(now, on_when(shake.acts()));
///     alarm.drive(now, on_when(shake.is_locked()));
template <const auto& Spec, bool = detail::is_constant<Spec>> class Attempts {
    static_assert(Spec.times_can_be_told(),
                  "a timed action needs act_for and rest_for, each from 1 ms to 24 days");
    static_assert(Spec.total_makes_sense(), "longest_total must leave room for one action");

  public:
    constexpr Attempting pass(Instant now, Truth cause, Truth reset = Truth::no) {
        unknown_ = cause == Truth::unknown;
        return state_.pass(Spec, now, cause, reset);
    }
    /// Whether to act: unknown while the cause is, unless it is locked.
    constexpr Truth acts() const { return zorilla::acts(state_.doing(), unknown_); }
    constexpr Truth is_locked() const { return truth_of(state_.doing() == Attempting::locked); }

  private:
    AttemptsStateOf<(Spec.longest_total() > Duration{})> state_;
    bool unknown_ = false;
};
template <const auto& Spec> class Attempts<Spec, false> : public detail::NotMade<Spec> {};

} // namespace zorilla
