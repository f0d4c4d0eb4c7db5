// SPDX-License-Identifier: MIT
// Four small devices, one by DEVICE_...: a threshold, two staged fans, a bar of four lights, and a
// motor that is turned back when it jams. four_twins.c is the same by hand.
#include "tests/metal/four_feed.h"

#include <zorilla/board/avr/pin.hpp>
#include <zorilla/decide/decide.hpp>
#include <zorilla/drive/drive.hpp>
#include <zorilla/sense/switched.hpp>
#include <zorilla/sense/thermistor.hpp>

using namespace zorilla;

namespace {

template <uint8_t Bit> [[gnu::always_inline]] void set_pin(OnOff value) {
    AvrPin<'B', Bit>::set(value == on ? Level::high : Level::low);
}

[[maybe_unused]] constexpr auto probe =
    thermistor(10_kohm, 3950_K).pull_up(10_kohm).range(-30_degC, 80_degC);

#if defined(DEVICE_threshold)

constexpr auto frost = below(4_degC).release(6_degC);
constexpr auto lamp_part = output<OnOff>().safe(off);
CodeThreshold<probe, frost> cold;
Output<lamp_part> lamp;
[[gnu::noinline]] void pass(uint32_t, uint16_t in) {
    set_pin<0>(lamp.drive(on_when(cold.decide(Sample(in)))).value);
}

#elif defined(DEVICE_two_fans)

constexpr auto heat = rising(30_degC, 40_degC).release(26_degC);
constexpr auto fan_part = relay(active_high).safe(on).min_on(30_s).min_off(30_s);
CodeLadder<probe, heat> stages;
Relay<fan_part> first;
Relay<fan_part> second;
[[gnu::noinline]] void pass(uint32_t ms, uint16_t in) {
    const Instant now(ms);
    const auto stage = stages.decide(Sample(in));
    set_pin<0>(first.drive(now, on_when(at_least(stage, 1))).value);
    set_pin<1>(second.drive(now, on_when(at_least(stage, 2))).value);
}

#elif defined(DEVICE_bar)

constexpr auto steps =
    rising(10_degC, 20_degC, 30_degC, 40_degC).release(9_degC, 19_degC, 29_degC, 39_degC);
constexpr auto bar_part = output<Stage>().safe(Stage());
CodeLadder<probe, steps> level;
Output<bar_part> bar;
[[gnu::noinline]] void pass(uint32_t, uint16_t in) {
    PORTB = bar_mask(bar.drive(follow(level.decide(Sample(in)))).value);
}

#else

// Bit 0 of the input: the motor stands. Bit 1: reset.
constexpr auto turn_back = act_for(2_s).rest_for(6_s).tries(3);
constexpr auto motor_part = output<OnOff>().safe(off);
constexpr auto forward_part = output<OnOff>().safe(off).rest(on);
Attempts<turn_back> clear;
Output<forward_part> forward;
Output<motor_part> back, call;
[[gnu::noinline]] void pass(uint32_t ms, uint16_t in) {
    const Truth stands = truth_of((in & 1) != 0);
    clear.pass(Instant(ms), stands, truth_of((in & 2) != 0));
    const Truth locked = clear.is_locked();
    set_pin<0>(forward.drive(off_when(stands || locked)).value);
    set_pin<1>(back.drive(on_when(clear.acts())).value);
    set_pin<2>(call.drive(on_when(locked)).value);
}

#endif

} // namespace

int main() { FEED(pass); }
