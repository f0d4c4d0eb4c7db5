// SPDX-License-Identifier: MIT
// What the headers claim that their blocks remember, in bytes of RAM; held true by the compiler of
// the 8-bit chip. Each claim is quoted as it stands there.
#pragma once

#include "tests/chips/bank.hpp"

#include <zorilla/board/line.hpp>
#include <zorilla/board/trace_row.hpp>

namespace bank::claims {

#define CLAIM(header_and_words, Type, bytes)                                                       \
    static_assert(sizeof(Type) == (bytes), header_and_words)

inline constexpr auto plain = relay(active_low).safe(off).min_on(5_s).min_off(2_s);
inline constexpr auto rested = act_for(2_s).rest_for(7_s).tries(3);
inline constexpr auto plain_lamp = led(active_high).safe(0_percent);
inline constexpr auto shade_lamp = led(active_high).safe(0_percent).fade(3_s);
inline constexpr auto motor = zorilla::fan().safe(0_percent).kick(60_percent, 900_ms).ramp(20_s);
inline constexpr auto plain_fan = zorilla::fan().safe(0_percent);
inline constexpr auto stalling_motor = motor.stall_after(3_s);
inline constexpr auto frost = below(4_degC).release(6_degC);
inline constexpr auto light = output<Colour>().safe(Colour());
inline constexpr auto lamp = output<OnOff>().safe(off);
inline constexpr Duration hour = 1_h;
inline constexpr auto watch =
    machine(Door::shut, transition(Door::shut, Door::opening).when(Cue::dawn),
            transition(Door::opening, Door::shut).after(20_s));

CLAIM("drive/relay.hpp: seven bytes", Relay<plain>, 7);
CLAIM("drive/relay.hpp: twelve if it warns", Relay<lift>, 12);
CLAIM("drive/led.hpp: six", Led<shade_lamp>, 6);
CLAIM("drive/led.hpp: one byte", Led<plain_lamp>, 1);
CLAIM("drive/fade.hpp: one byte", NoFade, 1);
CLAIM("drive/fan.hpp: eighteen", Fan<stalling_motor>, 18);
CLAIM("drive/fan.hpp: one byte", Fan<plain_fan>, 1);
CLAIM("drive/fan.hpp: eleven bytes", Fan<motor>, 11);
CLAIM("drive/fade.hpp: five bytes", FadeState, 5);
CLAIM("drive/fade.hpp: six bytes", FadeFromStart, 6);
CLAIM("drive/hand.hpp: six bytes", Hand<hour>, 6);
CLAIM("drive/output.hpp: one to three bytes", Output<lamp>, 1);
CLAIM("drive/output.hpp: one to three bytes", Output<light>, 3);
CLAIM("drive/output.hpp: six bytes", Sequence<beat>, 6);
CLAIM("drive/round.hpp: five bytes", ShutdownState, 5);
CLAIM("drive/round.hpp: six bytes", SelfTestState, 6);
CLAIM("decide/threshold.hpp: one byte", Threshold<frost>, 1);
using FrostByCode = CodeThreshold<beta, frost>;
CLAIM("decide/by_code.hpp: one byte", FrostByCode, 1);
using StagesByCode = CodeLadder<beta, stages>;
CLAIM("decide/by_code.hpp: one byte", StagesByCode, 1);
CLAIM("decide/window.hpp: one byte", Window<comfort>, 1);
CLAIM("decide/ladder.hpp: one byte", Ladder<stages>, 1);
CLAIM("decide/curve.hpp: two bytes", Curve<breeze>, 2);
CLAIM("decide/lasting.hpp: six bytes", Lasting<calm>, 6);
CLAIM("decide/lasting.hpp: one byte", Edge, 1);
CLAIM("decide/lasting.hpp: four bytes", Counter<3>, 4);
CLAIM("decide/attempts.hpp: eight bytes", Attempts<rested>, 8);
CLAIM("decide/attempts.hpp: twelve with `longest_total`", Attempts<unjam>, 12);
CLAIM("decide/machine.hpp: eight if a transition", Machine<door>, 8);
CLAIM("decide/machine.hpp: seven bytes", Machine<watch>, 7);
CLAIM("derive/change.hpp: 70 bytes", RateOfChange<Temperature>, 70);
CLAIM("sense/humidity_frame.hpp: 18 bytes", HumidityFrame<tenths>, 18);
CLAIM("sense/gas.hpp: eight bytes", GasSensor<nose>, 8);
using MedianOfFive = Median<5, Temperature>;
CLAIM("sense/filters.hpp: 4 N + 2 bytes", MedianOfFive, 4 * 5 + 2);
CLAIM("sense/smoothing.hpp: 21 bytes", Smoothing<Temperature>, 21);
CLAIM("sense/filters.hpp: 11 bytes", Oversampling<2>, 11);
CLAIM("sense/filters.hpp: 22 bytes", RateGate<Temperature>, 22);
CLAIM("sense/filters.hpp: 14 bytes", Hold<Temperature>, 14);
CLAIM("sense/filters.hpp: 22 bytes", Watch<Temperature>, 22);
CLAIM("sense/switched.hpp: seven bytes", DigitalInput<hatch>, 7);
CLAIM("sense/switched.hpp: one byte", AnalogueLevel<bilge>, 1);
CLAIM("sense/pulses.hpp: fifteen bytes", PulseRate<bank::fan>, 15);
CLAIM("sense/trim.hpp: 12 bytes", Trim<Temperature>, 12);
CLAIM("sense/moisture.hpp: eleven bytes", MoistureProbe<stack>, 11);
CLAIM("board/line.hpp: 69 bytes", LineIn, 69);
CLAIM("board/line.hpp: 17 bytes", LineInput, 17);
constexpr auto bound = setting(4_degC, 12_degC, 6_degC);
CLAIM("board/line.hpp: two bytes", LineSetting<bound>, 2);
CLAIM("board/trace_row.hpp: five bytes", Reporting, 5);

#undef CLAIM

} // namespace bank::claims
