// SPDX-License-Identifier: MIT
// A solder-fume hood: a fan on a curve that is watched for standing still, and a shutdown in order.
// The same device as fume_hood.toml.
#pragma once

#include <zorilla/zorilla.hpp>

namespace fume_hood {

using namespace zorilla;

inline constexpr auto nose = gas_sensor(gas_point(10_ppm, 2.6_times), gas_point(200_ppm, 0.7_times))
                                 .pull_down(10_kohm)
                                 .warm_up(3_min)
                                 .range(0.5_ppm, 300_ppm);
inline constexpr auto turns_part = turning_speed(2).by_window(500_ms).fastest(6000_rpm);
inline constexpr auto switch_part = digital_input(active_high);
inline constexpr auto button_part = digital_input(active_low);
inline constexpr auto is_smoky = above(25_ppm).release(12_ppm);
inline constexpr auto drawing = curve(point(12_ppm, 30_percent), point(60_ppm, 100_percent))
                                    .floor(30_percent)
                                    .dead_band(5_percent);
inline constexpr auto fan_part = fan()
                                     .safe(100_percent)
                                     .kick(100_percent, 600_ms)
                                     .ramp(3_s)
                                     .stall_after(2_s)
                                     .rest_when_stalled(5_s)
                                     .tries(3);
inline constexpr auto iron_part = relay(active_high).safe(off).rest(on).min_off(30_s);
inline constexpr auto light_part = output<Colour>()
                                       .safe(colour(40_percent, 20_percent, 0_percent))
                                       .rest(colour(0_percent, 20_percent, 0_percent));
inline constexpr auto calling =
    sequence(step(colour(100_percent, 0_percent, 0_percent), 400_ms), step(Colour(), 400_ms));

struct Inputs {
    Sample fumes;
    PulseSample fan_turns;
    LevelSample main_switch;
    LevelSample reset_button;
};

struct Device {
    GasSensor<nose> fumes{30_kohm};
    PulseRate<turns_part> fan_turns;
    DigitalInput<switch_part> main_switch;
    DigitalInput<button_part> reset_button;
    Threshold<is_smoky> smoky;
    Curve<drawing> draught;
    ShutdownState shutdown;
    Fan<fan_part> fan;
    Relay<iron_part> iron;
    Output<light_part> light;
    Sequence<calling> call;

    ZORILLA_IN_PLACE void pass(Instant now, const Inputs& in) {
        const auto gas = fumes.read(now, in.fumes);
        const auto turns = fan_turns.read(now, in.fan_turns);
        const Truth is_off = main_switch.read(now, in.main_switch);
        const Truth reset = reset_button.read(now, in.reset_button);
        const Truth is_bad = smoky.decide(gas);
        const auto duty = draught.decide(gas);
        shutdown.pass(20_s, 2, now, is_off);
        fan.drive(now, truth_of(turns.value_or(0_rpm) > 0_rpm), reset, shutdown.claim(1, Duty()),
                  follow_when(is_bad, duty));
        const Truth stands = fan.is_stalled();
        iron.drive(now, shutdown.claim(0, off), off_when(stands), off_when(lost(gas)));
        light.drive(call.claim(now, stands),
                    set_when(lost(gas), colour(0_percent, 0_percent, 30_percent)),
                    set_when(is_bad, colour(60_percent, 30_percent, 0_percent)));
    }
};

} // namespace fume_hood
