// SPDX-License-Identifier: MIT
/// \file
/// Ultrasonic rangers: the width of an echo pulse to a distance.
#pragma once

#include "zorilla/sense/climate.hpp"
#include "zorilla/units/one_sentence.hpp"
#include "zorilla/units/reading.hpp"
#include "zorilla/units/settable.hpp"
#include "zorilla/units/time.hpp"

#include <stdint.h>

namespace zorilla {

/// What the echo pin delivered after a ping: the width of its pulse, or that none came.
class Echo {
  public:
    /// No ping was sent in this pass.
    constexpr Echo() = default;
    /// A pulse of so many microseconds.
    constexpr explicit Echo(uint16_t microseconds) : width_(microseconds), state_(State::heard) {}
    /// A ping was sent, and no pulse came, or it did not end.
    static constexpr Echo none() {
        Echo out;
        out.state_ = State::silent;
        return out;
    }

    constexpr bool taken() const { return state_ != State::not_taken; }
    constexpr bool heard() const { return state_ == State::heard; }
    constexpr uint16_t microseconds() const { return width_; }

  private:
    enum class State : uint8_t { not_taken, silent, heard };
    uint16_t width_ = 0;
    State state_ = State::not_taken;
};

namespace detail {

/// Half the speed of sound in dry air, c = 331.3 m/s sqrt(1 + t / 273.15 degC) (L. E. Kinsler and
/// others, Fundamentals of Acoustics, 4th edition, section 5.6), in units of 2^-10 um/us, less 171.
struct HalfSoundCurve {
    static constexpr uint16_t first = 0, last = last_climate_argument;
    static constexpr int32_t error = 5;
    static constexpr int32_t widest = 11;
    static constexpr int32_t base = 171;
    static constexpr int64_t base_log = natural_log(331'300 / 2), zero_log = natural_log(273'150);
    constexpr int32_t value_at(uint16_t argument) const {
        const auto kelvin = static_cast<uint32_t>(climate_temperature(argument) + 273'150);
        // sqrt(x) = e^(ln(x) / 2), taken 2^20 times for its digits.
        const int64_t log = base_log + (natural_log(kelvin) - zero_log) / 2;
        const int64_t mm_per_s = natural_exponential(log + 10 * ln_two);
        return static_cast<int32_t>(divide_rounded(mm_per_s, 1000)) - (base << 10);
    }
};

/// Micrometres that sound goes out and back in `microseconds`; exact to 0.01 mm and 0.002 %.
[[gnu::always_inline]] constexpr int32_t way_of_echo(uint16_t microseconds, int32_t half_sound) {
    // Half of sound is 153 um/us in the coldest air and 190 in the warmest: what it is above 152
    // has 16 bits, and no sign.
    constexpr uint16_t below = 19;
    const auto above = static_cast<uint16_t>(half_sound + (int32_t{below} << 10));
    return static_cast<int32_t>(
        product(microseconds, static_cast<uint16_t>(HalfSoundCurve::base - below)) +
        ((product(microseconds, above) + 512) >> 10));
}

} // namespace detail

/// An ultrasonic ranger: the distances that it can tell.
///
///     constexpr auto eye = ranger(20_mm, 4_m);
///     Ranger<eye> level;
///     const auto distance = level.read(echo, air); // `air`: a Reading<Temperature>
///
/// Within 0.1 mm of the formula, up to 6 m and from -40 to 85 degC; a real echo wanders by some
/// millimetres. Humidity adds at most 0.4 % to the speed of sound, and is not counted.
class RangerSpec {
  public:
    /// \param blind  nearer than this it cannot see; 0 to 1 m
    /// \param far    further than this it is not to be trusted; up to 6 m
    constexpr RangerSpec(Length blind, Length far) : blind_(blind), far_(far) {}

    /// From this width on a pulse means that nothing came back: the ranger's own time-out.
    /// Default: 36 ms. At most 65 ms.
    constexpr RangerSpec silent_from(Duration width) const {
        return detail::with(*this, &RangerSpec::silent_from_, width);
    }

    constexpr Length blind() const { return blind_; }
    constexpr Length far() const { return far_; }
    constexpr bool limits_are_possible() const {
        return blind_ >= Length{} && blind_ <= 1_m && far_ <= 6_m && far_ - blind_ >= 10_mm;
    }
    constexpr uint16_t silent_microseconds() const {
        return static_cast<uint16_t>(silent_from_.thousandths() * int32_t{1000});
    }
    /// Whether an echo from the far limit is shorter than silence, in the coldest air (307 m/s).
    constexpr bool silence_is_possible() const {
        return silent_from_ <= 65_ms &&
               silent_from_.thousandths() * int32_t{153'000} > far_.thousandths();
    }
    constexpr bool is_possible() const { return limits_are_possible() && silence_is_possible(); }

  private:
    Length blind_;
    Length far_;
    Duration silent_from_ = 36_ms;
};

/// Starts a `RangerSpec`: its blind range and its far limit, both from the data sheet.
constexpr RangerSpec ranger(Length blind, Length far) { return RangerSpec(blind, far); }

/// An echo to a distance, at half the speed of sound in units of 2^-10 um/us less 171.
[[gnu::always_inline]] constexpr Reading<Length> read_echo(const RangerSpec& spec, Echo echo,
                                                           int32_t half_sound) {
    using Distance = Reading<Length>;
    if (!echo.taken())
        return Distance::without_value(Health::missing);
    if (!echo.heard() || echo.microseconds() >= spec.silent_microseconds())
        return Distance::without_value(Health::no_echo);
    const Length distance =
        Length::from_thousandths(detail::way_of_echo(echo.microseconds(), half_sound));
    if (distance < spec.blind())
        return Distance::without_value(Health::too_near);
    if (distance > spec.far())
        return Distance::without_value(Health::too_far);
    return Distance::of_bounded(distance);
}

/// The same in air of a temperature. One that is not healthy passes its health on; one outside -40
/// to 85 degC is out of range.
[[gnu::always_inline]] inline Reading<Length> read_echo(const RangerSpec& spec, Echo echo,
                                                        Reading<Temperature> air) {
    if (!air.ok())
        return Reading<Length>::without_value(air.health());
    const Temperature t = air.value_or({});
    if (!in_climate(t))
        return Reading<Length>::without_value(Health::out_of_range);
    return read_echo(
        spec, echo, detail::FunctionTable<detail::HalfSoundCurve>::at(detail::climate_argument(t)));
}

/// An ultrasonic ranger in a device.
template <const RangerSpec& Spec, bool = detail::is_constant<Spec>> class Ranger {
    static_assert(Spec.limits_are_possible(),
                  "the blind range must lie between 0 and 1 m, the far limit beyond it and within "
                  "6 m: ranger(20_mm, 4_m)");
    static_assert(Spec.silence_is_possible(),
                  "silent_from must be longer than an echo from the far limit takes, and at most "
                  "65 ms: about 6.5 ms for each metre");

  public:
    /// The distance in air of that temperature. A temperature that is not healthy passes its health
    /// on; one outside -40 to 85 degC is out of range.
    [[gnu::always_inline]] Reading<Length> read(Echo echo, Reading<Temperature> air) const {
        return read_echo(Spec, echo, air);
    }
    /// The distance in air of a fixed temperature. Each kelvin that it is wrong makes 0.17 %.
    template <int32_t Millidegrees = 20'000>
    [[gnu::always_inline]] Reading<Length> read(Echo echo) const {
        constexpr Temperature t = Temperature::from_thousandths(Millidegrees);
        static_assert(in_climate(t));
        constexpr int32_t half_sound =
            detail::HalfSoundCurve{}.value_at(detail::climate_argument(t));
        return read_echo(Spec, echo, half_sound);
    }
};
template <const RangerSpec& Spec> class Ranger<Spec, false> : public detail::NotMade<Spec> {};

} // namespace zorilla
