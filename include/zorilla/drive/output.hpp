// SPDX-License-Identifier: MIT
/// \file
/// Outputs that can be more than on or off: dimmed LEDs, colours, tones, positions; and sequences
/// of such values in time.
#pragma once

#include "zorilla/drive/claim.hpp"
#include "zorilla/units/duty.hpp"
#include "zorilla/units/one_sentence.hpp"
#include "zorilla/units/product.hpp"
#include "zorilla/units/quotient.hpp"
#include "zorilla/units/settable.hpp"
#include "zorilla/units/time.hpp"

#include <stdint.h>

namespace zorilla {

/// How bright each colour of an RGB LED is.
struct Colour {
    Duty red{};
    Duty green{};
    Duty blue{};

    friend constexpr bool operator==(const Colour& a, const Colour& b) {
        return a.red == b.red && a.green == b.green && a.blue == b.blue;
    }
    friend constexpr bool operator!=(const Colour& a, const Colour& b) { return !(a == b); }
};
/// `colour(100_percent, 40_percent, 0_percent)`: amber.
constexpr Colour colour(Duty red, Duty green, Duty blue) { return {red, green, blue}; }

/// What a buzzer sounds: a frequency in hertz; 0 is silence.
struct Tone {
    uint16_t hertz = 0;
    friend constexpr bool operator==(Tone a, Tone b) { return a.hertz == b.hertz; }
    friend constexpr bool operator!=(Tone a, Tone b) { return !(a == b); }
};
inline constexpr Tone silence{};
constexpr Tone tone(uint16_t hertz) { return Tone{hertz}; }

namespace detail {

/// L = 100 b / 255, and the duty is a line up to L = 8, L / 903.3, and above it a cube,
/// ((L + 16) / 116)^3: here of x in units of 1/65451, so that 2^-16 of the cube are 256ths of a
/// 255th.
template <class Product>
[[gnu::always_inline]] constexpr uint8_t even_of(uint8_t b, Product product_of) {
    if (b <= 20)
        return static_cast<uint8_t>((b >= 5 ? 1 : 0) + (b >= 14 ? 1 : 0));
    const auto x = static_cast<uint16_t>((product_of(b, 56'634) >> 8) + 9'038);
    const auto square = static_cast<uint16_t>(product_of(x, x) >> 16);
    return static_cast<uint8_t>(((product_of(square, x) >> 16) + 126) >> 8);
}
ZORILLA_SHARED constexpr uint8_t even_in_a_pass(uint8_t b) {
    return even_of(b, [](uint16_t x, uint16_t y) { return product(x, y); });
}
[[gnu::always_inline]] constexpr uint8_t even_of_a_constant(uint8_t b) {
    return even_of(b, [](uint16_t x, uint16_t y) { return uint32_t{x} * y; });
}

} // namespace detail

/// The duty that looks as bright as this share of the full brightness, since the eye tells small
/// differences better in the dark. The lightness of CIE 1976 (ISO/CIE 11664-4), within half a 255th
/// of its formula. Cost: three products of 16 bits; nothing where the brightness is a constant.
constexpr Duty even(Duty brightness) {
    const uint8_t b = brightness.of_255();
    return Duty::from_255ths(__builtin_constant_p(b) ? detail::even_of_a_constant(b)
                                                     : detail::even_in_a_pass(b));
}
/// The same of each of its colours.
constexpr Colour even(Colour colour) {
    return {even(colour.red), even(colour.green), even(colour.blue)};
}

/// What an output does from this pass on, and why.
template <class V> struct Driving {
    V value{};
    Cause cause = Cause::rest;
    uint8_t claim = 0; ///< which claim asked, from 0; see `WishOf::claim`
};

/// An output without guards: what it does when a claim is unknown, and when none holds.
///
///     constexpr auto status = output<Colour>().safe(colour(100_percent, 0_percent, 0_percent));
template <class V> class OutputSpec {
  public:
    constexpr OutputSpec safe(V value) const {
        return detail::with(*this, &OutputSpec::safe_, value, &OutputSpec::safe_given_, true);
    }
    constexpr OutputSpec rest(V value) const {
        return detail::with(*this, &OutputSpec::rest_, value);
    }
    constexpr V safe() const { return safe_; }
    constexpr V rest() const { return rest_; }
    constexpr bool has_safe() const { return safe_given_; }

  private:
    V safe_{};
    V rest_{};
    bool safe_given_ = false;
};
template <class V> constexpr OutputSpec<V> output() { return {}; }

/// Such an output in a device. It remembers its value only: one to three bytes.
///
///     Output<status> light;
///     light.drive(set_when(is_cold, colour(0_percent, 0_percent, 100_percent)));
template <const auto& Spec, bool = detail::is_constant<Spec>> class Output {
    using V = decltype(Spec.safe());
    static_assert(Spec.has_safe(), "say what this output does when a sensor fails: .safe(...)");

  public:
    template <class... Claims> [[gnu::always_inline]] constexpr Driving<V> drive(Claims... claims) {
        const auto wish = detail::wish_of(Spec.safe(), Spec.rest(), claims...);
        value_ = wish.value;
        return {wish.value, wish.cause, wish.claim};
    }
    constexpr V value() const { return value_; }

  private:
    V value_ = Spec.rest();
};
template <const auto& Spec> class Output<Spec, false> : public detail::NotMade<Spec> {};

/// One step of a sequence.
template <class V> struct Step {
    V value;
    Duration time;
};
template <class V> constexpr Step<V> step(V value, Duration time) { return {value, time}; }

/// Values one after the other, each for a time, over and over.
///
///     constexpr auto alarm = sequence(step(Duty(100_percent), 100_ms), step(Duty(), 400_ms));
///     constexpr auto call = sequence(step(tone(880), 200_ms), step(silence, 100_ms),
///                                    step(tone(660), 200_ms), step(silence, 2_s));
///
/// Each step: 1 ms to 12 days, all together too.
template <class V, uint8_t N> struct SequenceSpec {
    Step<V> steps[N];

    static constexpr uint8_t count = N;
    constexpr Duration total() const {
        Duration out{};
        for (const Step<V>& one : steps)
            out = out + one.time;
        return out;
    }
    constexpr bool times_can_be_told() const {
        for (const Step<V>& one : steps)
            if (one.time <= Duration{})
                return false;
        return total() <= 24_h * 12;
    }
};
template <class V, class... Steps>
constexpr SequenceSpec<V, 1 + sizeof...(Steps)> sequence(Step<V> first, Steps... others) {
    static_assert(sizeof...(others) < 32, "a sequence has 1 to 32 steps");
    static_assert(detail::all_are<Step<V>, Steps...>,
                  "a sequence is made of steps of one kind of value, each with its time: "
                  "sequence(step(tone(880), 200_ms), step(silence, 2_s))");
    return {{first, detail::this_or(first, others)...}};
}

/// The memory of one sequence.
class SequenceState {
  public:
    /// One pass: the number of the step. A sequence begins with its first step each time its
    /// condition becomes yes, and keeps in step however late a pass comes.
    /// \param time_at  gives the time of a step  \param total  of all steps
    template <class TimeAt>
    [[gnu::always_inline]] constexpr uint8_t pass(Instant now, Truth when, uint8_t count,
                                                  TimeAt time_at, Duration total) {
        if (when != Truth::yes) {
            runs_ = false;
            return 0;
        }
        if (!runs_) {
            runs_ = true;
            begun_ = now;
            step_ = 0;
        }
        auto held = static_cast<uint32_t>((now - begun_).thousandths());
        const auto round = static_cast<uint32_t>(total.thousandths());
        if (held >= round)
            held = detail::rest_of(held, round); // whole rounds that were missed
        for (uint32_t time = 0;
             held >= (time = static_cast<uint32_t>(time_at(step_).thousandths())); held -= time)
            step_ = step_ + 1 == count ? uint8_t{0} : static_cast<uint8_t>(step_ + 1);
        begun_ = Instant(now.milliseconds() - held);
        return step_;
    }

    /// The same of two steps, as most are: those of a device share its code.
    ZORILLA_SHARED constexpr uint8_t pass_two(Instant now, Truth when, Duration first,
                                              Duration second) {
        return pass(
            now, when, 2, [first, second](uint8_t i) { return i == 0 ? first : second; },
            Duration::from_thousandths(first.thousandths() + second.thousandths()));
    }

  private:
    Instant begun_{};
    uint8_t step_ = 0;
    bool runs_ = false;
};

/// A sequence whose steps are constants of the program. RAM: six bytes.
///
///     Sequence<alarm> flash;
///     lamp.drive(flash.claim(now, is_hot), set_when(is_on, Duty(60_percent)));
template <const auto& Spec, bool = detail::is_constant<Spec>> class Sequence {
    static_assert(Spec.times_can_be_told(),
                  "each step of a sequence takes from 1 ms, all together at most 12 days");
    using V = decltype(Spec.steps[0].value);

  public:
    /// A claim for the value that is due now, while `when` is yes.
    [[gnu::always_inline]] constexpr ClaimOf<V> claim(Instant now, Truth when) {
        return {when, at(due(now, when)).value};
    }

  private:
    [[gnu::always_inline]] constexpr uint8_t due(Instant now, Truth when) {
        if constexpr (Spec.count == 2)
            return state_.pass_two(now, when, Spec.steps[0].time, Spec.steps[1].time);
        else
            return state_.pass(
                now, when, Spec.count, [](uint8_t i) { return at(i).time; }, Spec.total());
    }
    // Chosen among constants, since a small chip would keep a table in its RAM.
    template <uint8_t I = 0> static constexpr Step<V> at(uint8_t i) {
        if constexpr (I + 1 == Spec.count)
            return Spec.steps[I];
        else
            return i == I ? Spec.steps[I] : at<I + 1>(i);
    }

    SequenceState state_;
};
template <const auto& Spec> class Sequence<Spec, false> : public detail::NotMade<Spec> {};

} // namespace zorilla
