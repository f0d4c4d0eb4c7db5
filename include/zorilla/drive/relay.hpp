// SPDX-License-Identifier: MIT
/// \file
/// Relays, and everything else that is switched on and off and must not be hurried.
#pragma once

#include "zorilla/drive/claim.hpp"
#include "zorilla/units/level.hpp"
#include "zorilla/units/one_sentence.hpp"
#include "zorilla/units/settable.hpp"
#include "zorilla/units/time.hpp"

#include <stdint.h>

namespace zorilla {

/// A relay as it is wired, and the times that its part and its load need.
///
///     constexpr auto lamp = relay(active_low).safe(off).min_on(2_min).min_off(5_min);
///
/// - `safe`: what it does when a claim is unknown, such as with a broken sensor wire. No default.
/// - `rest`: what it does when no claim holds. Default: off.
/// - `min_on`: once on, it stays on this long, unless the safe value is off and asked for.
/// - `min_off`: once off, it stays off this long. Power-up counts as switching off, since nobody
///   knows how long the power was gone; so a supply that comes and goes cannot make it chatter.
/// - `longest_on`: after this long it switches off by itself and rests for `min_off`.
/// - `warn`: before it switches on it waits this long, and `is_warning` says so, for a buzzer or a
///   lamp that tells whoever has a hand in it. A wish for off meanwhile ends the warning.
/// - `warn_off`: the same before it switches off; `is_warning_off` tells the two apart. A safe off
///   does not wait for it, and before `longest_on` runs out it warns in time.
///
/// All times: 0 to 24 days; left out, a guard does not act.
class RelaySpec {
  public:
    constexpr explicit RelaySpec(Level active) : active_(active) {}

    constexpr RelaySpec safe(OnOff value) const {
        return detail::with(*this, &RelaySpec::safe_, value, &RelaySpec::safe_given_, true);
    }
    constexpr RelaySpec rest(OnOff value) const {
        return detail::with(*this, &RelaySpec::rest_, value);
    }
    constexpr RelaySpec min_on(Duration d) const {
        return detail::with(*this, &RelaySpec::min_on_, d);
    }
    constexpr RelaySpec min_off(Duration d) const {
        return detail::with(*this, &RelaySpec::min_off_, d);
    }
    constexpr RelaySpec longest_on(Duration d) const {
        return detail::with(*this, &RelaySpec::longest_on_, d);
    }

    constexpr RelaySpec warn(Duration d) const { return detail::with(*this, &RelaySpec::warn_, d); }

    constexpr RelaySpec warn_off(Duration d) const {
        return detail::with(*this, &RelaySpec::warn_off_, d);
    }

    constexpr Level active() const { return active_; }
    constexpr OnOff safe() const { return safe_; }
    constexpr OnOff rest() const { return rest_; }
    constexpr Duration min_on() const { return min_on_; }
    constexpr Duration min_off() const { return min_off_; }
    constexpr Duration longest_on() const { return longest_on_; }
    constexpr Duration warn() const { return warn_; }
    constexpr Duration warn_off() const { return warn_off_; }
    constexpr bool warns() const { return warn_ > Duration{} || warn_off_ > Duration{}; }

    constexpr bool has_safe() const { return safe_given_; }
    constexpr bool has_longest_on() const { return longest_on_ != Duration{}; }

    /// Whether all times lie within 0 to 24 days, so that the wrapping clock can tell them.
    constexpr bool times_can_be_told() const {
        return can_be_told(min_on_) && can_be_told(min_off_) && can_be_told(longest_on_) &&
               can_be_told(warn_) && can_be_told(warn_off_);
    }
    /// Whether the longest on time, if any, leaves room for the shortest, and has a rest after it.
    constexpr bool longest_on_makes_sense() const {
        return !has_longest_on() ||
               (longest_on_ >= min_on_ && longest_on_ > warn_off_ && min_off_ > Duration{});
    }

    /// The level of the pin for a value.
    constexpr Level level(OnOff value) const {
        return (value == on) == (active_ == active_high) ? Level::high : Level::low;
    }

    static constexpr Duration longest_time = 24_h * 24;

  private:
    static constexpr bool can_be_told(Duration d) { return d >= Duration{} && d <= longest_time; }

    Level active_;
    OnOff safe_ = off;
    OnOff rest_ = off;
    bool safe_given_ = false;
    Duration min_on_{};
    Duration min_off_{};
    Duration longest_on_{};
    Duration warn_{};
    Duration warn_off_{};
};

/// Starts a `RelaySpec`: which level of the pin switches the relay on. Many relay modules are
/// `active_low`; test the output alone if unsure.
constexpr RelaySpec relay(Level active) { return RelaySpec(active); }

/// What a relay does from this pass on, and why.
struct Switching {
    OnOff value = off;
    Cause cause = Cause::rest;
    uint8_t claim = 0; ///< which claim asked, from 0; see `Wish::claim`
};

namespace detail {
/// What a relay that warns has to remember besides; nothing for the others.
template <bool> struct WarningState {};
template <> struct WarningState<true> {
    Instant since{};
    bool warns = false;
};
} // namespace detail

/// The memory of one relay; it belongs to a `RelaySpec`. \tparam Warns  whether it may warn
template <bool Warns> class RelayStateOf : detail::WarningState<Warns> {
  public:
    /// One pass. `now` may wrap; passes must be less than 24 days apart.
    /// \param blocked  whether an output is on that this one must never be on with
    /// \tparam Safe  what `spec` says, where the program knows: if on is safe, no fault ends a
    ///     shortest time
    template <OnOff Safe = off>
    [[gnu::always_inline]] constexpr Switching pass(const RelaySpec& spec, Instant now, Wish wish,
                                                    bool blocked = false) {
        if (!running_) {
            running_ = true;
            since_ = now;
        }
        const Elapsed held = now - since_;
        // Kept, so that a time once served stays served when the clock wraps.
        if (!served_)
            served_ = held >= (value_ == on ? spec.min_on() : spec.min_off());

        Switching out{wish.value, wish.cause, wish.claim};
        if (value_ == on) {
            if (wish.value == on) {
                if (spec.has_longest_on() && held >= spec.longest_on())
                    out = Switching{off, Cause::longest_on, wish.claim};
            } else if (!served_ && (Safe == on || wish.cause != Cause::safe)) {
                out = Switching{on, Cause::minimum_on, wish.claim};
            }
        } else if (wish.value == on && blocked) {
            out = Switching{off, Cause::interlock, wish.claim};
        } else if (wish.value == on && !served_) {
            out = Switching{off, Cause::minimum_off, wish.claim};
        }
        if constexpr (Warns)
            if (spec.warns())
                out = after_warning(spec, now, held, out);
        if (out.value != value_) {
            value_ = out.value;
            since_ = now;
            served_ = false;
        }
        return out;
    }

    constexpr OnOff value() const { return value_; }
    /// Whether it has been as it is for the shortest time that it has to, as of the last pass.
    constexpr bool is_free() const { return served_; }
    constexpr bool is_warning() const {
        if constexpr (Warns)
            return this->warns;
        else
            return false;
    }
    /// Whether that is a warning before it switches off.
    constexpr bool is_warning_off() const { return is_warning() && value_ == on; }

  private:
    /// Holds back what would switch now until it has warned for long enough.
    constexpr Switching after_warning(const RelaySpec& spec, Instant now, Elapsed held,
                                      Switching out) {
        const Duration time = value_ == on ? spec.warn_off() : spec.warn();
        const bool at_once =
            time == Duration{} ||
            (value_ == on && (out.cause == Cause::safe || out.cause == Cause::longest_on));
        if (out.value == value_ || at_once) {
            // What the longest on time will end is warned of before.
            const bool soon = value_ == on && out.value == on && spec.has_longest_on() &&
                              time > Duration{} && held >= spec.longest_on() - time;
            if (soon && !this->warns)
                this->since = now;
            this->warns = soon;
            return out;
        }
        if (!this->warns) {
            this->warns = true;
            this->since = now;
        }
        if (now - this->since < time)
            return Switching{value_, Cause::warning, out.claim};
        this->warns = false;
        return out;
    }

    Instant since_{};
    OnOff value_ = off;
    bool running_ = false;
    bool served_ = false;
};

/// One that may do everything, for the desk.
using RelayState = RelayStateOf<true>;

/// A relay whose wiring and times are constants of the program. It is off until a pass switches it.
///
///     Relay<lamp_wiring> lamp;
///     lamp.drive(now, on_when(is_cold));
///     board.set(lamp_pin, lamp.level());
///
/// RAM: seven bytes; twelve if it warns.
template <const RelaySpec& Spec, bool = detail::is_constant<Spec>> class Relay {
    static_assert(Spec.has_safe(), "say what this relay does when a sensor fails: .safe(off) or "
                                   ".safe(on)");
    static_assert(Spec.times_can_be_told(), "a relay's times must lie between 0 and 24 days");
    static_assert(
        Spec.longest_on_makes_sense(),
        "longest_on must be at least min_on and more than warn_off, and needs a min_off to "
        "rest for afterwards");

  public:
    /// One pass: goes through the claims in the order given, then through the guards.
    template <class... Claims>
    [[gnu::always_inline]] constexpr Switching drive(Instant now, Claims... claims) {
        return guarded(now, detail::wish_of(Spec.safe(), Spec.rest(), claims...), false);
    }

    /// The same for a relay that must never be on together with another output: while that is on,
    /// this one is not switched on.
    ///
    ///     up.drive_unless(truth_of(down.value() == on), now, on_when(wants_up));
    template <class... Claims>
    [[gnu::always_inline]] constexpr Switching drive_unless(Truth other_is_on, Instant now,
                                                            Claims... claims) {
        return guarded(now, detail::wish_of(Spec.safe(), Spec.rest(), claims...),
                       other_is_on != Truth::no);
    }

    constexpr OnOff value() const { return state_.value(); }
    /// Whether it is about to switch, and warns.
    constexpr Truth is_warning() const { return truth_of(state_.is_warning()); }
    /// Whether it is about to switch off, and warns.
    constexpr Truth is_warning_off() const { return truth_of(state_.is_warning_off()); }
    /// The level that the pin has to have now.
    constexpr Level level() const { return Spec.level(state_.value()); }
    /// The level of the pin while the relay is off, as it has to be from power-up on.
    static constexpr Level off_level() { return Spec.level(off); }

  private:
    // Inlined, though relays of one part could share it: that would save 130 bytes for each further
    // one, and cost 45 cycles for each.
    [[gnu::always_inline]] constexpr Switching guarded(Instant now, Wish wish, bool blocked) {
        return state_.template pass<Spec.safe()>(Spec, now, wish, blocked);
    }

    RelayStateOf<Spec.warns()> state_;
};
template <const RelaySpec& Spec> class Relay<Spec, false> : public detail::NotMade<Spec> {};

} // namespace zorilla
