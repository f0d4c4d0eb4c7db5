// SPDX-License-Identifier: MIT
/// \file
/// LEDs on PWM: brightness that looks even to the eye, and fading. Bars of LEDs, and servos.
#pragma once

#include "zorilla/drive/fade.hpp"
#include "zorilla/drive/output.hpp"
#include "zorilla/units/compiler.hpp"
#include "zorilla/units/level.hpp"
#include "zorilla/units/one_sentence.hpp"
#include "zorilla/units/settable.hpp"

#include <stdint.h>

namespace zorilla {

/// A dimmed LED as it is wired.
///
///     constexpr auto dusk_lamp = led(active_high).safe(20_percent).fade(3_s);
///
/// - `safe`: its brightness when a claim is unknown. No default.
/// - `rest`: its brightness when no claim holds. Default: dark.
/// - `fade`: from dark to full, or back, takes at least this long, up to 25 min. Default: it jumps.
class LedSpec {
  public:
    constexpr explicit LedSpec(Level active) : active_(active) {}

    constexpr LedSpec safe(Duty value) const {
        return detail::with(*this, &LedSpec::safe_, value, &LedSpec::safe_given_, true);
    }
    constexpr LedSpec rest(Duty value) const { return detail::with(*this, &LedSpec::rest_, value); }
    constexpr LedSpec fade(Duration full_swing) const {
        return detail::with(*this, &LedSpec::fade_, full_swing);
    }

    constexpr Level active() const { return active_; }
    constexpr Duty safe() const { return safe_; }
    constexpr Duty rest() const { return rest_; }
    constexpr Duration fade() const { return fade_; }
    constexpr bool has_safe() const { return safe_given_; }
    constexpr bool fade_can_be_told() const {
        return fade_ >= Duration{} && fade_ <= FadeState::longest_swing;
    }
    /// How much of its time the pin is high for a brightness. Cost: see `even`.
    constexpr Duty high_for(Duty brightness) const {
        const Duty lit = even(brightness);
        return active_ == active_high ? lit
                                      : Duty::from_255ths(static_cast<uint8_t>(255 - lit.of_255()));
    }

  private:
    Level active_;
    Duty safe_{};
    Duty rest_{};
    bool safe_given_ = false;
    Duration fade_{};
};
constexpr LedSpec led(Level active) { return LedSpec(active); }

/// A dimmed LED whose part is a constant of the program. RAM: one byte; six
/// bytes if it fades.
///
///     Led<dusk_lamp> lamp;
///     lamp.drive(now, set_when(is_dusk, Duty(40_percent)));
///     timer.set(lamp_pin, lamp.high_for());
template <const LedSpec& Spec, bool = detail::is_constant<Spec>> class Led {
    static_assert(Spec.has_safe(), "say what this LED does when a sensor fails: .safe(0_percent)");
    static_assert(Spec.fade_can_be_told(), "a fade takes 0 to 25 min");

  public:
    template <class... Claims>
    [[gnu::always_inline]] constexpr Driving<Duty> drive(Instant now, Claims... claims) {
        const auto wish = detail::wish_of(Spec.safe(), Spec.rest(), claims...);
        const Duty value = state_.pass(Spec.fade(), now, wish.value);
        return {value, value == wish.value ? wish.cause : Cause::ramp, wish.claim};
    }
    /// Its brightness as the eye sees it.
    constexpr Duty value() const { return state_.value(); }
    constexpr Duty high_for() const { return Spec.high_for(state_.value()); }

  private:
    detail::Either<Spec.fade() == Duration{}, NoFade, FadeFromStart> state_;
};
template <const LedSpec& Spec> class Led<Spec, false> : public detail::NotMade<Spec> {};

/// A row of LEDs that shows a stage: `bar_led(fans.stage(), 0)` is the lowest, lit from stage 1 on.
constexpr OnOff bar_led(Stage stage, uint8_t number) { return stage.number() > number ? on : off; }

/// A row of LEDs of which only the one of the stage that holds is lit.
constexpr OnOff top_led(Stage stage, uint8_t number) {
    return stage.number() == number + 1 ? on : off;
}

/// The same as `bar_led` of up to eight LEDs at once, as the bits of a port: the lowest is bit 0.
constexpr uint8_t bar_mask(Stage stage) {
    uint8_t dark = 0xff; // a byte is shifted quicker than a word
    for (uint8_t i = stage.number(); i > 0; --i)
        dark = static_cast<uint8_t>(dark << 1);
    return static_cast<uint8_t>(~dark);
}

/// The pulse of a servo in microseconds, from one end of its travel (nothing) to the other (full);
/// between them in steps of a 255th. Most servos take 1,000 to 2,000 us, fifty times a second.
constexpr uint16_t servo_pulse(Duty position, uint16_t first = 1000, uint16_t last = 2000) {
    const auto part = [position](uint16_t span) {
        return static_cast<uint16_t>((uint32_t{span} * position.of_255() + 127) / 255);
    };
    return static_cast<uint16_t>(first <= last ? first + part(static_cast<uint16_t>(last - first))
                                               : first - part(static_cast<uint16_t>(first - last)));
}

} // namespace zorilla
