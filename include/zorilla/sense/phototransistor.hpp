// SPDX-License-Identifier: MIT
/// \file
/// Phototransistors, whose current goes with the light.
#pragma once

#include "zorilla/sense/analogue.hpp"
#include "zorilla/sense/code_table.hpp"
#include "zorilla/sense/divider.hpp"
#include "zorilla/units/one_sentence.hpp"
#include "zorilla/units/product.hpp"
#include "zorilla/units/reading.hpp"
#include "zorilla/units/settable.hpp"

#include <stdint.h>

namespace zorilla {

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
        return detail::with(*this, &PhototransistorSpec::load_, r, &PhototransistorSpec::rises_,
                            true);
    }
    /// The load of 1 ohm to 10 Mohm goes to the supply, which is the reference; the transistor to
    /// ground.
    constexpr PhototransistorSpec load_to_supply(Resistance r) const {
        return detail::with(*this, &PhototransistorSpec::load_, r, &PhototransistorSpec::rises_,
                            false);
    }
    /// The converter's reference, 0.5 to 10 V.
    constexpr PhototransistorSpec reference(Voltage v) const {
        return detail::with(*this, &PhototransistorSpec::reference_, v);
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
template <const PhototransistorSpec& Spec, bool = detail::is_constant<Spec>>
class Phototransistor : public AnalogueChecks<Spec> {
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
template <const PhototransistorSpec& Spec>
class Phototransistor<Spec, false> : public detail::NotMade<Spec> {};

} // namespace zorilla
