// SPDX-License-Identifier: MIT
/// \file
/// Photoresistors, by their power law.
#pragma once

#include "zorilla/sense/divider.hpp"
#include "zorilla/sense/powers.hpp"
#include "zorilla/units/one_sentence.hpp"
#include "zorilla/units/reading.hpp"

#include <stdint.h>

namespace zorilla {

/// A quantity that goes with a power of a sensor's resistance in a divider, made ready for the
/// chip: log2(value) = offset - exponent * log2(sensor / pull), all in integers.
struct PowerLaw {
    uint32_t whole;   ///< codes of the converter, in parts of the supply
    uint16_t step;    ///< one code, in the same parts
    bool to_ground;   ///< the sensor is between pin and ground
    int32_t offset;   ///< log2 of thousandths at sensor = pull, in units of 2^-16
    int16_t exponent; ///< in units of 2^-12

    /// log2(sensor / pull) in units of 2^-11.
    [[gnu::always_inline]] int16_t log_of_ratio(uint16_t code) const {
        if (whole <= 0xffff) {
            const auto below = static_cast<uint16_t>(code * step);
            return log_between(below, static_cast<uint16_t>(whole - below));
        }
        const uint32_t below = uint32_t{code} * step;
        return log_between(below, whole - below);
    }
    template <class Whole>
    [[gnu::always_inline]] int16_t log_between(Whole below, Whole above) const {
        const uint16_t low = detail::log2_of(below);
        const uint16_t high = detail::log2_of(above);
        return static_cast<int16_t>(to_ground ? low - high : high - low);
    }
    /// The value in thousandths at log2(sensor / pull) in units of 2^-11.
    [[gnu::always_inline]] int32_t value_at_log(int16_t log) const {
        return detail::power_of_log(offset, exponent, log);
    }
    [[gnu::always_inline]] int32_t value_at(uint16_t code) const {
        return value_at_log(log_of_ratio(code));
    }
};

/// The exact power law of a photoresistor in its divider; for desk and compiler.
struct PhotoresistorCurve {
    Divider divider;
    uint32_t codes;
    int64_t log_of_anchor; ///< ln of the resistance at the anchor's light, in units of 2^-30
    int64_t log_of_light;  ///< ln of the anchor's millilux, likewise
    int32_t gamma;         ///< in thousandths

    constexpr int32_t value_at(uint16_t code) const {
        const int64_t falls = log_of_anchor - divider.log_of_resistance(code, codes);
        return static_cast<int32_t>(
            detail::natural_exponential(log_of_light + divide_rounded(falls * 1000, gamma)));
    }
};

/// A photoresistor: its resistance falls with light by a power law,
/// R = R1 (E / E1)^-gamma, so that E = E1 (R1 / R)^(1/gamma).
///
///     constexpr auto yard = photoresistor(10_kohm, 10_lx, 0.7_times).pull_down(10_kohm);
///     Photoresistor<yard> light;
///
/// A data sheet gives R1 at E1 = 10 lx, and gamma between 10 and 100 lx. A reading is within 1 % of
/// that law; the part itself strays by a factor of two, and with temperature and age. Where lux do
/// not matter, `percent_between` a dark and a bright reading is the honest choice.
class PhotoresistorSpec : public AnalogueSensor<PhotoresistorSpec, Illuminance>,
                          public InDivider<PhotoresistorSpec> {
  public:
    static constexpr bool has_accuracy = false;
    static constexpr Illuminance smallest = 0.01_lx, largest = 1'000'000_lx, least_span = 0.1_lx;

    /// \param anchor  the resistance at `light`, 1 ohm to 10 Mohm
    /// \param light   0.1 to 100,000 lx
    /// \param gamma   0.3 to 1.5
    constexpr PhotoresistorSpec(Resistance anchor, Illuminance light, Ratio gamma)
        : AnalogueSensor(1_lx, 1000_lx, 1_lx), anchor_(anchor), light_(light), gamma_(gamma) {}

    constexpr bool anchor_is_possible() const {
        return anchor_ >= 1_ohm && anchor_ <= Divider::largest_resistance && light_ >= 0.1_lx &&
               light_ <= 100'000_lx;
    }
    constexpr bool gamma_is_possible() const { return gamma_ >= 0.3_times && gamma_ <= 1.5_times; }
    constexpr bool divider_is_possible() const { return divider_.is_possible(); }
    constexpr bool voltages_are_possible() const { return divider_.voltages_are_possible(); }
    constexpr bool part_is_possible() const {
        return anchor_is_possible() && gamma_is_possible() && divider_is_possible() &&
               voltages_are_possible();
    }

    constexpr PhotoresistorCurve curve() const {
        return {divider_, uint32_t{full_scale()} + 1,
                detail::natural_log(static_cast<uint32_t>(anchor_.thousandths())),
                detail::natural_log(static_cast<uint32_t>(light_.thousandths())),
                gamma_.thousandths()};
    }
    constexpr bool rising() const { return !divider_.sensor_to_ground; }
    constexpr bool open_at_top() const { return divider_.sensor_to_ground; }
    constexpr uint16_t top_code() const { return divider_.top_code(full_scale()); }

    /// The law as the chip works with it.
    constexpr PowerLaw law() const {
        const int64_t at_pull =
            curve().log_of_light +
            divide_rounded((curve().log_of_anchor - detail::natural_log(static_cast<uint32_t>(
                                                        divider_.pull.thousandths()))) *
                               1000,
                           gamma_.thousandths());
        return {(uint32_t{full_scale()} + 1) * divider_.supply_parts(),
                static_cast<uint16_t>(divider_.reference_parts()), divider_.sensor_to_ground,
                static_cast<int32_t>(divide_rounded(at_pull * (int64_t{1} << 16), detail::ln_two)),
                static_cast<int16_t>(divide_rounded(4'096'000, gamma_.thousandths()))};
    }

  private:
    friend InDivider<PhotoresistorSpec>;
    Resistance anchor_;
    Illuminance light_;
    Ratio gamma_;
    Divider divider_{};
};

/// Starts a `PhotoresistorSpec`: resistance at a light, and gamma, all from the data sheet.
constexpr PhotoresistorSpec photoresistor(Resistance anchor, Illuminance light, Ratio gamma) {
    return PhotoresistorSpec(anchor, light, gamma);
}

/// A sample to a quantity by a power law, or to what is wrong with the wire. Its codes are those of
/// the range, which ends at a million, half of what a quantity holds.
template <class Q>
[[gnu::always_inline]] inline Reading<Q> read_by_power_law(const CodeRange& range,
                                                           const PowerLaw& law, Sample sample) {
    const Health health = range.health_of(sample);
    if (health != Health::ok)
        return Reading<Q>::without_value(health);
    return Reading<Q>::of_bounded(Q::from_thousandths(law.value_at(sample.code())));
}

/// A photoresistor in a device.
template <const PhotoresistorSpec& Spec, bool = detail::is_constant<Spec>>
class Photoresistor : public AnalogueChecks<Spec> {
    static_assert(Spec.anchor_is_possible(), "the resistance must lie between 1 ohm and 10 Mohm, "
                                             "the light it has it at between 0.1 and 100,000 lx");
    static_assert(Spec.gamma_is_possible(),
                  "gamma must lie between 0.3 and 1.5; data sheets mostly say 0.6 to 0.9");
    static_assert(
        Spec.divider_is_possible(),
        "say which resistor forms the divider, from 1 ohm to 10 Mohm: .pull_down(10_kohm) "
        "if it goes to ground, .pull_up(10_kohm) if it goes to the supply");
    static_assert(Spec.voltages_are_possible(),
                  "the divider's supply must lie between 1 and 24 V, the converter's reference "
                  "between 0.5 and 10 V: .supplied(5_V, 3.3_V)");
    static constexpr CodeRange range = Spec.code_range();
    static constexpr PowerLaw law = Spec.law();

  public:
    /// The illuminance, or why there is none. Cost on the ATmega328P: printed by `./dev metal`.
    [[gnu::always_inline]] Measured<Illuminance, Spec> read(Sample sample) const {
        return read_by_power_law<Illuminance>(range, law, sample);
    }
};
template <const PhotoresistorSpec& Spec>
class Photoresistor<Spec, false> : public detail::NotMade<Spec> {};

} // namespace zorilla
