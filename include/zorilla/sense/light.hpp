// SPDX-License-Identifier: MIT
/// \file
/// Light: photoresistors by their power law, and phototransistors.
#pragma once

#include "zorilla/sense/divider.hpp"
#include "zorilla/sense/powers.hpp"
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
        const uint32_t below = uint32_t{code} * step;
        const uint16_t low = detail::log2_of(below);
        const uint16_t high = detail::log2_of(whole - below);
        return static_cast<int16_t>(to_ground ? low - high : high - low);
    }
    /// The value in thousandths at log2(sensor / pull) in units of 2^-11.
    [[gnu::always_inline]] int32_t value_at_log(int16_t log) const {
        return detail::power_of_two(offset - (detail::product(log, exponent) >> 7));
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

/// A sample to a quantity by a power law, or to what is wrong with the wire.
template <class Q>
[[gnu::always_inline]] inline Reading<Q> read_by_power_law(const CodeRange& range,
                                                           const PowerLaw& law, Sample sample) {
    const Health health = range.health_of(sample);
    if (health != Health::ok)
        return Reading<Q>::without_value(health);
    return Reading<Q>::of(Q::from_thousandths(law.value_at(sample.code())));
}

/// A photoresistor in a device.
template <const PhotoresistorSpec& Spec> class Photoresistor : public AnalogueChecks<Spec> {
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

/// A quantity in proportion to the code, made ready for the chip: value = code * factor / 2^shift.
struct Proportion {
    uint16_t factor;
    int8_t shift;

    /// The closest one to `top / bottom` thousandths for each code.
    static constexpr Proportion of(uint64_t top, uint64_t bottom) {
        if (top == 0 || bottom == 0)
            return {0, 0}; // numbers that the spec refuses
        int8_t shift = 0;
        for (; top / bottom < 0x8000; ++shift) {
            if (top >> 62 != 0)
                bottom = (bottom + 1) >> 1;
            else
                top <<= 1;
        }
        while (top / bottom > 0xfffe) {
            bottom <<= 1;
            --shift;
        }
        return {static_cast<uint16_t>((top + bottom / 2) / bottom), shift};
    }
    [[gnu::always_inline]] constexpr int32_t value_at(uint16_t code) const {
        const uint32_t wide = detail::product(code, factor);
        if (shift > 0)
            return static_cast<int32_t>((wide + (uint32_t{1} << (shift - 1))) >> shift);
        return static_cast<int32_t>(wide << -shift);
    }
};

/// The exact line of a phototransistor, E = V / (R s), with V = reference * code / 2^n.
struct PhototransistorCurve {
    uint64_t top;    ///< thousandths of a lux for each code are
    uint64_t bottom; ///< top / bottom
    bool rises;
    uint32_t codes;
    constexpr int32_t value_at(uint16_t code) const {
        const uint64_t along = rises ? code : codes - code;
        const uint64_t value = (along * top + bottom / 2) / bottom;
        return value > 0x7fff'ffff ? detail::largest_int32 : static_cast<int32_t>(value);
    }
};

/// A phototransistor (or a photodiode with its amplifier) that drives a current in proportion to
/// light through a load resistor.
///
///     constexpr auto sky = phototransistor(500_nA_per_lx).load_to_ground(10_kohm).reference(5_V);
///     Phototransistor<sky> light;
///
/// Read to 0.1 % of the line; the part strays by 20 to 50 % and is to be calibrated. At the code of
/// full scale the transistor is saturated: out of its range, or shorted.
class PhototransistorSpec : public AnalogueSensor<PhototransistorSpec, Illuminance> {
  public:
    static constexpr bool has_accuracy = false;
    static constexpr Illuminance smallest{}, largest = 1'000'000_lx, least_span = 0.1_lx;

    /// \param sensitivity  0.1 to 100,000 nA/lx
    constexpr explicit PhototransistorSpec(CurrentPerLux sensitivity)
        : AnalogueSensor(10_lx, 500_lx, 1_lx), sensitivity_(sensitivity) {}

    /// The transistor goes to the supply, the load of 1 ohm to 10 Mohm to ground.
    constexpr PhototransistorSpec load_to_ground(Resistance r) const {
        PhototransistorSpec out = *this;
        out.load_ = r;
        out.rises_ = true;
        return out;
    }
    /// The load of 1 ohm to 10 Mohm goes to the supply, which is the reference; the transistor to
    /// ground.
    constexpr PhototransistorSpec load_to_supply(Resistance r) const {
        PhototransistorSpec out = *this;
        out.load_ = r;
        out.rises_ = false;
        return out;
    }
    /// The converter's reference, 0.5 to 10 V.
    constexpr PhototransistorSpec reference(Voltage v) const {
        PhototransistorSpec out = *this;
        out.reference_ = v;
        return out;
    }

    constexpr bool sensitivity_is_possible() const {
        return sensitivity_ >= 0.1_nA_per_lx && sensitivity_ <= 100'000_nA_per_lx;
    }
    constexpr bool load_is_possible() const {
        return load_ >= 1_ohm && load_ <= Divider::largest_resistance;
    }
    constexpr bool reference_is_possible() const {
        return reference_ >= 0.5_V && reference_ <= 10_V;
    }
    constexpr bool part_is_possible() const {
        return sensitivity_is_possible() && load_is_possible() && reference_is_possible();
    }

    constexpr PhototransistorCurve curve() const {
        // mlx = 1000 * uV / 2^n / ohm / (pA/lx) * 10^6
        return {static_cast<uint64_t>(reference_.thousandths()) * 1'000'000'000,
                (uint64_t{full_scale()} + 1) * (static_cast<uint64_t>(load_.thousandths()) *
                                                static_cast<uint64_t>(sensitivity_.thousandths())),
                rises_, uint32_t{full_scale()} + 1};
    }
    constexpr Proportion proportion() const { return Proportion::of(curve().top, curve().bottom); }
    constexpr bool rising() const { return rises_; }
    constexpr bool open_at_top() const { return !rises_; }

  private:
    CurrentPerLux sensitivity_;
    Resistance load_{};
    Voltage reference_{};
    bool rises_ = true;
};

/// Starts a `PhototransistorSpec`: how much current a lux makes, from the data sheet.
constexpr PhototransistorSpec phototransistor(CurrentPerLux sensitivity) {
    return PhototransistorSpec(sensitivity);
}

/// A sample to illuminance by a phototransistor's line.
[[gnu::always_inline]] constexpr Reading<Illuminance>
read_phototransistor(const CodeRange& range, const Proportion& proportion, bool rises,
                     uint16_t full_scale, Sample sample) {
    const Health health = range.health_of(sample);
    if (health != Health::ok)
        return Reading<Illuminance>::without_value(health);
    const uint16_t code = sample.code();
    return Reading<Illuminance>::of_bounded(Illuminance::from_thousandths(proportion.value_at(
        rises ? code : static_cast<uint16_t>(uint32_t{full_scale} + 1 - code))));
}

/// A phototransistor in a device.
template <const PhototransistorSpec& Spec> class Phototransistor : public AnalogueChecks<Spec> {
    static_assert(Spec.sensitivity_is_possible(),
                  "the sensitivity must lie between 0.1 and 100,000 nA/lx");
    static_assert(Spec.load_is_possible(),
                  "say where the load of 1 ohm to 10 Mohm is: .load_to_ground(10_kohm) or "
                  ".load_to_supply(10_kohm)");
    static_assert(Spec.reference_is_possible(),
                  "say against which voltage the converter measures, from 0.5 to 10 V: "
                  ".reference(5_V)");
    static constexpr CodeRange range = Spec.code_range();
    static constexpr Proportion proportion = Spec.proportion();

  public:
    [[gnu::always_inline]] Measured<Illuminance, Spec> read(Sample sample) const {
        return read_phototransistor(range, proportion, Spec.rising(), Spec.full_scale(), sample);
    }
};

} // namespace zorilla
