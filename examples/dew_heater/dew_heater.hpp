// SPDX-License-Identifier: MIT
// A band that keeps a telescope's lens above the dew point: a curve from a derived quantity to a
// duty. The same device as dew_heater.toml.
#pragma once

#include <zorilla/zorilla.hpp>

namespace dew_heater {

using namespace zorilla;

inline constexpr auto air_part = humidity_frame(FrameCoding::tenths).every(5_s).hold(10_s);
inline constexpr auto lens_part =
    thermistor(10_kohm, 3950_K).pull_up(10_kohm).range(-25_degC, 50_degC);
inline constexpr auto warming =
    curve(point(1_K, 100_percent), point(5_K, 0_percent)).dead_band(4_percent);
inline constexpr auto is_wet = below(0.5_K).release(2_K);
inline constexpr auto for_long = lasting(5_min);
inline constexpr auto is_too_hot = above(30_degC).release(25_degC);
inline constexpr auto band_part = output<Duty>().safe(0_percent);
inline constexpr auto lamp_part = led(active_high).safe(20_percent);
inline constexpr auto blinking = sequence(step(Duty(60_percent), 300_ms), step(Duty(), 300_ms));

struct Inputs {
    FrameSample air;
    Sample lens;
};

struct Device {
    HumidityFrame<air_part> air;
    Thermistor<lens_part> lens;
    Curve<warming> warmth;
    Threshold<is_wet> close;
    Lasting<for_long> wet;
    Threshold<is_too_hot> too_hot;
    Output<band_part> band;
    Led<lamp_part> lamp;
    Sequence<blinking> blink;

    ZORILLA_IN_PLACE void pass(Instant now, const Inputs& in) {
        const AirReading outside = air.read(now, in.air);
        const auto glass = lens.read(in.lens);
        const auto margin = difference(glass, dew_point(outside.temperature, outside.humidity));
        const auto duty = warmth.decide(margin);
        const Truth is_wet_now = wet.pass(now, close.decide(margin));
        const Truth hot = too_hot.decide(glass);
        band.drive(set_when(hot, Duty()), follow(duty));
        lamp.drive(now, blink.claim(now, is_wet_now), set_when(hot, Duty(60_percent)));
    }
};

} // namespace dew_heater
