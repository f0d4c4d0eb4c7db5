// SPDX-License-Identifier: MIT
// A hen house: five sensors, two buttons, a state machine and six outputs. The same device as
// hen_house.toml.
#pragma once

#include <zorilla/zorilla.hpp>

namespace hen_house {

using namespace zorilla;

// What it senses.
inline constexpr auto roost_part =
    thermistor(10_kohm, 3950_K).pull_up(10_kohm).range(-30_degC, 80_degC);
inline constexpr auto yard_part =
    photoresistor(10_kohm, 10_lx, 0.7_times).pull_down(10_kohm).range(0.1_lx, 3000_lx);
inline constexpr auto litter_part = humidity_frame(FrameCoding::tenths).every(10_s).hold(30_s);
inline constexpr auto barrel_part = ranger(20_mm, 4_m);
inline constexpr auto gas_part =
    gas_sensor(gas_point(10_ppm, 2.6_times), gas_point(200_ppm, 0.7_times))
        .pull_down(10_kohm)
        .warm_up(5_min)
        .range(0.5_ppm, 300_ppm);
inline constexpr auto button_part = digital_input(active_low);

// What it decides.
inline constexpr auto is_cold = below(4_degC).release(6_degC);
inline constexpr auto is_low = above(600_mm).release(300_mm);
inline constexpr auto is_damp = above(80_percent_RH).release(60_percent_RH);
inline constexpr auto is_foul = above(20_ppm).release(8_ppm);
inline constexpr auto airing =
    curve(point(5_ppm, 20_percent), point(20_ppm, 60_percent), point(40_ppm, 100_percent))
        .floor(25_percent)
        .dead_band(4_percent);
inline constexpr auto is_dusk = inside(1_lx, 30_lx).release(0.7_lx, 40_lx);
inline constexpr auto glowing =
    curve(point(1_lx, 5_percent), point(30_lx, 70_percent)).dead_band(2_percent);
inline constexpr auto is_night = below(1_lx).release(3_lx);
inline constexpr auto for_long = lasting(6_min);
static_assert(can_judge(roost_part, is_cold));

enum class State : uint8_t { fine, trouble, alarm, seen };
enum class Event : uint8_t { trouble, no_trouble, hushed };
inline constexpr auto watching =
    machine(State::fine, transition(State::fine, State::trouble).when(Event::trouble),
            transition(State::trouble, State::fine).when(Event::no_trouble),
            transition(State::trouble, State::alarm).after(10_min),
            transition(State::alarm, State::seen).when(Event::hushed),
            transition(State::seen, State::fine).when(Event::no_trouble));

// What it drives.
inline constexpr auto lamp_part =
    relay(active_low).safe(off).min_on(2_min).min_off(5_min).longest_on(6_h);
inline constexpr auto valve_part = relay(active_low).safe(off).min_off(1_min).longest_on(20_min);
inline constexpr auto dusk_part = led(active_high).safe(0_percent).fade(30_s);
inline constexpr auto fan_part = fan().safe(50_percent).kick(100_percent, 500_ms).ramp(8_s);
inline constexpr auto buzzer_part = output<Tone>().safe(silence);
inline constexpr auto status_part = output<Colour>()
                                        .safe(colour(100_percent, 0_percent, 0_percent))
                                        .rest(colour(0_percent, 100_percent, 0_percent));
inline constexpr auto beeping = sequence(step(tone(880), 10_s), step(silence, 20_s));
inline constexpr auto flashing =
    sequence(step(colour(100_percent, 0_percent, 0_percent), 5_s), step(Colour(), 5_s));
inline constexpr auto longest_by_hand = 15_min;

struct Inputs {
    Sample roost;
    Sample yard_light;
    FrameSample litter;
    Echo barrel;
    Sample ammonia;
    LevelSample air_button;
    LevelSample hush_button;
};

struct Device {
    Thermistor<roost_part> roost;
    Photoresistor<yard_part> yard_light;
    HumidityFrame<litter_part> litter;
    Ranger<barrel_part> barrel;
    GasSensor<gas_part> ammonia{30_kohm};
    Smoothing<Concentration> calm{2_min};
    DigitalInput<button_part> air_button;
    DigitalInput<button_part> hush_button;
    Edge hush;

    Threshold<is_cold> cold;
    Threshold<is_low> barrel_low;
    Threshold<is_damp> damp;
    Threshold<is_foul> foul;
    Curve<airing> air;
    Window<is_dusk> dusk;
    Curve<glowing> glow;
    Threshold<is_night> night;
    Lasting<for_long> trouble;
    Machine<watching> watch;

    Relay<lamp_part> heat_lamp;
    Relay<valve_part> water_valve;
    Led<dusk_part> dusk_lamp;
    Fan<fan_part> ventilator;
    Hand<longest_by_hand> ventilator_hand;
    Output<buzzer_part> buzzer;
    Output<status_part> status;
    Sequence<beeping> beeps;
    Sequence<flashing> flashes;

    ZORILLA_IN_PLACE void pass(Instant now, const Inputs& in) {
        // Sense.
        const auto roost_air = roost.read(in.roost);
        const auto light = yard_light.read(in.yard_light);
        const AirReading bed = litter.read(now, in.litter);
        const auto gap = barrel.read(in.barrel, bed.temperature);
        const auto gas = calm.pass(now, ammonia.read(now, in.ammonia));
        const Truth wants_air = air_button.read(now, in.air_button);
        const Truth hushes = hush.pass(hush_button.read(now, in.hush_button));

        // Decide.
        const Truth too_cold = cold.decide(roost_air);
        const Truth low = barrel_low.decide(gap);
        const Truth too_damp = damp.decide(bed.humidity);
        const Truth too_foul = foul.decide(gas);
        const auto air_duty = air.decide(gas);
        const Truth at_dusk = dusk.decide(light);
        const auto glow_duty = glow.decide(light);
        const Truth at_night = night.decide(light);
        const Truth broken =
            trouble.pass(now, lost(roost_air) || lost(gap) || lost(bed.humidity) || lost(gas));
        watch.pass(now, event<Event::trouble>(broken), event<Event::no_trouble>(!broken),
                   event<Event::hushed>(hushes));

        // Drive.
        const Truth valve_is_on = truth_of(water_valve.value() == on);
        heat_lamp.drive_unless(valve_is_on, now, off_when(low && !lost(gap) && !lost(roost_air)),
                               on_when(too_cold));
        water_valve.drive_unless(truth_of(heat_lamp.value() == on), now, on_when(low));
        dusk_lamp.drive(now, follow_when(at_dusk, glow_duty));
        const auto by_hand = ventilator_hand.claim(now, wants_air, Duty(100_percent));
        ventilator.drive(now, by_hand, follow_when(too_foul, air_duty),
                         set_when(too_damp && !too_cold, Duty(40_percent)));
        const Truth alarms = watch.in(State::alarm);
        buzzer.drive(set_when(at_night, silence), beeps.claim(now, alarms));
        status.drive(
            flashes.claim(now, alarms),
            set_when(watch.in(State::seen), colour(100_percent, 0_percent, 0_percent)),
            set_when(watch.in(State::trouble), colour(100_percent, 0_percent, 100_percent)),
            set_when(by_hand.when, colour(0_percent, 0_percent, 100_percent)));
    }
};

} // namespace hen_house
