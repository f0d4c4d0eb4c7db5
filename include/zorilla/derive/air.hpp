// SPDX-License-Identifier: MIT
/// \file
/// What air is like: dew point, absolute humidity, heat index, and the heat that a stream carries.
#pragma once

#include "zorilla/sense/climate.hpp"
#include "zorilla/units/reading.hpp"
#include "zorilla/units/temperature.hpp"

#include <stdint.h>

namespace zorilla {

namespace detail {

/// ln(e / hPa) of saturated air over water, by the Magnus formula with the coefficients of the
/// World Meteorological Organization, e = 6.112 hPa exp(17.62 t / (243.12 degC + t)) (WMO-No. 8,
/// Guide to Instruments and Methods of Observation, annex 4.B); in units of 2^-30, t in
/// thousandths.
inline constexpr int64_t magnus_base = natural_log(6112) - natural_log(1000);
constexpr int64_t magnus(int32_t t) {
    return magnus_base +
           divide_rounded(int64_t{17'620} * t * (int64_t{1} << 30) / 1000, int64_t{243'120} + t);
}

/// log2 of saturated vapour over hPa, in units of 2^-12, over `climate_argument`.
struct VapourLogCurve {
    static constexpr uint16_t first = 0, last = (60'000 - coldest_climate) / 2;
    static constexpr int32_t error = 5;
    static constexpr int32_t widest = 10;
    constexpr int32_t value_at(uint16_t argument) const {
        return static_cast<int32_t>(
            divide_rounded(magnus(climate_temperature(argument)) * 4096, ln_two));
    }
};

/// The dew point in thousandths of a degree Celsius over log2 of vapour over hPa, in units of 2^-11
/// above `lowest`.
struct DewPointCurve {
    static constexpr int32_t lowest = -10L * 2048; // 0.001 hPa, -80 degC
    static constexpr uint16_t first = 0, last = 18U * 2048U;
    static constexpr int32_t error = 12;
    static constexpr int32_t widest = 9;
    constexpr int32_t value_at(uint16_t x) const {
        // ln(e / 6.112) = 17.62 t / (243.12 + t), turned round; logarithms in units of 2^-20.
        const int64_t log = divide_rounded((int64_t{x} + lowest) * ln_two, 2048);
        const int64_t above = (log - magnus_base) >> 10;
        return static_cast<int32_t>(
            divide_rounded(243'120 * above, divide_rounded(17'620 * 1'048'576LL, 1000) - above));
    }
};

/// Saturated vapour in milligrams for each cubic metre and percent of humidity, in units of 2^-4:
/// 2.1668 g K/J e / T, from the gas constant of water vapour, 461.5 J / (kg K) (WMO-No. 8, chapter
/// 4).
struct VapourCurve {
    static constexpr uint16_t first = 0, last = VapourLogCurve::last;
    static constexpr int32_t error = 4;
    static constexpr int32_t widest = 8;
    constexpr int32_t value_at(uint16_t argument) const {
        const int32_t t = climate_temperature(argument);
        const int64_t e = natural_exponential(magnus(t) + 16 * ln_two); // hPa in units of 2^-16
        return static_cast<int32_t>(
            divide_rounded(e * 2'166'800 * 16, (int64_t{t} + 273'150) * 65'536));
    }
};

/// Why two readings of air cannot be used together; `Health::ok` if they can.
constexpr Health health_of(Reading<Temperature> t, Reading<RelativeHumidity> h, Temperature lowest,
                           Temperature highest, RelativeHumidity driest) {
    if (!t.ok())
        return t.health();
    if (!h.ok())
        return h.health();
    const RelativeHumidity humidity = h.value_or({});
    const bool inside = t.value_or({}) >= lowest && t.value_or({}) <= highest &&
                        humidity >= driest && humidity <= 100_percent_RH;
    return inside ? Health::ok : Health::out_of_range;
}

} // namespace detail

/// The dew point of air, for -40 to 60 degC and 1 to 100 %RH; outside, it is out of range. Within
/// 0.03 degC of the Magnus formula over water (WMO-No. 8, annex 4.B). An input that is not healthy
/// passes its health on.
template <class Lazy = void>
Reading<Temperature> dew_point(Reading<Temperature> air, Reading<RelativeHumidity> humidity) {
    using Out = Reading<Temperature>;
    const Health health = detail::health_of(air, humidity, -40_degC, 60_degC, 1_percent_RH);
    if (health != Health::ok)
        return Out::without_value(health);
    const int32_t saturated = detail::FunctionTable<detail::Late<detail::VapourLogCurve, Lazy>>::at(
        detail::climate_argument(air.value_or({})));
    constexpr int32_t log_of_full = 34'016; // log2(100,000), in units of 2^-11
    const int32_t share =
        detail::log2_of(static_cast<uint32_t>(humidity.value_or({}).thousandths())) - log_of_full;
    const int32_t log = ((saturated + 1) >> 1) + share;
    return Out::of_bounded(Temperature::from_thousandths(
        detail::FunctionTable<detail::Late<detail::DewPointCurve, Lazy>>::at(
            static_cast<uint16_t>(log - detail::DewPointCurve::lowest))));
}

/// The water in air, for -40 to 60 degC and 0 to 100 %RH; outside, it is out of range. Within
/// 0.03 g/m3 of the ideal gas with the Magnus formula.
template <class Lazy = void>
Reading<AbsoluteHumidity> absolute_humidity(Reading<Temperature> air,
                                            Reading<RelativeHumidity> humidity) {
    using Out = Reading<AbsoluteHumidity>;
    const Health health = detail::health_of(air, humidity, -40_degC, 60_degC, 0_percent_RH);
    if (health != Health::ok)
        return Out::without_value(health);
    const auto each =
        static_cast<uint16_t>(detail::FunctionTable<detail::Late<detail::VapourCurve, Lazy>>::at(
            detail::climate_argument(air.value_or({}))));
    // each / 2^4 * thousandths / 1000 is their product / 2^15 * 2.048, halves by 2^14.
    const auto half =
        static_cast<uint16_t>(static_cast<uint32_t>(humidity.value_or({}).thousandths()) >> 1);
    const uint32_t part = detail::shifted_by_14(detail::product(half, each));
    return Out::of_bounded(AbsoluteHumidity::from_thousandths(static_cast<int32_t>(
        detail::shifted_by_14(detail::product(static_cast<uint16_t>(part), uint16_t{33'554})))));
}

namespace detail {

/// The regression of the heat index (United States National Weather Service, "The Heat Index
/// Equation", after L. P. Rothfusz, Technical Attachment SR 90-23, 1990), P(T, R) in degrees
/// Fahrenheit, turned at compile time into a polynomial of degrees Celsius above 27 degC.
struct HeatIndex {
    // Of T^0, T^1, T^2, each for R^0, R^1, R^2, in units of 10^-8.
    static constexpr int64_t c0[] = {-4'237'900'000, 1'014'333'127, -5'481'717};
    static constexpr int64_t c1[] = {204'901'523, -22'475'541, 85'282};
    static constexpr int64_t c2[] = {-683'783, 122'874, -199};

    /// The value at 27 degC = 80.6 degF for each power of R, in thousandths of a degree Celsius.
    static constexpr int32_t a(int power, int64_t scale) {
        int64_t sum = c0[power] * 100 + c1[power] * 8060 + c2[power] * 806 * 806; // 10^-10 degF
        if (power == 0)
            sum -= 32 * 10'000'000'000;
        return static_cast<int32_t>(divide_rounded(sum * scale, 18'000'000));
    }
    /// The slope there; a degree for a degree is the same in both scales.
    static constexpr int32_t b(int power, int64_t scale) {
        return static_cast<int32_t>(
            divide_rounded((c1[power] * 10 + c2[power] * 2 * 806) * scale, 1'000'000'000));
    }
    /// The curvature, for degrees Celsius.
    static constexpr int32_t c(int power, int64_t scale) {
        return static_cast<int32_t>(divide_rounded(c2[power] * 18 * scale, 1'000'000'000));
    }

    /// \param above  above 27 degC, in thousandths of a kelvin; -3,000 to 18,000
    /// \param r      relative humidity in units of 2^-6 %
    /// \return       thousandths of a degree Celsius
    static int32_t at(int32_t above, int32_t r) {
        const int32_t x = above + ((above * 786) >> 15); // in units of 2^-10 K
        constexpr int32_t a0 = a(0, 1), a1 = a(1, 1 << 12), a2 = a(2, 1 << 14);
        constexpr int32_t b0 = b(0, 1 << 12), b1 = b(1, 1L << 20), b2 = b(2, 1L << 26);
        constexpr int32_t c0_ = c(0, 1L << 18), c1_ = c(1, 1L << 26), c2_ = c(2, int64_t{1} << 34);
        const int32_t level = a0 + (((a1 + ((a2 * r) >> 8)) * r) >> 18);
        const int32_t slope = b0 + (((b1 + ((b2 * r) >> 12)) * r) >> 14);    // in units of 2^-12
        const int32_t curve = c0_ + (((c1_ + ((c2_ * r) >> 14)) * r) >> 14); // in units of 2^-18
        const int32_t rise = x * (slope + ((curve * x) >> 16));              // in units of 2^-22 K
        return level + (((rise >> 10) * 125) >> 9);
    }
};

/// The root of a number, rounded down: bit by bit.
constexpr uint8_t root_of(uint16_t number) {
    uint8_t root = 0;
    for (uint8_t bit = 0x80; bit != 0; bit = static_cast<uint8_t>(bit >> 1)) {
        const auto next = static_cast<uint8_t>(root | bit);
        if (static_cast<uint16_t>(next * uint16_t{next}) <= number)
            root = next;
    }
    return root;
}

} // namespace detail

/// The heat index: how warm air feels in the shade, for 0 to 45 degC and 0 to 100 %RH; outside, it
/// is out of range. Within 0.2 degF of the equation of the United States National Weather Service,
/// with its simple form for lesser heat and both adjustments for dry and humid air.
template <class Lazy = void>
Reading<Temperature> heat_index(Reading<Temperature> air, Reading<RelativeHumidity> humidity) {
    using Out = Reading<Temperature>;
    const Health health = detail::health_of(air, humidity, 0_degC, 45_degC, 0_percent_RH);
    if (health != Health::ok)
        return Out::without_value(health);
    const int32_t t = air.value_or({}).thousandths();
    const int32_t h = humidity.value_or({}).thousandths();
    // The simple form averaged with T is 1.05 T - 5.15 + 0.0235 R in degF; both sides times 10^7.
    if (18'900 * t + 235 * h < 515'500'000)
        return Out::of_bounded(Temperature::from_thousandths(t + ((t * 3277 + 32'768) >> 16) -
                                                             1972 + ((h * 856 + 32'768) >> 16)));
    const int32_t r = detail::times_fraction(h, 2097);
    int32_t index = detail::HeatIndex::at(t - 27'000, r);
    const int32_t ninths = 9 * t; // 80 degF are 240,000, 87 are 275,000, 112 are 400,000
    if (h < 13'000 && ninths >= 240'000 && ninths <= 400'000) {
        const auto away = static_cast<uint16_t>(t < 35'000 ? 35'000 - t : t - 35'000);
        // sqrt((17 - |T - 95|) / 17) with T in degF, in units of 2^-9: 65,536 / 170,000 of its
        // square, and half a step more than the root rounded down.
        const auto share = static_cast<uint16_t>(
            detail::product(static_cast<uint16_t>((170'000 - 18 * int32_t{away}) >> 2),
                            uint16_t{50'528}) >>
            15);
        const auto root = static_cast<uint16_t>(2 * detail::root_of(share) + 1);
        index -= static_cast<int32_t>(
            detail::product(static_cast<uint16_t>(
                                detail::product(static_cast<uint16_t>(13'000 - h), root) >> 9),
                            uint16_t{9102}) >>
            16); // 5/36
    } else if (h > 85'000 && ninths >= 240'000 && ninths <= 275'000) {
        index += (((h - 85'000) * (30'556 - t)) >> 8) * 335 >> 16; // 1/50
    }
    return Out::of_bounded(Temperature::from_thousandths(index));
}

/// The heat that a stream of air carries away: flow, times how much warmer it leaves than it came,
/// times 1,211.3 J / (m3 K), which is the density of dry air at 20 degC and 1,013.25 hPa, 1.2041
/// kg/m3, times its heat capacity, 1,006 J / (kg K). Within 0.01 % of that; each kelvin away from
/// 20 degC makes 0.34 % less. Up to 134,000 m3/h and 1,000 K, and 1.8 MW.
inline Reading<Power> air_heat(Reading<AirFlow> flow, Reading<TemperatureDifference> warmer) {
    using Out = Reading<Power>;
    if (!flow.ok())
        return Out::without_value(flow.health());
    if (!warmer.ok())
        return Out::without_value(warmer.health());
    const auto litres = static_cast<uint32_t>(flow.value_or({}).thousandths());
    const int32_t by = warmer.value_or({}).thousandths();
    const uint32_t size = detail::size_of_number(by);
    const auto high = static_cast<uint16_t>(litres >> 16);
    const auto low = static_cast<uint16_t>(litres);
    const auto high_by = static_cast<uint16_t>(size >> 16);
    const auto low_by = static_cast<uint16_t>(size);
    if (high > 0x7ff || high_by > 0xf) // a negative flow is caught here too
        return Out::without_value(Health::out_of_range);
    // The upper part of the product of both, without its last 16 bits, then times 22.0516, which is
    // 0.33648 / 1000 * 2^16.
    const uint32_t last = detail::product(low, low_by);
    const uint32_t product = (uint32_t{static_cast<uint16_t>(high * high_by)} << 16) +
                             detail::product(high, low_by) + detail::product(low, high_by) +
                             (last >> 16);
    if (detail::top_byte(product) >= 5)
        return Out::without_value(Health::out_of_range);
    const auto power = static_cast<int32_t>(
        (detail::product(static_cast<uint16_t>(product >> 16), uint16_t{22'581}) << 6) +
        (detail::product(static_cast<uint16_t>(product), uint16_t{22'581}) >> 10) +
        ((static_cast<uint8_t>(last >> 8) * 22U) >> 8));
    return Out::of_bounded(Power::from_thousandths(by < 0 ? -power : power));
}

} // namespace zorilla
