// SPDX-License-Identifier: MIT
/// \file
/// Outputs and their claims, as data.
#pragma once

#include "rig/model/fact.hpp"
#include "rig/model/table.hpp"
#include "rig/text/values.hpp"

#include <zorilla/drive/drive.hpp>

#include <optional>
#include <string>
#include <vector>

namespace zorilla::rig {

/// One claim of an output.
struct RigClaim {
    enum class By : uint8_t { rule, hand, shutdown, rest };
    By by = By::rule;
    uint8_t number = 0; ///< as it is written, from 1; of a rule
    std::string text;   ///< the condition as it was written; empty if it always holds
    Condition when;
    AnyValue then;
    std::string says;              ///< what it is called: a value, a pattern, a curve
    std::optional<size_t> follows; ///< the decision, a curve or a ladder, that gives its value
    std::vector<Step<AnyValue>> pattern; ///< values one after the other
    Duration pattern_time{};             ///< of all steps
    std::vector<AnyValue> in_turn;       ///< of a hand: what each press asks for

    bool always() const { return text.empty(); }
    bool is_steady() const { return !follows && pattern.empty() && in_turn.size() < 2; }
};

/// An output with its claims in order.
struct Drive {
    enum class Part : uint8_t { relay, led, rgb_led, buzzer, fan, pump, servo, pwm, led_bar };
    std::string name;
    Place place;
    Part part = Part::relay;
    std::vector<std::string> pins;
    Level active = active_high;
    AnyValue safe;
    AnyValue rest;
    RelaySpec spec{active_high};      ///< the guards of a relay
    FanSpec motor;                    ///< of a fan or a pump
    Duration fade{};                  ///< of an LED, a PWM output or a servo
    bool only_top = false;            ///< of a bar: it lights the stage that holds, not those below
    std::optional<size_t> never_with; ///< the output that it must never be on with
    std::optional<size_t> turns;      ///< the source that tells whether a motor turns
    WrittenCondition reset;           ///< after a motor has failed
    struct TakeOver {
        WrittenCondition take;
        WrittenCondition back;
        Duration longest{};
        size_t fact = 0;
    };
    std::optional<TakeOver> hand;
    std::vector<RigClaim> claims;

    bool is_motor() const { return part == Part::fan || part == Part::pump; }
    ValueKind kind() const;
    /// As much as it can be, for a test.
    AnyValue full() const;
    /// What it asks for while no claim holds, or one is unknown: words of `RigClaim::says`.
    std::string says(AnyValue value) const { return to_text(value, kind()); }
};

/// A claim as it is called: "claim 2, "cold"", "by hand".
std::string label_of(const RigClaim& claim);

/// "relay", "rgb_led": as it is written.
std::string_view to_text(Drive::Part part);

} // namespace zorilla::rig
