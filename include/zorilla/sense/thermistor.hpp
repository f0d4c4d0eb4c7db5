// SPDX-License-Identifier: MIT
/// \file
/// Thermistors: the common temperature sensor of two wires, read through a voltage divider.
#pragma once

#include "zorilla/sense/code_table.hpp"
#include "zorilla/sense/sample.hpp"
#include "zorilla/units/logarithm.hpp"
#include "zorilla/units/program_memory.hpp"
#include "zorilla/units/reading.hpp"
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
class ThermistorSpec {
  public:
    constexpr ThermistorSpec(Resistance nominal, TemperatureDifference beta)
        : nominal_(nominal), beta_(beta) {}

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
    /// The width of the converter, 8 to 16 bits. Its reference must be the divider's supply.
    constexpr ThermistorSpec bits(uint8_t converter_bits) const {
        ThermistorSpec out = *this;
        out.bits_ = converter_bits;
        return out;
    }
    /// The temperatures to be measured; outside, the reading is out of range.
    /// Default: -40 to 125 degC. A smaller range makes a smaller table.
    constexpr ThermistorSpec range(Temperature lowest, Temperature highest) const {
        ThermistorSpec out = *this;
        out.lowest_ = lowest;
        out.highest_ = highest;
        return out;
    }
    /// How far the table may be from the Beta model. Default: 0.05 K.
    constexpr ThermistorSpec accuracy(TemperatureDifference within) const {
        ThermistorSpec out = *this;
        out.accuracy_ = within;
        return out;
    }

    constexpr Temperature lowest() const { return lowest_; }
    constexpr Temperature highest() const { return highest_; }
    constexpr TemperatureDifference accuracy() const { return accuracy_; }

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
    constexpr bool bits_are_possible() const { return bits_ >= 8 && bits_ <= 16; }
    constexpr bool range_is_possible() const {
        return lowest_ >= -100_degC && highest_ <= 300_degC && highest_ - lowest_ >= 10_K;
    }
    constexpr bool accuracy_is_possible() const {
        return accuracy_ >= 0.001_K && accuracy_ <= 10_K;
    }
    constexpr bool is_possible() const {
        return nominal_is_possible() && nominal_at_is_possible() && beta_is_possible() &&
               divider_is_possible() && bits_are_possible() && range_is_possible() &&
               accuracy_is_possible();
    }

    /// The largest code of the converter.
    constexpr uint16_t full_scale() const {
        return static_cast<uint16_t>((uint32_t{1} << bits_) - 1);
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

    /// The lowest code at which the temperature is at least (rising) or at most (falling) `t`.
    constexpr uint16_t code_at(Temperature t) const {
        const BetaCurve exact = curve();
        int32_t below = 0;
        int32_t from = full_scale();
        while (from - below > 1) {
            const int32_t middle = (below + from) / 2;
            const int32_t value = exact.value_at(static_cast<uint16_t>(middle));
            const bool reached = rising() ? value >= t.thousandths() : value <= t.thousandths();
            (reached ? from : below) = middle;
        }
        return static_cast<uint16_t>(from);
    }

    /// The codes that stand for temperatures within the range.
    constexpr uint16_t first_code() const { return code_at(rising() ? lowest_ : highest_); }
    constexpr uint16_t last_code() const {
        const Temperature end = rising() ? highest_ : lowest_;
        const uint16_t code = code_at(end);
        return curve().value_at(code) == end.thousandths() ? code : static_cast<uint16_t>(code - 1);
    }

    /// Codes closer than this to an end of the converter are a broken or a shorted wire.
    constexpr uint16_t wire_margin() const {
        const auto margin = static_cast<uint16_t>((uint32_t{full_scale()} + 1) >> 7);
        return margin < 2 ? 2 : margin;
    }

    /// Whether cold and hot ends of the range can be told from a broken and a shorted wire.
    constexpr bool wires_can_be_told() const {
        return first_code() >= wire_margin() && last_code() <= full_scale() - wire_margin();
    }

    /// How many codes a temperature keeps from the nearer end of the range; negative if outside.
    constexpr int32_t counts_inside(Temperature t) const {
        const int32_t code = code_at(t);
        const int32_t from_first = code - first_code();
        const int32_t from_last = last_code() - code;
        return from_first < from_last ? from_first : from_last;
    }

    /// What a code outside the range means.
    constexpr Health fault_of(uint16_t code) const {
        const bool at_top = code > full_scale() - wire_margin();
        if (!at_top && code >= wire_margin())
            return Health::out_of_range;
        return at_top == thermistor_to_ground_ ? Health::open_circuit : Health::short_circuit;
    }

    constexpr TablePlan plan() const {
        return plan_table(curve(), first_code(), last_code(), accuracy_.thousandths());
    }

  private:
    static constexpr Resistance largest_resistance = 10'000_kohm;

    Resistance nominal_;
    TemperatureDifference beta_;
    Temperature nominal_at_ = 25_degC;
    Resistance pull_{};
    bool thermistor_to_ground_ = true;
    uint8_t bits_ = 10;
    Temperature lowest_ = -40_degC;
    Temperature highest_ = 125_degC;
    TemperatureDifference accuracy_ = 0.05_K;
};

/// Starts a `ThermistorSpec`: nominal resistance (at 25 degC unless said otherwise) and Beta, both
/// from the data sheet.
constexpr ThermistorSpec thermistor(Resistance nominal, TemperatureDifference beta) {
    return ThermistorSpec(nominal, beta);
}

/// A sample to a temperature, or to what is wrong with the wire. The same code on desk and chip;
/// the desk gives its table at run time, the chip at compile time.
template <class EntryAt>
[[gnu::always_inline]] constexpr Reading<Temperature>
read_thermistor(const ThermistorSpec& spec, const TablePlan& plan, EntryAt entry_at,
                Sample sample) {
    if (!sample.taken())
        return Reading<Temperature>::without_value(Health::missing);
    if (sample.code() < plan.first_code || sample.code() > plan.last_code)
        return Reading<Temperature>::without_value(spec.fault_of(sample.code()));
    return Reading<Temperature>::of_bounded(
        Temperature::from_thousandths(look_up(plan, entry_at, sample.code())));
}

/// A thermistor whose table is built by the compiler and kept in program memory.
///
/// Cost on the ATmega328P: printed by `./dev metal`.
template <const ThermistorSpec& Spec> class Thermistor {
    static_assert(Spec.nominal_is_possible(),
                  "the nominal resistance must lie between 1 ohm and 10 Mohm");
    static_assert(Spec.nominal_at_is_possible(),
                  "the temperature of the nominal resistance must lie between -50 and 150 degC");
    static_assert(Spec.beta_is_possible(), "Beta must lie between 500 K and 10,000 K; data sheets "
                                           "mostly say 3,000 to 4,500 K");
    static_assert(Spec.divider_is_possible(),
                  "say which resistor forms the divider, from 1 ohm to 10 Mohm: .pull_up(10_kohm) "
                  "if it goes to the supply, .pull_down(10_kohm) if it goes to ground");
    static_assert(Spec.bits_are_possible(), "the converter must have 8 to 16 bits: .bits(10)");
    static_assert(Spec.range_is_possible(),
                  "the range must lie between -100 and 300 degC and span at least 10 K");
    static_assert(Spec.accuracy_is_possible(), "the accuracy must lie between 0.001 K and 10 K");
    static_assert(
        !Spec.is_possible() || Spec.wires_can_be_told(),
        "an end of the range cannot be told from a broken or shorted wire: narrow .range() "
        "or choose a pull resistor nearer to the thermistor's resistance");

  public:
    /// The layout of the table.
    static constexpr TablePlan plan = Spec.is_possible() ? Spec.plan() : TablePlan{};
    static_assert(!Spec.is_possible() || plan.close_enough,
                  "no table of one kilobyte is that close to the model: ask for less .accuracy()");

    /// How far a reading may be from the Beta model, over the whole range.
    static constexpr TemperatureDifference largest_error() {
        return TemperatureDifference::from_thousandths(plan.largest_error);
    }

    /// The temperature, or why there is none.
    [[gnu::always_inline]] Reading<Temperature> read(Sample sample) const {
        return read_thermistor(
            Spec, plan, [](uint16_t i) { return detail::load_entry(&table.entries[i]); }, sample);
    }

  private:
    struct Table {
        int16_t entries[plan.entries];
    };
    static constexpr Table build() {
        Table out{};
        fill_table(Spec.curve(), plan, out.entries);
        return out;
    }
    ZORILLA_PROGRAM_MEMORY static constexpr Table table = build();
};

} // namespace zorilla
