// SPDX-License-Identifier: MIT
// A boat's bilge pump: time on both sides of a truth, a warning, counted starts, and a call that
// gives up by itself. The same device as bilge_pump.toml.
#pragma once

#include <zorilla/zorilla.hpp>

namespace bilge_pump {

using namespace zorilla;

inline constexpr auto wires = analogue_level(1.2_V, 2.8_V).reference(5_V);
inline constexpr auto contact = digital_input(active_low);
inline constexpr auto no_splash = lasting(3_s, 5_s);
inline constexpr auto calling = act_for(10_s).rest_for(50_s).tries(5);
inline constexpr auto pump_part =
    relay(active_high).safe(off).warn(2_s).min_off(10_s).longest_on(10_min);
inline constexpr auto horn_part = output<Tone>().safe(silence);
inline constexpr auto call = sequence(step(tone(1000), 300_ms), step(silence, 200_ms));
inline constexpr auto tick = sequence(step(tone(2500), 50_ms), step(silence, 450_ms));
inline constexpr auto lamp_part = led(active_high).safe(100_percent);

struct Inputs {
    Sample water;
    LevelSample hatch;
    LevelSample reset_button;
};

struct Device {
    AnalogueLevel<wires> water;
    DigitalInput<contact> hatch;
    DigitalInput<contact> reset_button;
    Lasting<no_splash> wet;
    Counter<6> leak;
    Attempts<calling> helm_call;
    Relay<pump_part> pump;
    Output<horn_part> horn;
    Sequence<tick> ticks;
    Sequence<call> calls;
    Led<lamp_part> lamp;

    ZORILLA_IN_PLACE void pass(Instant now, const Inputs& in) {
        const Truth is_open = hatch.read(now, in.hatch);
        const Truth reset = reset_button.read(now, in.reset_button);
        const Truth is_wet = wet.pass(now, water.read(in.water));
        const Truth leaks = leak.pass(is_wet, reset);
        helm_call.pass(now, leaks, reset);
        pump.drive(now, off_when(is_open), on_when(is_wet));
        horn.drive(ticks.claim(now, pump.is_warning()), calls.claim(now, helm_call.acts()));
        lamp.drive(now, set_when(leaks, Duty(100_percent)), set_when(is_wet, Duty(20_percent)));
    }
};

} // namespace bilge_pump
