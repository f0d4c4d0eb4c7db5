// SPDX-License-Identifier: MIT
/// \file
/// Fans, pumps and other motors on PWM: kick start, ramp, and what to do when one stands still.
#pragma once

#include "zorilla/decide/lasting.hpp"
#include "zorilla/drive/fade.hpp"
#include "zorilla/drive/output.hpp"
#include "zorilla/units/compiler.hpp"
#include "zorilla/units/one_sentence.hpp"
#include "zorilla/units/settable.hpp"
#include "zorilla/units/time.hpp"

#include <stdint.h>

namespace zorilla {

/// A motor and what its part needs.
///
///     constexpr auto blower = fan().safe(100_percent).kick(100_percent, 500_ms).ramp(4_s)
///                                  .stall_after(3_s).rest_when_stalled(10_s).tries(3);
///
/// - `safe`: its duty when a claim is unknown. No default.
/// - `rest`: its duty when no claim holds. Default: none.
/// - `kick`: from standstill it gets at least this duty for this long, so that it starts.
/// - `ramp`: from nothing to full, or back, takes at least this long. A kick is not ramped: it
///   gives its own duty at once, and the ramp goes on from there. Switching off is not ramped.
/// - `stall_after`: driven, and with no pulse for this long, it has stalled; it is switched off,
///   rests for `rest_when_stalled`, and is tried again, `tries` times in a row. Then it has failed
///   and stays off until the reset. Without `stall_after` nobody looks.
class FanSpec {
  public:
    constexpr FanSpec safe(Duty value) const {
        return detail::with(*this, &FanSpec::safe_, value, &FanSpec::safe_given_, true);
    }
    constexpr FanSpec rest(Duty value) const { return detail::with(*this, &FanSpec::rest_, value); }
    constexpr FanSpec kick(Duty least, Duration time) const {
        return detail::with(*this, &FanSpec::kick_, least, &FanSpec::kick_time_, time);
    }
    constexpr FanSpec ramp(Duration full_swing) const {
        return detail::with(*this, &FanSpec::ramp_, full_swing);
    }
    constexpr FanSpec stall_after(Duration time) const {
        return detail::with(*this, &FanSpec::stall_after_, time);
    }
    constexpr FanSpec rest_when_stalled(Duration time) const {
        return detail::with(*this, &FanSpec::stall_rest_, time);
    }
    constexpr FanSpec tries(uint8_t most) const {
        return detail::with(*this, &FanSpec::tries_, most);
    }

    constexpr Duty safe() const { return safe_; }
    constexpr Duty rest() const { return rest_; }
    constexpr bool has_safe() const { return safe_given_; }
    constexpr Duty kick() const { return kick_; }
    constexpr Duration kick_time() const { return kick_time_; }
    constexpr Duration ramp() const { return ramp_; }
    constexpr Duration stall_after() const { return stall_after_; }
    constexpr Duration stall_rest() const { return stall_rest_; }
    constexpr uint8_t tries() const { return tries_; }
    constexpr bool looks_for_stalls() const { return stall_after_ > Duration{}; }
    constexpr bool is_plain() const {
        return kick_time_ == Duration{} && ramp_ == Duration{} && !looks_for_stalls();
    }

    /// Whether all times lie within 0 to an hour (the ramp: to 25 min).
    constexpr bool times_can_be_told() const {
        return in_hour(kick_time_) && ramp_ >= Duration{} && ramp_ <= FadeState::longest_swing &&
               in_hour(stall_after_) && in_hour(stall_rest_);
    }
    /// Whether a motor that has stalled is given a rest, and the kick is over before it is judged.
    constexpr bool stall_makes_sense() const {
        return !looks_for_stalls() || (stall_rest_ > Duration{} && stall_after_ > kick_time_);
    }

  private:
    static constexpr bool in_hour(Duration d) { return d >= Duration{} && d <= 1_h; }

    Duty safe_{};
    Duty rest_{};
    Duty kick_{};
    bool safe_given_ = false;
    uint8_t tries_ = 3;
    Duration kick_time_{};
    Duration ramp_{};
    Duration stall_after_{};
    Duration stall_rest_ = 10_s;
};
constexpr FanSpec fan() { return {}; }

namespace detail {
/// What a motor that is looked at for stalls has to remember besides; nothing for the others.
template <bool> struct StallState {};
template <> struct StallState<true> {
    Instant seen{}; ///< when it was last seen turning
    Edge resets{};
    uint8_t count = 0;
    bool rests = false;
};
} // namespace detail

/// The memory of one motor. \tparam Stalls  whether it may be looked at for stalls
template <bool Stalls> class FanStateOf : detail::StallState<Stalls> {
  public:
    /// One pass. Passes must be less than 24 days apart.
    /// \param turns  whether pulses have come lately; looked at only with `stall_after`, and an
    ///     unknown counts as no: a fan that cannot be seen turning is not trusted
    /// \param reset  in the pass in which it becomes yes it ends a failure, and begins to count
    ///     stalls anew
    [[gnu::always_inline]] constexpr Driving<Duty>
    pass(const FanSpec& spec, Instant now, WishOf<Duty> wish, Truth turns, Truth reset) {
        if constexpr (Stalls) {
            if (this->resets.pass(reset) == Truth::yes)
                this->count = 0;
            // Before all else, so that a rest once served stays served however long a failure
            // lasts.
            if (this->rests && now - since_ >= spec.stall_rest())
                this->rests = false;
            if (has_failed(spec))
                return stand(Cause::failed, wish.claim);
            if (this->rests)
                return stand(Cause::stalled, wish.claim);
        }
        if (wish.value == Duty{})
            return stand(wish.cause, wish.claim);
        if (!drives_) {
            drives_ = true;
            kicks_ = spec.kick_time() > Duration{};
            since_ = now;
            fade_.stand(now, Duty{});
            if constexpr (Stalls)
                this->seen = now;
        }
        if constexpr (Stalls) {
            if (turns == Truth::yes || !spec.looks_for_stalls()) {
                this->seen = now;
                this->count = 0;
            } else if (now - this->seen >= spec.stall_after()) {
                ++this->count;
                this->rests = true;
                since_ = now;
                return stand(this->count >= spec.tries() ? Cause::failed : Cause::stalled,
                             wish.claim);
            }
        }
        if (kicks_ && now - since_ < spec.kick_time()) {
            const bool more = wish.value < spec.kick();
            fade_.stand(now, more || spec.ramp() > Duration{} ? spec.kick() : wish.value);
            return {fade_.value(),
                    more                          ? Cause::kick_start
                    : fade_.value() == wish.value ? wish.cause
                                                  : Cause::ramp,
                    wish.claim};
        }
        kicks_ = false;
        // As near to the wish as the ramp lets it by now.
        const Duty value = fade_.pass(spec.ramp(), now, wish.value);
        return {value, value == wish.value ? wish.cause : Cause::ramp, wish.claim};
    }

    constexpr Duty value() const { return fade_.value(); }
    /// Whether it stands though it should turn: it rests before the next try, or has failed.
    constexpr bool is_stalled(const FanSpec& spec) const {
        if constexpr (Stalls)
            return this->rests || has_failed(spec);
        else
            return false;
    }

  private:
    constexpr bool has_failed(const FanSpec& spec) const {
        return spec.looks_for_stalls() && this->count >= spec.tries();
    }
    constexpr Driving<Duty> stand(Cause cause, uint8_t claim) {
        drives_ = false;
        fade_.stand({}, Duty{});
        return {Duty{}, cause, claim};
    }

    Instant since_{}; ///< since it is driven, or rests
    FadeState fade_{};
    bool drives_ = false;
    bool kicks_ = false;
};

/// One that may do everything, for the desk.
using FanState = FanStateOf<true>;

/// The memory of one that has neither kick nor ramp, and is not looked at for stalls: it does at
/// once what it is asked for.
class PlainFanState {
  public:
    [[gnu::always_inline]] constexpr Driving<Duty> pass(const FanSpec&, Instant, WishOf<Duty> wish,
                                                        Truth, Truth) {
        value_ = wish.value;
        return {wish.value, wish.cause, wish.claim};
    }
    constexpr Duty value() const { return value_; }
    constexpr bool is_stalled(const FanSpec&) const { return false; }

  private:
    Duty value_{};
};

/// A motor whose part is a constant of the program. RAM: one byte; eleven bytes with a kick or a
/// ramp, eighteen if it is looked at for stalls.
///
///     Fan<blower> air;
///     air.drive(now, truth_of(rpm.value_or(0_rpm) > 0_rpm), Truth::no,
///     follow(speed.decide(heat)));
template <const FanSpec& Spec, bool = detail::is_constant<Spec>> class Fan {
    static_assert(Spec.has_safe(),
                  "say what this motor does when a sensor fails: .safe(100_percent) "
                  "or .safe(0_percent)");
    static_assert(Spec.times_can_be_told(),
                  "a motor's times must lie between 0 and an hour, its ramp up to 25 min");
    static_assert(Spec.stall_makes_sense(), "a stalled motor needs a rest, and stall_after must be "
                                            "longer than the kick");

  public:
    template <class... Claims>
    [[gnu::always_inline]] constexpr Driving<Duty> drive(Instant now, Truth turns, Truth reset,
                                                         Claims... claims) {
        return state_.pass(Spec, now, detail::wish_of(Spec.safe(), Spec.rest(), claims...), turns,
                           reset);
    }
    /// One that is not looked at for stalls.
    template <class... Claims>
    [[gnu::always_inline]] constexpr Driving<Duty> drive(Instant now, ClaimOf<Duty> first,
                                                         Claims... others) {
        static_assert(!Spec.looks_for_stalls(), "with stall_after, say whether it turns");
        return drive(now, Truth::yes, Truth::no, first, others...);
    }
    constexpr Duty value() const { return state_.value(); }
    constexpr Truth is_stalled() const { return truth_of(state_.is_stalled(Spec)); }

  private:
    detail::Either<Spec.is_plain(), PlainFanState, FanStateOf<Spec.looks_for_stalls()>> state_;
};
template <const FanSpec& Spec> class Fan<Spec, false> : public detail::NotMade<Spec> {};

} // namespace zorilla
