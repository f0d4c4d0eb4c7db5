// SPDX-License-Identifier: MIT
/// \file
/// Linear temperature chips: three legs, and a voltage that rises by so many millivolts per degree.
#pragma once

#include "zorilla/sense/analogue.hpp"
#include "zorilla/units/one_sentence.hpp"
#include "zorilla/units/settable.hpp"
#include "zorilla/units/temperature.hpp"

#include <stdint.h>

namespace zorilla {

/// The exact line of a linear chip: T = (V - V0) / slope, with V = reference * code / 2^n.
struct LinearCurve {
    uint32_t codes;    ///< how many codes the converter has
    int64_t reference; ///< in microvolts
    int64_t at_zero;   ///< the chip's voltage at 0 degC, in microvolts
    int64_t slope;     ///< in microvolts per kelvin

    /// The temperature that `code` stands for, in thousandths of a degree Celsius, rounded.
    constexpr int32_t value_at(uint16_t code) const {
        const int64_t above_zero = reference * code - at_zero * codes;
        const int64_t per_kelvin = (slope < 0 ? -slope : slope) * codes;
        return static_cast<int32_t>(
            divide_rounded((slope < 0 ? -above_zero : above_zero) * 1000, per_kelvin));
    }
    constexpr StraightLine line(uint16_t first) const {
        const int64_t times = slope < 0 ? -1000 : 1000;
        return straight_line(times * reference, -times * at_zero * codes,
                             (slope < 0 ? -slope : slope) * codes, first);
    }
};

/// A linear temperature chip as its data sheet gives it, read against a reference voltage.
///
///     constexpr auto chip = linear_chip(10_mV_per_K, 500_mV).reference(5_V).bits(10);
///     LinearChip<chip> air;
///
/// Read to a thousandth of a degree of the line, whatever `.accuracy()` asks for. How far a real
/// part is from its line stands in its data sheet, mostly 1 to 4 K without calibration. One code of
/// 10 bits at 5 V is 0.49 K of a chip with 10 mV per degree: a lower reference is finer.
///
/// A code near 0 is a short circuit: no supply, or the output on ground. A code near full scale is
/// an open circuit; for a broken wire to read so, the pin needs a weak pull-up, such as 1 Mohm.
/// Without it the pin floats, and no software can tell.
class LinearChipSpec : public AnalogueSensor<LinearChipSpec, Temperature> {
  public:
    static constexpr Temperature smallest = -100_degC, largest = 300_degC;
    static constexpr TemperatureDifference least_span = 10_K;

    /// \param slope    -1,000 to 1,000 mV per degree, not within 0.1 of 0
    /// \param at_zero  its voltage at 0 degC, -5 to 5 V; may be what the line would give there
    constexpr LinearChipSpec(VoltagePerKelvin slope, Voltage at_zero)
        : AnalogueSensor(-40_degC, 125_degC, 0.01_K), slope_(slope), at_zero_(at_zero) {}

    /// The converter's reference, 0.5 to 10 V. Needed: a wrong one makes every degree wrong.
    constexpr LinearChipSpec reference(Voltage v) const {
        return detail::with(*this, &LinearChipSpec::reference_, v);
    }

    // What the numbers must be like, one by one; see the messages in `LinearChip` below.
    constexpr bool slope_is_possible() const {
        const VoltagePerKelvin size = slope_ < VoltagePerKelvin{} ? -slope_ : slope_;
        return size >= 0.1_mV_per_K && size <= 1000_mV_per_K;
    }
    constexpr bool at_zero_is_possible() const { return at_zero_ >= -5_V && at_zero_ <= 5_V; }
    constexpr bool reference_is_possible() const {
        return reference_ >= 0.5_V && reference_ <= 10_V;
    }
    constexpr bool part_is_possible() const {
        return slope_is_possible() && at_zero_is_possible() && reference_is_possible();
    }

    /// The exact line of this chip on its converter.
    constexpr LinearCurve curve() const {
        return LinearCurve{uint32_t{full_scale()} + 1, reference_.thousandths(),
                           at_zero_.thousandths(), slope_.thousandths()};
    }

    /// Whether a higher code means warmer.
    constexpr bool rising() const { return slope_ > VoltagePerKelvin{}; }
    /// Whether a broken wire reads full scale.
    constexpr bool open_at_top() const { return true; }

  private:
    VoltagePerKelvin slope_;
    Voltage at_zero_;
    Voltage reference_{};
};

/// Starts a `LinearChipSpec`: millivolts per degree, and the voltage at 0 degC, both from the data
/// sheet. Say against which `.reference()` the converter measures.
constexpr LinearChipSpec linear_chip(VoltagePerKelvin slope, Voltage at_zero) {
    return LinearChipSpec(slope, at_zero);
}

/// A linear chip in a device; see `AnalogueTable` for what it offers.
template <const LinearChipSpec& Spec, bool = detail::is_constant<Spec>>
class LinearChip : public AnalogueTable<Spec> {
    static_assert(Spec.slope_is_possible(),
                  "the slope must lie between 0.1 and 1,000 mV per degree, up or down");
    static_assert(Spec.at_zero_is_possible(), "the voltage at 0 degC must lie between -5 and 5 V");
    static_assert(Spec.reference_is_possible(),
                  "say against which voltage the converter measures, from 0.5 to 10 V: "
                  ".reference(5_V)");
};
template <const LinearChipSpec& Spec>
class LinearChip<Spec, false> : public detail::NotMade<Spec> {};

} // namespace zorilla
