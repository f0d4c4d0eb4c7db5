// SPDX-License-Identifier: MIT
/// \file
/// Gas sensors with a heated layer whose resistance goes with the concentration by a power law.
#pragma once

#include "zorilla/sense/divider.hpp"
#include "zorilla/sense/gas_climate.hpp"
#include "zorilla/sense/humidity_frame.hpp"
#include "zorilla/sense/photoresistor.hpp"
#include "zorilla/units/one_sentence.hpp"
#include "zorilla/units/settable.hpp"
#include "zorilla/units/temperature.hpp"
#include "zorilla/units/time.hpp"

#include <stdint.h>

namespace zorilla {

/// One point of a data sheet's log-log curve: a concentration, and Rs / R0 there.
struct GasPoint {
    Concentration concentration;
    int32_t millionths; ///< of Rs / R0
};
constexpr GasPoint gas_point(Concentration c, Ratio rs_over_r0) {
    return {c, static_cast<int32_t>(int64_t{rs_over_r0.thousandths()} * 1000 > detail::largest_int32
                                        ? detail::largest_int32
                                        : rs_over_r0.thousandths() * 1000)};
}
/// A small ratio with more digits: `gas_point(200_ppm, 46.4_permille)`.
constexpr GasPoint gas_point(Concentration c, Permille rs_over_r0) {
    return {c, rs_over_r0.thousandths()};
}

/// A gas sensor as its data sheet gives it and as it is wired.
///
///     constexpr auto nose = gas_sensor(gas_point(10_ppm, 2.6_times), gas_point(200_ppm,
///     0.7_times))
///                               .pull_down(10_kohm).clean_air(3.6_times).warm_up(3_min)
///                               .range(5_ppm, 300_ppm);
///     GasSensor<nose> ammonia(30_kohm); // R0, from a calibration in clean air
///
/// Within 1 % of the straight line through both points in the log-log plane; a real sensor is good
/// for a factor of two, and answers to other gases too.
class GasSpec : public InDivider<GasSpec> {
  public:
    constexpr GasSpec(GasPoint a, GasPoint b) : a_(a), b_(b) {}

    /// The width of the converter, 8 to 16 bits. Default: 10.
    constexpr GasSpec bits(uint8_t converter_bits) const {
        return detail::with(*this, &GasSpec::bits_, converter_bits);
    }
    /// Rs / R0 in clean air, from the data sheet, 0.1 to 100. Default: 1. Used by `CleanAir` only.
    constexpr GasSpec clean_air(Ratio rs_over_r0) const {
        return detail::with(*this, &GasSpec::clean_, rs_over_r0);
    }
    /// How long its heater needs before it may be trusted, up to 24 days. Default: 3 min.
    constexpr GasSpec warm_up(Duration d) const {
        return detail::with(*this, &GasSpec::warm_up_, d);
    }
    /// What is to be measured; outside, the reading is out of range. Default: from 0.01 ppm, since
    /// clean air is no fault, to the upper point of the curve.
    constexpr GasSpec range(Concentration lowest, Concentration highest) const {
        GasSpec out = *this;
        out.lowest_ = lowest;
        out.highest_ = highest;
        out.range_given_ = true;
        return out;
    }

    constexpr Concentration lowest() const { return range_given_ ? lowest_ : 0.01_ppm; }
    constexpr Concentration highest() const { return range_given_ ? highest_ : upper(); }
    constexpr Duration warm_up() const { return warm_up_; }
    constexpr Ratio clean_air() const { return clean_; }
    constexpr Resistance load() const { return divider_.pull; }
    constexpr const Divider& divider() const { return divider_; }

    constexpr bool bits_are_possible() const { return bits_ >= 8 && bits_ <= 16; }
    constexpr bool points_are_possible() const {
        const bool sizes = lower() >= 0.1_ppm && upper() <= 1'000'000_ppm && within_table(a_) &&
                           within_table(b_) && a_.concentration != b_.concentration &&
                           a_.millionths != b_.millionths;
        if (!sizes)
            return false;
        const int32_t e = exponent();
        return e >= 4096 / 5 && e <= 7 * 4096;
    }
    constexpr bool divider_is_possible() const {
        return divider_.is_possible() && !divider_.sensor_to_ground;
    }
    constexpr bool voltages_are_possible() const { return divider_.voltages_are_possible(); }
    constexpr bool clean_air_is_possible() const {
        return clean_ >= 0.1_times && clean_ <= 100_times;
    }
    constexpr bool warm_up_is_possible() const {
        return warm_up_ >= Duration{} && warm_up_ <= 24_h * 24;
    }
    constexpr bool range_is_possible() const {
        return lowest() >= 0.01_ppm && highest() <= 1'000'000_ppm && lowest() < highest();
    }
    constexpr bool is_possible() const {
        return bits_are_possible() && points_are_possible() && divider_is_possible() &&
               voltages_are_possible() && clean_air_is_possible() && warm_up_is_possible() &&
               range_is_possible();
    }
    static constexpr bool zero_is_possible(Resistance r0) {
        return r0 >= 10_ohm && r0 <= Divider::largest_resistance;
    }

    constexpr uint16_t full_scale() const {
        return static_cast<uint16_t>((uint32_t{1} << bits_) - 1);
    }
    /// Codes below and above which a wire is off or shorted. In use the layer goes from a
    /// thousandth to a hundred times the load, so only the last codes are taken for faults.
    constexpr CodeRange code_range() const {
        const uint16_t top = divider_.top_code(full_scale());
        const auto share = static_cast<uint16_t>((top + 1U) >> 8);
        const uint16_t margin = bits_ >= 10 && share >= 2 ? share : uint16_t{2};
        return {margin, static_cast<uint16_t>(top - margin),
                WireEnds{margin, static_cast<uint16_t>(top - margin), false}};
    }

    /// log2(ppm thousandths) = offset - exponent * log2(Rs / R0), as the chip works with it.
    constexpr PowerLaw law() const {
        return {(uint32_t{full_scale()} + 1) * divider_.supply_parts(),
                static_cast<uint16_t>(divider_.reference_parts()), false, offset(),
                static_cast<int16_t>(exponent())};
    }

  private:
    friend InDivider<GasSpec>;
    static constexpr bool within_table(GasPoint p) {
        return p.millionths >= 10'000 && p.millionths <= 100'000'000;
    }
    constexpr Concentration lower() const {
        return a_.concentration < b_.concentration ? a_.concentration : b_.concentration;
    }
    constexpr Concentration upper() const {
        return a_.concentration < b_.concentration ? b_.concentration : a_.concentration;
    }
    static constexpr int64_t log(int32_t thousandths) {
        return detail::natural_log(static_cast<uint32_t>(thousandths));
    }
    /// In units of 2^-12.
    constexpr int32_t exponent() const {
        const int64_t rise =
            log(b_.concentration.thousandths()) - log(a_.concentration.thousandths());
        const int64_t fall = log(a_.millionths) - log(b_.millionths);
        const int64_t e =
            fall < 0 ? divide_rounded(-rise * 4096, -fall) : divide_rounded(rise * 4096, fall);
        return e > 0x7fff || e < 0 ? 0 : static_cast<int32_t>(e);
    }
    /// In units of 2^-16.
    constexpr int32_t offset() const {
        const int64_t along = (log(a_.millionths) - log(1'000'000)) * exponent() / 4096;
        return static_cast<int32_t>(divide_rounded(
            (log(a_.concentration.thousandths()) + along) * (int64_t{1} << 16), detail::ln_two));
    }

    GasPoint a_;
    GasPoint b_;
    uint8_t bits_ = 10;
    Ratio clean_ = 1_times;
    Duration warm_up_ = 3_min;
    Concentration lowest_{};
    Concentration highest_{};
    bool range_given_ = false;
    Divider divider_{};
};

/// Starts a `GasSpec` from two points of the data sheet's curve for the gas in question.
constexpr GasSpec gas_sensor(GasPoint a, GasPoint b) { return GasSpec(a, b); }

/// The memory of one gas sensor; it belongs to a `GasSpec`.
class GasState {
  public:
    /// \param r0  the layer's resistance that the curve is relative to, 10 ohm to 10 Mohm
    constexpr GasState(Resistance load, Resistance r0) { set_zero(load, r0); }

    constexpr void set_zero(Resistance load, Resistance r0) {
        log_of_zero_ =
            static_cast<int16_t>(detail::log2_of(static_cast<uint32_t>(r0.thousandths())) -
                                 detail::log2_of(static_cast<uint32_t>(load.thousandths())));
    }

    /// \param correction  log2 of the climate's factor, in units of 2^-11
    [[gnu::always_inline]] Reading<Concentration> read(const GasSpec& spec, const CodeRange& range,
                                                       const PowerLaw& law, Instant now,
                                                       Sample sample, int16_t correction) {
        using Gas = Reading<Concentration>;
        if (!running_) {
            running_ = true;
            since_ = now;
        }
        // Kept, so that a clock that wraps does not cool it down.
        if (!warm_ && now - since_ >= spec.warm_up())
            warm_ = true;
        const Health health = range.health_of(sample);
        if (health != Health::ok)
            return Gas::without_value(health);
        if (!warm_)
            return Gas::without_value(Health::warming);
        const auto log =
            static_cast<int16_t>(law.log_of_ratio(sample.code()) - log_of_zero_ - correction);
        const Concentration value = Concentration::from_thousandths(law.value_at_log(log));
        if (value < spec.lowest() || value > spec.highest())
            return Gas::without_value(Health::out_of_range);
        return Gas::of_bounded(value);
    }

  private:
    Instant since_{};
    int16_t log_of_zero_ = 0;
    bool running_ = false;
    bool warm_ = false;
};

/// A gas sensor in a device. RAM: eight bytes.
template <const GasSpec& Spec, bool = detail::is_constant<Spec>> class GasSensor {
    static_assert(Spec.bits_are_possible(), "the converter must have 8 to 16 bits: .bits(10)");
    static_assert(
        Spec.points_are_possible(),
        "the curve needs two different points, 0.1 ppm to 1,000,000 ppm and ratios of 0.01 "
        "to 100, that fall together: gas_point(10_ppm, 2.6_times), "
        "gas_point(200_ppm, 0.7_times)");
    static_assert(Spec.divider_is_possible(),
                  "say which load resistor goes from the pin to ground, 1 ohm to 10 Mohm: "
                  ".pull_down(10_kohm); the sensor goes to the supply");
    static_assert(Spec.voltages_are_possible(),
                  "the divider's supply must lie between 1 and 24 V, the converter's reference "
                  "between 0.5 and 10 V: .supplied(5_V, 3.3_V)");
    static_assert(Spec.clean_air_is_possible(),
                  "Rs / R0 in clean air must lie between 0.1 and 100");
    static_assert(Spec.warm_up_is_possible(), "the warm-up must lie between 0 and 24 days");
    static_assert(Spec.range_is_possible(),
                  "the range must lie between 0.01 and 1,000,000 ppm, the "
                  "lower end first");
    static constexpr CodeRange range = Spec.code_range();
    static constexpr PowerLaw law = Spec.law();

  public:
    /// \param r0  the resistance that the curve is relative to; see `CleanAir`
    constexpr explicit GasSensor(Resistance r0) : state_(Spec.load(), r0) {}
    constexpr void set_zero(Resistance r0) { state_.set_zero(Spec.load(), r0); }

    /// The concentration in the climate that the data sheet's curve was taken in.
    [[gnu::always_inline]] Reading<Concentration> read(Instant now, Sample sample) {
        return state_.read(Spec, range, law, now, sample, 0);
    }
    /// The concentration, corrected by a `ClimateTable`. A climate that is not healthy passes its
    /// health on.
    template <const auto& Table>
    Reading<Concentration> read(Instant now, Sample sample, const AirReading& air) {
        static_assert(Table.is_possible(),
                      "a climate table needs two temperatures and two humidities or more, going up "
                      "by at least 1, and factors of 0.1 to 10");
        ZORILLA_PROGRAM_MEMORY static constexpr auto entries = detail::entries_of(Table);
        if (!air.temperature.ok())
            return Reading<Concentration>::without_value(air.temperature.health());
        if (!air.humidity.ok())
            return Reading<Concentration>::without_value(air.humidity.health());
        return state_.read(
            Spec, range, law, now, sample,
            climate_correction({entries.row_at, entries.inverse_row, Table.rows},
                               {entries.column_at, entries.inverse_column, Table.columns},
                               entries.logs, air.temperature.value_or({}),
                               air.humidity.value_or({})));
    }

  private:
    GasState state_;
};
template <const GasSpec& Spec> class GasSensor<Spec, false> : public detail::NotMade<Spec> {};

} // namespace zorilla
