// SPDX-License-Identifier: MIT
// A rain barrel: a ladder to a bar of lights, a valve, and a whistle. The same device as
// rain_barrel.toml.
#pragma once

#include <zorilla/zorilla.hpp>

namespace rain_barrel {

using namespace zorilla;

inline constexpr auto eye = ranger(20_mm, 1.5_m);
inline constexpr auto quiet_part = digital_input(active_low);
inline constexpr auto levels =
    falling(900_mm, 650_mm, 400_mm, 200_mm).release(930_mm, 680_mm, 430_mm, 230_mm);
inline constexpr auto is_nearly_full = below(120_mm).release(220_mm);
inline constexpr auto calm_down = lasting(0_s, 10_s);
inline constexpr auto is_spilling = below(60_mm).release(90_mm);
inline constexpr auto for_long = lasting(5_s);
inline constexpr auto is_empty = above(950_mm).release(900_mm);
inline constexpr auto bar_part = output<Stage>().safe(Stage());
inline constexpr auto valve_part =
    relay(active_high).safe(off).min_on(5_s).min_off(10_s).longest_on(30_min);
inline constexpr auto whistle_part = output<Tone>().safe(silence);
inline constexpr auto whistling =
    sequence(step(tone(1500), 400_ms), step(tone(2000), 400_ms), step(silence, 2_s));

struct Inputs {
    Echo lid;
    LevelSample quiet_switch;
};

struct Device {
    Ranger<eye> lid;
    Median<5, Length> calm;
    DigitalInput<quiet_part> quiet_switch;
    Ladder<levels> level;
    Threshold<is_nearly_full> high;
    Lasting<calm_down> nearly_full;
    Threshold<is_spilling> over;
    Lasting<for_long> spills;
    Threshold<is_empty> empty;
    Output<bar_part> bar;
    Relay<valve_part> run_off;
    Output<whistle_part> whistle_pipe;
    Sequence<whistling> whistle;

    ZORILLA_IN_PLACE void pass(Instant now, const Inputs& in) {
        const auto gap = calm.pass(lid.read(in.lid, Reading<Temperature>::of(8_degC)));
        const Truth is_quiet = quiet_switch.read(now, in.quiet_switch);
        const auto stage = level.decide(gap);
        const Truth full = nearly_full.pass(now, high.decide(gap));
        const Truth spilling = spills.pass(now, over.decide(gap));
        bar.drive(follow(stage));
        run_off.drive(now, off_when(empty.decide(gap)), on_when(full));
        whistle_pipe.drive(set_when(is_quiet, silence), whistle.claim(now, spilling));
    }
};

} // namespace rain_barrel
