// SPDX-License-Identifier: MIT
// A pellet feeder for goats: a screw that is turned back when it jams, up to three times; then
// somebody has to look. The same device as pellet_feeder.toml.
#pragma once

#include <zorilla/zorilla.hpp>

namespace pellet_feeder {

using namespace zorilla;

inline constexpr auto probe =
    thermistor(10_kohm, 3950_K).pull_up(4.7_kohm).range(-20_degC, 110_degC);
inline constexpr auto push = digital_input(active_low);
inline constexpr auto contact = digital_input(active_low).debounce(200_ms);
inline constexpr auto too_hot = above(70_degC).release(55_degC);
inline constexpr auto turn_back = act_for(2_s).rest_for(6_s).tries(3);
inline constexpr auto motor_wiring = relay(active_high).safe(off);
inline constexpr auto lamp_wiring = relay(active_high).safe(on);

static_assert(can_judge(probe, too_hot));

enum class State : uint8_t { idle, feeding, jammed };
enum class Event : uint8_t { button, locked };
inline constexpr auto feeding =
    machine(State::idle, transition(State::idle, State::feeding).when(Event::button),
            transition(State::feeding, State::idle).after(20_s),
            transition_from_any(State::jammed).when(Event::locked),
            transition(State::jammed, State::idle).when(Event::button));

struct Inputs {
    Sample motor;
    LevelSample button;
    LevelSample stalled;
};

struct Device {
    Thermistor<probe> motor;
    DigitalInput<push> button;
    Edge press;
    DigitalInput<contact> stalled;
    Threshold<too_hot> hot;
    Attempts<turn_back> clear;
    Machine<feeding> feeder;
    Relay<motor_wiring> forward;
    Relay<motor_wiring> back;
    Relay<lamp_wiring> call;

    ZORILLA_IN_PLACE void pass(Instant now, const Inputs& in) {
        const Truth is_hot = hot.decide(motor.read(in.motor));
        const Truth pressed = button.read(now, in.button);
        const Truth stands = stalled.read(now, in.stalled);
        clear.pass(now, stands, pressed);
        feeder.pass(now, event<Event::button>(press.pass(pressed)),
                    event<Event::locked>(clear.is_locked()));
        forward.drive_unless(truth_of(back.value() == on), now, off_when(stands || is_hot),
                             on_when(feeder.in(State::feeding)));
        back.drive_unless(truth_of(forward.value() == on), now, off_when(is_hot),
                          on_when(clear.acts()));
        call.drive(now, on_when(feeder.in(State::jammed)), on_when(is_hot));
    }
};

} // namespace pellet_feeder
