// SPDX-License-Identifier: MIT
// A light above an aquarium: a state machine for the day, colours one after the other, a lamp that
// fades and can be taken over by hand. The same device as aquarium_light.toml.
#pragma once

#include <zorilla/zorilla.hpp>

namespace aquarium_light {

using namespace zorilla;

inline constexpr auto room_part =
    photoresistor(10_kohm, 10_lx, 0.7_times).pull_down(10_kohm).range(0.5_lx, 2000_lx);
inline constexpr auto button_part = digital_input(active_low);
inline constexpr auto is_morning = above(60_lx).release(30_lx);

enum class Sky : uint8_t { night, dawn, day, dusk };
enum class Event : uint8_t { morning, evening };
inline constexpr auto days =
    machine(Sky::night, transition(Sky::night, Sky::dawn).when(Event::morning),
            transition(Sky::dawn, Sky::day).after(40_s),
            transition(Sky::day, Sky::dusk).when(Event::evening),
            transition(Sky::dusk, Sky::night).after(40_s),
            transition(Sky::dusk, Sky::dawn).when(Event::morning));

inline constexpr auto colours_part =
    output<Colour>().safe(colour(50_percent, 50_percent, 50_percent));
inline constexpr auto sunrise = sequence(step(colour(10_percent, 0_percent, 0_percent), 8_s),
                                         step(colour(40_percent, 10_percent, 0_percent), 8_s),
                                         step(colour(70_percent, 35_percent, 10_percent), 8_s),
                                         step(colour(90_percent, 60_percent, 30_percent), 8_s),
                                         step(colour(80_percent, 80_percent, 80_percent), 30_s));
inline constexpr auto sunset = sequence(step(colour(90_percent, 60_percent, 30_percent), 10_s),
                                        step(colour(70_percent, 30_percent, 0_percent), 10_s),
                                        step(colour(30_percent, 0_percent, 10_percent), 10_s),
                                        step(colour(0_percent, 0_percent, 10_percent), 30_s));
inline constexpr auto white_part = led(active_high).safe(50_percent).fade(20_s);
inline constexpr auto feeding_time = 1_min;

struct Inputs {
    Sample room;
    LevelSample feed_button;
};

struct Device {
    Photoresistor<room_part> room;
    Smoothing<Illuminance> calm{10_s};
    DigitalInput<button_part> feed_button;
    Threshold<is_morning> morning;
    Machine<days> sky;
    Output<colours_part> colours;
    Sequence<sunrise> rises;
    Sequence<sunset> sets;
    Led<white_part> white;
    Hand<feeding_time> hand;

    ZORILLA_IN_PLACE void pass(Instant now, const Inputs& in) {
        const auto light = calm.pass(now, room.read(in.room));
        const Truth feeds = feed_button.read(now, in.feed_button);
        const Truth is_bright = morning.decide(light);
        sky.pass(now, event<Event::morning>(is_bright), event<Event::evening>(!is_bright));
        colours.drive(rises.claim(now, sky.in(Sky::dawn)),
                      set_when(sky.in(Sky::day), colour(80_percent, 80_percent, 80_percent)),
                      sets.claim(now, sky.in(Sky::dusk)),
                      set_when(sky.in(Sky::night), colour(0_percent, 0_percent, 5_percent)));
        white.drive(now, hand.claim(now, feeds, Duty(100_percent)),
                    set_when(sky.in(Sky::day), Duty(90_percent)));
    }
};

} // namespace aquarium_light
