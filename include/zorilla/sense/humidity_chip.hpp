// SPDX-License-Identifier: MIT
/// \file
/// Analogue humidity sensors: a voltage that rises with relative humidity, and leans on
/// temperature.
#pragma once

#include "zorilla/sense/climate.hpp"
#include "zorilla/sense/share.hpp"
#include "zorilla/units/one_sentence.hpp"
#include "zorilla/units/settable.hpp"

#include <stdint.h>

namespace zorilla {

/// The exact line of such a chip at 25 degC: (V - V0) / slope.
struct HumidityLine {
    uint32_t codes;
    int64_t reference; ///< in microvolts
    int64_t at_zero;   ///< in microvolts
    int64_t slope;     ///< in microvolts per percent
    constexpr int32_t value_at(uint16_t code) const {
        return static_cast<int32_t>(
            divide_rounded((reference * code - at_zero * codes) * 1000, slope * codes));
    }
    constexpr StraightLine line(uint16_t first) const {
        return straight_line(1000 * reference, -1000 * at_zero * codes, slope * codes, first);
    }
};

/// An analogue humidity sensor as its data sheet gives it:
/// RH = (V - V0) / slope / (1 - loss (T - 25 degC)).
///
///     constexpr auto chip = humidity_chip(31_mV_per_percent, 800_mV)
///                               .loses(0.216_percent_per_K).reference(5_V);
///     HumidityChip<chip> cellar;
///     const auto damp = cellar.read(sample, air); // `air`: a Reading<Temperature>
///
/// Read to 0.05 %RH of that formula; the part itself is good for 2 to 5 %RH. Before the correction
/// it may be up to 5 %RH beyond 0 or 100 (its range), after it up to 10 %RH: that counts as 0 or
/// 100. What is further out is out of range. Temperatures from -40 to 85 degC.
class HumidityChipSpec : public AnalogueSensor<HumidityChipSpec, RelativeHumidity> {
  public:
    static constexpr RelativeHumidity smallest = -20_percent_RH, largest = 120_percent_RH,
                                      least_span = 10_percent_RH;

    /// \param slope    1 to 200 mV for each percent
    /// \param at_zero  its voltage at 0 %RH, 0 to 5 V
    constexpr HumidityChipSpec(VoltagePerPercent slope, Voltage at_zero)
        : AnalogueSensor(-5_percent_RH, 105_percent_RH, 0.01_percent_RH), slope_(slope),
          at_zero_(at_zero) {}

    /// The converter's reference, 0.5 to 10 V.
    constexpr HumidityChipSpec reference(Voltage v) const {
        return detail::with(*this, &HumidityChipSpec::reference_, v);
    }
    /// How much of its signal it loses with each kelvin above 25 degC, -0.5 to 0.5 %. Default: 0.
    constexpr HumidityChipSpec loses(PercentPerKelvin loss) const {
        return detail::with(*this, &HumidityChipSpec::loss_, loss);
    }

    constexpr bool slope_is_possible() const {
        return slope_ >= 1_mV_per_percent && slope_ <= 200_mV_per_percent;
    }
    constexpr bool at_zero_is_possible() const { return at_zero_ >= 0_V && at_zero_ <= 5_V; }
    constexpr bool reference_is_possible() const {
        return reference_ >= 0.5_V && reference_ <= 10_V;
    }
    constexpr bool loss_is_possible() const {
        return loss_ >= -0.5_percent_per_K && loss_ <= 0.5_percent_per_K;
    }
    constexpr bool part_is_possible() const {
        return slope_is_possible() && at_zero_is_possible() && reference_is_possible() &&
               loss_is_possible();
    }

    constexpr HumidityLine curve() const {
        return {uint32_t{full_scale()} + 1, reference_.thousandths(), at_zero_.thousandths(),
                slope_.thousandths()};
    }
    constexpr bool rising() const { return true; }
    constexpr bool open_at_top() const { return true; }
    constexpr PercentPerKelvin loss() const { return loss_; }

  private:
    VoltagePerPercent slope_;
    Voltage at_zero_;
    Voltage reference_{};
    PercentPerKelvin loss_{};
};

/// Starts a `HumidityChipSpec`: millivolts for each percent, and the voltage at 0 %RH.
constexpr HumidityChipSpec humidity_chip(VoltagePerPercent slope, Voltage at_zero) {
    return HumidityChipSpec(slope, at_zero);
}

/// What temperature takes from an analogue humidity sensor, 1 / (1 - loss (T - 25 degC)), in units
/// of 2^-15: the exact curve that its table is made from.
struct CompensationCurve {
    static constexpr uint16_t first = 0, last = detail::last_climate_argument;
    static constexpr int32_t error = 6, widest = 13;
    int32_t loss; ///< in thousandths of a percent per kelvin
    constexpr int32_t value_at(uint16_t argument) const {
        const int64_t above = detail::climate_temperature(argument) - 25'000;
        return static_cast<int32_t>(
            divide_rounded(int64_t{100'000'000} * 32'768, 100'000'000 - loss * above));
    }
};

namespace detail {

/// The compensation of `read_compensated`.
[[gnu::always_inline]] constexpr RelativeHumidity compensated(RelativeHumidity raw,
                                                              int32_t factor) {
    const int32_t at_25 = raw.thousandths();
    // Halved, to fit 16 bits.
    const auto half = static_cast<uint16_t>(size_of_number(at_25) >> 1);
    const auto size =
        static_cast<int32_t>(shifted_by_14(product(half, static_cast<uint16_t>(factor))));
    return RelativeHumidity::from_thousandths(at_25 < 0 ? -size : size);
}

} // namespace detail

/// The last step of an analogue humidity sensor: what it reads at 25 degC, and the temperature, to
/// relative humidity. A temperature that is not healthy passes its health on.
/// \param factor_at  the compensation for a `climate_argument`, in units of 2^-15
template <class FactorAt>
[[gnu::always_inline]] constexpr Reading<RelativeHumidity>
compensate(Reading<RelativeHumidity> at_25, Reading<Temperature> air, FactorAt factor_at) {
    using Humidity = Reading<RelativeHumidity>;
    if (!at_25.ok())
        return at_25;
    if (!air.ok())
        return Humidity::without_value(air.health());
    const Temperature t = air.value_or({});
    if (!in_climate(t))
        return Humidity::without_value(Health::out_of_range);
    // Twice 16 bits is as far as the compensation goes.
    const RelativeHumidity raw = at_25.value_or({});
    if (static_cast<uint32_t>(raw.thousandths()) + 131'000U > 262'000U)
        return Humidity::without_value(Health::out_of_range);
    const RelativeHumidity value = detail::compensated(raw, factor_at(detail::climate_argument(t)));
    const auto thousandths = static_cast<uint32_t>(value.thousandths());
    if (thousandths <= 100'000U)
        return Humidity::of_bounded(value);
    // A part is a little off at its ends; what is further out is no air.
    if (thousandths + 10'000U > 120'000U)
        return Humidity::without_value(Health::out_of_range);
    return Humidity::of_bounded(value > 100_percent_RH ? 100_percent_RH : 0_percent_RH);
}

/// An analogue humidity sensor in a device; see `AnalogueTable` for what it offers.
template <const HumidityChipSpec& Spec, bool = detail::is_constant<Spec>>
class HumidityChip : public AnalogueTable<Spec> {
    static_assert(Spec.slope_is_possible(),
                  "the slope must lie between 1 and 200 mV for each percent of humidity");
    static_assert(Spec.at_zero_is_possible(), "the voltage at 0 %RH must lie between 0 and 5 V");
    static_assert(Spec.reference_is_possible(),
                  "say against which voltage the converter measures, from 0.5 to 10 V: "
                  ".reference(5_V)");
    static_assert(Spec.loss_is_possible(),
                  "the loss must lie between -0.5 and 0.5 % for each kelvin; data sheets mostly "
                  "say 0.2: .loses(0.216_percent_per_K)");
    struct Curve : CompensationCurve {
        constexpr Curve() : CompensationCurve{Spec.loss().thousandths()} {}
    };

  public:
    /// The humidity at the temperature of the air, or why there is none.
    [[gnu::always_inline]] Reading<RelativeHumidity> read(Sample sample,
                                                          Reading<Temperature> air) const {
        return compensate(AnalogueTable<Spec>::read(sample), air, [](uint16_t argument) {
            return detail::FunctionTable<Curve>::inlined(argument);
        });
    }
};
template <const HumidityChipSpec& Spec>
class HumidityChip<Spec, false> : public detail::NotMade<Spec> {};

} // namespace zorilla
