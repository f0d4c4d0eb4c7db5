// SPDX-License-Identifier: MIT
/// \file
/// Thermistors: the common temperature sensor of two wires, read through a voltage divider.
#pragma once

#include "zorilla/sense/analogue.hpp"
#include "zorilla/units/logarithm.hpp"
#include "zorilla/units/temperature.hpp"

#include <stdint.h>

namespace zorilla {

/// The Beta model of a thermistor in its divider, all in integers; for desk and compiler.
struct BetaCurve {
    static constexpr int64_t zero_celsius = 273'150; // in thousandths of a kelvin
    static constexpr int64_t hottest = 2'000'000;    // stops the model where it has no meaning

    bool thermistor_to_ground;
    uint32_t codes;         ///< how many codes the converter has
    int64_t nominal_kelvin; ///< in thousandths
    int64_t beta;           ///< in thousandths of a kelvin
    int64_t log_of_pull;    ///< ln(pull / nominal) in units of 2^-30

    /// The temperature that `code` stands for, in thousandths of a degree Celsius, rounded. Codes
    /// of a bare wire (0 and full scale) count as their neighbours.
    constexpr int32_t value_at(uint16_t code) const {
        const uint32_t c = code == 0 ? 1 : code;
        const uint32_t below_pin = thermistor_to_ground ? c : codes - c;
        const int64_t log_ratio =
            detail::natural_log(below_pin) - detail::natural_log(codes - below_pin) + log_of_pull;
        // 1/T = 1/T0 + ln(R/R0)/B, over a common denominator of 2^-20.
        const int64_t top = nominal_kelvin * beta << 20;
        const int64_t bottom = (beta << 20) + (nominal_kelvin * log_ratio >> 10);
        const int64_t kelvin = bottom <= top / hottest ? hottest : divide_rounded(top, bottom);
        return static_cast<int32_t>(kelvin - zero_celsius);
    }
};

/// A thermistor as its data sheet gives it (resistance at a temperature, Beta) and as it is wired.
///
///     constexpr auto probe = thermistor(10_kohm, 3950_K).pull_up(10_kohm).bits(10);
///     Thermistor<probe> roost;
///
/// The Beta model, R = R0 exp(B (1/T - 1/T0)), is the simplified form of the Steinhart-Hart
/// equation (J. S. Steinhart and S. R. Hart, Deep-Sea Research 15, 1968) in which data sheets give
/// B. It follows a real part to about 1 degC over 100 degC; that part of the error is not counted
/// in `largest_error()`, which says how far the table is from the model.
class ThermistorSpec : public AnalogueTemperature<ThermistorSpec> {
  public:
    constexpr ThermistorSpec(Resistance nominal, TemperatureDifference beta)
        : AnalogueTemperature(0.05_K), nominal_(nominal), beta_(beta) {}

    /// The temperature at which the data sheet gives the nominal resistance. Default: 25 degC.
    constexpr ThermistorSpec nominal_at(Temperature t) const {
        ThermistorSpec out = *this;
        out.nominal_at_ = t;
        return out;
    }
    /// A resistor from the pin to the supply, the thermistor from the pin to ground.
    constexpr ThermistorSpec pull_up(Resistance r) const {
        ThermistorSpec out = *this;
        out.pull_ = r;
        out.thermistor_to_ground_ = true;
        return out;
    }
    /// A resistor from the pin to ground, the thermistor from the pin to the supply.
    constexpr ThermistorSpec pull_down(Resistance r) const {
        ThermistorSpec out = *this;
        out.pull_ = r;
        out.thermistor_to_ground_ = false;
        return out;
    }
    // What the numbers must be like, one by one; see the messages in `Thermistor` below.
    constexpr bool nominal_is_possible() const {
        return nominal_ >= 1_ohm && nominal_ <= largest_resistance;
    }
    constexpr bool nominal_at_is_possible() const {
        return nominal_at_ >= -50_degC && nominal_at_ <= 150_degC;
    }
    constexpr bool beta_is_possible() const { return beta_ >= 500_K && beta_ <= 10'000_K; }
    constexpr bool divider_is_possible() const {
        return pull_ >= 1_ohm && pull_ <= largest_resistance;
    }
    constexpr bool part_is_possible() const {
        return nominal_is_possible() && nominal_at_is_possible() && beta_is_possible() &&
               divider_is_possible();
    }

    /// The exact curve of this part in its divider.
    constexpr BetaCurve curve() const {
        return BetaCurve{thermistor_to_ground_, uint32_t{full_scale()} + 1,
                         int64_t{nominal_at_.thousandths()} + BetaCurve::zero_celsius,
                         beta_.thousandths(),
                         detail::natural_log(static_cast<uint32_t>(pull_.thousandths())) -
                             detail::natural_log(static_cast<uint32_t>(nominal_.thousandths()))};
    }

    /// Whether a higher code means warmer.
    constexpr bool rising() const { return !thermistor_to_ground_; }

    /// Whether a broken wire reads full scale.
    constexpr bool open_at_top() const { return thermistor_to_ground_; }

  private:
    static constexpr Resistance largest_resistance = 10'000_kohm;

    Resistance nominal_;
    TemperatureDifference beta_;
    Temperature nominal_at_ = 25_degC;
    Resistance pull_{};
    bool thermistor_to_ground_ = true;
};

/// Starts a `ThermistorSpec`: nominal resistance (at 25 degC unless said otherwise) and Beta, both
/// from the data sheet.
constexpr ThermistorSpec thermistor(Resistance nominal, TemperatureDifference beta) {
    return ThermistorSpec(nominal, beta);
}

/// A thermistor in a device; see `AnalogueTable` for what it offers.
template <const ThermistorSpec& Spec> class Thermistor : public AnalogueTable<Spec> {
    static_assert(Spec.nominal_is_possible(),
                  "the nominal resistance must lie between 1 ohm and 10 Mohm");
    static_assert(Spec.nominal_at_is_possible(),
                  "the temperature of the nominal resistance must lie between -50 and 150 degC");
    static_assert(Spec.beta_is_possible(), "Beta must lie between 500 K and 10,000 K; data sheets "
                                           "mostly say 3,000 to 4,500 K");
    static_assert(Spec.divider_is_possible(),
                  "say which resistor forms the divider, from 1 ohm to 10 Mohm: .pull_up(10_kohm) "
                  "if it goes to the supply, .pull_down(10_kohm) if it goes to ground");
};

} // namespace zorilla
