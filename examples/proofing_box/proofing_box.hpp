// SPDX-License-Identifier: MIT
// A box in which bread dough rises: two stages of heat, a window that says when all is well, and a
// servo on a curve. The same device as proofing_box.toml.
#pragma once

#include <zorilla/zorilla.hpp>

namespace proofing_box {

using namespace zorilla;

inline constexpr auto bead =
    thermistor(point(0_degC, 32.65_kohm), point(25_degC, 10_kohm), point(60_degC, 2.488_kohm))
        .pull_up(10_kohm)
        .range(0_degC, 60_degC);
inline constexpr auto chip =
    linear_chip(10_mV_per_K, 500_mV).reference(3.3_V).range(0_degC, 60_degC);
inline constexpr auto heating = falling(27_degC, 23_degC).release(28_degC);
inline constexpr auto comfort = inside(25_degC, 30_degC).release(24.5_degC, 30.5_degC);
inline constexpr auto for_long = lasting(10_s);
inline constexpr auto venting =
    curve(point(30_degC, 0_percent), point(34_degC, 100_percent)).dead_band(5_percent);
inline constexpr auto odd = outside(5_degC, 38_degC).release(8_degC, 36_degC);
inline constexpr auto mat_part = relay(active_high).safe(off).min_off(10_s);
inline constexpr auto flap_part = led(active_high).safe(50_percent).fade(2_s);
inline constexpr auto light_part = led(active_high).safe(0_percent).fade(1_s);

struct Inputs {
    Sample air;
    Sample tray;
};

struct Device {
    Thermistor<bead> air;
    LinearChip<chip> tray;
    Ladder<heating> cool;
    Window<comfort> fine;
    Lasting<for_long> right;
    Curve<venting> vent;
    Window<odd> far_too_hot;
    Relay<mat_part> mat;
    Relay<mat_part> second_mat;
    Led<flap_part> flap; // its value is a position: servo_pulse(flap.value())
    Led<light_part> light;

    ZORILLA_IN_PLACE void pass(Instant now, const Inputs& in) {
        const Reading<Temperature> both[] = {air.read(in.air), tray.read(in.tray)};
        const auto dough = mean(both);
        const auto stage = cool.decide(dough);
        const Truth is_right = right.pass(now, fine.decide(dough));
        const auto opening = vent.decide(dough);
        const Truth is_odd = far_too_hot.decide(dough);
        mat.drive(now, off_when(is_odd), on_when(at_least(stage, 1)));
        second_mat.drive(now, off_when(is_odd), on_when(at_least(stage, 2)));
        flap.drive(now, follow(opening));
        light.drive(now, set_when(is_right, Duty(50_percent)));
    }
};

} // namespace proofing_box
