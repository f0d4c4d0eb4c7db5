// SPDX-License-Identifier: MIT
/// \file
/// Thermistors: the common temperature sensor of two wires, read through a voltage divider.
#pragma once

#include "zorilla/sense/analogue.hpp"
#include "zorilla/sense/divider.hpp"
#include "zorilla/units/logarithm.hpp"
#include "zorilla/units/one_sentence.hpp"
#include "zorilla/units/temperature.hpp"

#include <stdint.h>

namespace zorilla {

namespace detail {

inline constexpr int64_t zero_celsius = 273'150; // in thousandths of a kelvin
inline constexpr int64_t hottest = 2'000'000;    // stops a model where it has no meaning
inline constexpr int64_t coldest = 20'000;       // likewise

/// ln R in units of 2^-20 from one in units of 2^-30.
constexpr int64_t coarse(int64_t log) { return (log + 512) >> 10; }
/// 1/T in 10^-15 / K of a temperature in thousandths of a kelvin, and back.
constexpr int64_t inverse_kelvin(int64_t x) { return divide_rounded(1'000'000'000'000'000'000, x); }

} // namespace detail

/// A temperature and the resistance that a thermistor has there, as a data sheet gives them.
struct ResistanceAt {
    Temperature temperature;
    Resistance resistance;

    constexpr int64_t log() const {
        return detail::coarse(detail::natural_log(static_cast<uint32_t>(resistance.thousandths())));
    }
    constexpr int64_t inverse_kelvin() const {
        return detail::inverse_kelvin(temperature.thousandths() + detail::zero_celsius);
    }
    constexpr bool is_possible() const {
        return temperature >= -100_degC && temperature <= 300_degC && resistance >= 1_ohm &&
               resistance <= Divider::largest_resistance;
    }
};

/// One line of a data sheet: `point(0_degC, 32.65_kohm)`.
constexpr ResistanceAt point(Temperature t, Resistance r) { return ResistanceAt{t, r}; }

/// The Beta model, R = R0 exp(B (1/T - 1/T0)): the simplified form of the Steinhart-Hart equation
/// in which data sheets give B. It follows a real part to about 1 degC over 100 degC.
struct BetaModel {
    Resistance nominal;
    TemperatureDifference beta;
    Temperature nominal_at = 25_degC;

    constexpr bool nominal_is_possible() const {
        return nominal >= 1_ohm && nominal <= Divider::largest_resistance;
    }
    constexpr bool nominal_at_is_possible() const {
        return nominal_at >= -50_degC && nominal_at <= 150_degC;
    }
    constexpr bool beta_is_possible() const { return beta >= 500_K && beta <= 10'000_K; }
    constexpr bool is_possible() const {
        return nominal_is_possible() && nominal_at_is_possible() && beta_is_possible();
    }
    constexpr bool resistance_rises() const { return false; }

    /// Thousandths of a kelvin at ln R in units of 2^-30.
    constexpr int64_t kelvin_at(int64_t log) const {
        const int64_t log_ratio =
            log - detail::natural_log(static_cast<uint32_t>(nominal.thousandths()));
        const int64_t nominal_kelvin = nominal_at.thousandths() + detail::zero_celsius;
        // 1/T = 1/T0 + ln(R/R0)/B, over a common denominator of 2^-20.
        const int64_t top = nominal_kelvin * beta.thousandths() << 20;
        const int64_t bottom =
            (int64_t{beta.thousandths()} << 20) + (nominal_kelvin * log_ratio >> 10);
        return bottom <= top / detail::hottest ? detail::hottest : divide_rounded(top, bottom);
    }
};

/// The Steinhart-Hart equation, 1/T = A + B ln R + C (ln R)^3 with R in ohm (J. S. Steinhart and
/// S. R. Hart, Deep-Sea Research 15, 1968). It follows a real part to some 0.01 degC over 100 degC.
struct SteinhartHartModel {
    int64_t a, b, c; ///< in units of 10^-15 / K

    /// The three coefficients of the curve through three points.
    static constexpr SteinhartHartModel through(ResistanceAt p, ResistanceAt q, ResistanceAt r) {
        if (!(p.is_possible() && q.is_possible() && r.is_possible()) || p.log() == q.log() ||
            p.log() == r.log() || q.log() == r.log())
            return {0, 0, 0};
        const auto divided = [](int64_t top, int64_t bottom) {
            return bottom < 0 ? divide_rounded(-top, -bottom) : divide_rounded(top, bottom);
        };
        const auto slope = [divided](ResistanceAt from, ResistanceAt to) {
            return divided((to.inverse_kelvin() - from.inverse_kelvin()) * (int64_t{1} << 20),
                           to.log() - from.log());
        };
        const int64_t to_q = slope(p, q);
        const int64_t bend = divided((slope(p, r) - to_q) * (int64_t{1} << 20), r.log() - q.log());
        SteinhartHartModel out{0, 0, 0};
        out.c = divided(bend * (int64_t{1} << 20), p.log() + q.log() + r.log());
        out.b =
            to_q - scaled(out.c, (p.log() * p.log() + p.log() * q.log() + q.log() * q.log()) >> 20);
        out.a = p.inverse_kelvin() - scaled(out.b, p.log()) - scaled(out.c, cube(p.log()));
        return out;
    }

    /// 3 C L^2 + B at L = ln R in units of 2^-20: which way 1/T goes.
    constexpr int64_t slope_at(int64_t log) const { return b + 3 * scaled(c, log * log >> 20); }
    /// Whether the coefficients are of the size that thermistors have, and T goes one way only
    /// from 1 ohm to 10 Mohm.
    constexpr bool is_possible() const {
        const auto within = [](int64_t x, int64_t most) { return x <= most && x >= -most; };
        const int64_t log_of_largest = 16'901'225; // ln(10 Mohm) in units of 2^-20
        return within(a, 20'000'000'000'000) && within(b, 2'000'000'000'000) &&
               within(c, 10'000'000'000) && b != 0 &&
               (slope_at(0) > 0) == (slope_at(log_of_largest) > 0);
    }
    constexpr bool resistance_rises() const { return b < 0; }

    constexpr int64_t kelvin_at(int64_t log) const {
        const int64_t l = detail::coarse(log);
        const int64_t inverse = a + scaled(b, l) + scaled(c, cube(l));
        if (inverse <= 1'000'000'000'000'000'000 / detail::hottest)
            return detail::hottest;
        return inverse >= 1'000'000'000'000'000'000 / detail::coldest
                   ? detail::coldest
                   : detail::inverse_kelvin(inverse);
    }

  private:
    static constexpr int64_t cube(int64_t l) { return (l * l >> 20) * l >> 20; }
    /// `x` times `y`, that in units of 2^-20; split, so that no product leaves 64 bits.
    static constexpr int64_t scaled(int64_t x, int64_t y) {
        return (x >> 20) * y + ((x & 0xfffff) * (y >> 10) >> 10);
    }
};

/// A table of temperatures and resistances as a data sheet prints it. Between two lines, and beyond
/// the ends, ln R is straight over 1/T (the Beta that the two lines have).
/// \tparam Most  how many lines it has room for
template <uint8_t Most> struct ResistanceTableModel {
    ResistanceAt lines[Most] = {};
    uint8_t count = Most;

    /// Whether the lines go up in temperature, and resistance goes one way.
    constexpr bool is_possible() const {
        if (count < 2)
            return false;
        for (uint8_t i = 0; i < count; ++i) {
            if (!lines[i].is_possible())
                return false;
            if (i > 0 && (lines[i].temperature <= lines[i - 1].temperature ||
                          lines[i].log() == lines[i - 1].log() ||
                          (lines[i].log() > lines[i - 1].log()) != resistance_rises()))
                return false;
        }
        return true;
    }
    constexpr bool resistance_rises() const { return lines[1].log() > lines[0].log(); }

    constexpr int64_t kelvin_at(int64_t log) const {
        const int64_t l = detail::coarse(log);
        uint8_t i = 0;
        while (i + 2 < count && (l > lines[i + 1].log()) == resistance_rises())
            ++i;
        const ResistanceAt& p = lines[i];
        const ResistanceAt& q = lines[i + 1];
        const int64_t run = q.log() - p.log();
        // 1/T in units of 10^-13, so that the product stays within 64 bits.
        const int64_t from = p.inverse_kelvin() / 100;
        const int64_t rise = (q.inverse_kelvin() / 100 - from) * (l - p.log());
        const int64_t inverse =
            from + (run < 0 ? divide_rounded(-rise, -run) : divide_rounded(rise, run));
        if (inverse <= 10'000'000'000'000'000 / detail::hottest)
            return detail::hottest;
        return inverse >= 10'000'000'000'000'000 / detail::coldest
                   ? detail::coldest
                   : divide_rounded(10'000'000'000'000'000, inverse);
    }
};

/// A thermistor's model in its divider, all in integers; for desk and compiler.
template <class Model> struct ThermistorCurve {
    Divider divider;
    uint32_t codes; ///< how many codes the converter has
    Model model;

    /// The temperature that `code` stands for, in thousandths of a degree Celsius, rounded.
    constexpr int32_t value_at(uint16_t code) const {
        return static_cast<int32_t>(model.kelvin_at(divider.log_of_resistance(code, codes)) -
                                    detail::zero_celsius);
    }
};

/// A thermistor as its data sheet gives it and as it is wired.
///
///     constexpr auto probe = thermistor(10_kohm, 3950_K).pull_up(10_kohm).bits(10);
///     Thermistor<probe> roost;
///
/// How far the real part is from its model is not counted in `largest_error()`, which says how far
/// the table is from the model. Default range -40 to 125 degC, default accuracy 0.05 K.
template <class Model>
class ThermistorSpec : public AnalogueSensor<ThermistorSpec<Model>, Temperature>,
                       public InDivider<ThermistorSpec<Model>> {
  public:
    static constexpr Temperature smallest = -100_degC, largest = 300_degC;
    static constexpr TemperatureDifference least_span = 10_K;

    constexpr explicit ThermistorSpec(const Model& model)
        : AnalogueSensor<ThermistorSpec, Temperature>(-40_degC, 125_degC, 0.05_K), model_(model) {}

    /// With a Beta: the temperature at which the data sheet gives the nominal resistance.
    /// Default: 25 degC.
    constexpr ThermistorSpec nominal_at(Temperature t) const {
        ThermistorSpec out = *this;
        out.model_.nominal_at = t;
        return out;
    }

    // What the numbers must be like; see the messages in `Thermistor` below.
    constexpr bool divider_is_possible() const { return divider_.is_possible(); }
    constexpr bool voltages_are_possible() const { return divider_.voltages_are_possible(); }
    constexpr bool part_is_possible() const {
        return model_.is_possible() && divider_is_possible() && voltages_are_possible();
    }
    constexpr const Model& model() const { return model_; }

    /// The exact curve of this part in its divider.
    constexpr ThermistorCurve<Model> curve() const {
        return {divider_, uint32_t{this->full_scale()} + 1, model_};
    }
    /// Whether a higher code means warmer.
    constexpr bool rising() const { return model_.resistance_rises() == divider_.sensor_to_ground; }
    /// Whether a broken wire reads full scale.
    constexpr bool open_at_top() const { return divider_.sensor_to_ground; }
    constexpr uint16_t top_code() const { return divider_.top_code(this->full_scale()); }

  private:
    friend InDivider<ThermistorSpec>;
    Model model_;
    Divider divider_{};
};

/// Starts a thermistor's spec: nominal resistance (at 25 degC unless said otherwise) and Beta, both
/// from the data sheet.
constexpr ThermistorSpec<BetaModel> thermistor(Resistance nominal, TemperatureDifference beta) {
    return ThermistorSpec<BetaModel>({nominal, beta});
}

/// The three coefficients of the Steinhart-Hart equation, for R in ohm, as data sheets and fits
/// give them: `thermistor(1.129148e-3_per_K, 2.34125e-4_per_K, 8.76741e-8_per_K)`.
struct PerKelvin {
    int64_t quadrillionths; ///< in units of 10^-15 / K
};
constexpr ThermistorSpec<SteinhartHartModel> thermistor(PerKelvin a, PerKelvin b, PerKelvin c) {
    return ThermistorSpec<SteinhartHartModel>(
        {a.quadrillionths, b.quadrillionths, c.quadrillionths});
}

/// The Steinhart-Hart curve through three points, best the ends and the middle of the range.
constexpr ThermistorSpec<SteinhartHartModel> thermistor(ResistanceAt a, ResistanceAt b,
                                                        ResistanceAt c) {
    return ThermistorSpec<SteinhartHartModel>(SteinhartHartModel::through(a, b, c));
}

/// A data sheet's table, from cold to hot:
/// `thermistor_table(point(-20_degC, 97.07_kohm), point(0_degC, 32.65_kohm), ...)`.
template <class... Lines> constexpr auto thermistor_table(Lines... lines) {
    static_assert(detail::all_are<ResistanceAt, Lines...>,
                  "a thermistor's table is made of points: "
                  "thermistor_table(point(0_degC, 32.65_kohm), point(25_degC, 10_kohm))");
    return ThermistorSpec<ResistanceTableModel<sizeof...(Lines)>>(
        {{detail::this_or(ResistanceAt{}, lines)...}, sizeof...(Lines)});
}

namespace detail {

/// `[-]digits[.digits][e[-]digits]` in units of 10^-15; `valid` is false if it is no such number or
/// does not fit.
struct Quadrillionths {
    int64_t value = 0;
    bool valid = false;
};
constexpr Quadrillionths parse_quadrillionths(const char* text, size_t length) {
    size_t mantissa = 0;
    while (mantissa < length && text[mantissa] != 'e' && text[mantissa] != 'E')
        ++mantissa;
    const Decimal written = parse_decimal(text, mantissa);
    Decimal exponent{0, 0, true};
    if (mantissa < length)
        exponent = parse_decimal(text + mantissa + 1, length - mantissa - 1);
    if (!written.valid || !exponent.valid || exponent.places != 0 || exponent.digits < -30 ||
        exponent.digits > 3)
        return {};
    Quadrillionths out{written.digits, true};
    int64_t shift = 15 - int64_t{written.places} + exponent.digits;
    for (; shift > 0 && out.valid; --shift)
        out.valid = !__builtin_mul_overflow(out.value, int64_t{10}, &out.value);
    for (; shift < 0; ++shift)
        out.value = divide_rounded(out.value, 10);
    return out;
}

} // namespace detail

inline namespace literals {

/// `2.34125e-4_per_K`: a coefficient of the Steinhart-Hart equation, kept to 10^-15.
template <char... Text> constexpr PerKelvin operator""_per_K() {
    constexpr char text[] = {Text...};
    constexpr detail::Quadrillionths read = detail::parse_quadrillionths(text, sizeof text);
    static_assert(read.valid, "write a coefficient such as 2.34125e-4_per_K");
    return PerKelvin{read.value};
}
constexpr PerKelvin operator-(PerKelvin x) { return PerKelvin{-x.quadrillionths}; }

} // namespace literals

/// A thermistor in a device; see `AnalogueTable` for what it offers.
template <const auto& Spec, bool = detail::is_constant<Spec>>
class Thermistor : public AnalogueTable<Spec> {
    template <uint8_t Most>
    static constexpr bool model_is_possible(const ResistanceTableModel<Most>&) {
        static_assert(Spec.model().is_possible(),
                      "a thermistor's table must go up in temperature, and its resistance one way, "
                      "from 1 ohm to 10 Mohm");
        return true;
    }
    static constexpr bool model_is_possible(const SteinhartHartModel&) {
        static_assert(Spec.model().is_possible(),
                      "these points or coefficients are no thermistor's: three different points "
                      "from the data sheet, or A, B and C for R in ohm, such as 1.129e-3, 2.34e-4 "
                      "and 8.77e-8");
        return true;
    }
    static constexpr bool model_is_possible(const BetaModel&) {
        static_assert(Spec.model().nominal_is_possible(),
                      "the nominal resistance must lie between 1 ohm and 10 Mohm");
        static_assert(Spec.model().nominal_at_is_possible(),
                      "the temperature of the nominal resistance must lie between -50 and 150 "
                      "degC");
        static_assert(Spec.model().beta_is_possible(),
                      "Beta must lie between 500 K and 10,000 K; data sheets mostly say 3,000 to "
                      "4,500 K");
        return true;
    }
    static_assert(model_is_possible(Spec.model()));
    static_assert(Spec.divider_is_possible(),
                  "say which resistor forms the divider, from 1 ohm to 10 Mohm: .pull_up(10_kohm) "
                  "if it goes to the supply, .pull_down(10_kohm) if it goes to ground");
    static_assert(Spec.voltages_are_possible(),
                  "the divider's supply must lie between 1 and 24 V, the converter's reference "
                  "between 0.5 and 10 V: .supplied(5_V, 3.3_V)");
};
template <const auto& Spec> class Thermistor<Spec, false> : public detail::NotMade<Spec> {};

} // namespace zorilla
