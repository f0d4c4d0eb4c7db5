// SPDX-License-Identifier: MIT
/// \file
/// Outputs and their claims, as data.
#pragma once

#include "rig/model/fact.hpp"
#include "rig/model/table.hpp"
#include "rig/text/values.hpp"

#include <zorilla/drive/drive.hpp>

#include <memory>
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

class DrivePart;

/// An output with its claims in order.
struct Drive {
    std::string name;
    Place place;
    std::string word; ///< what kind of part it is
    ValueKind values = ValueKind::on_off;
    std::vector<std::string> pins;
    Level active = active_high;
    bool has_level = true; ///< whether one level of its pin means on
    bool top_only = false; ///< of a row of lights: that of the stage alone is lit
    AnyValue safe;
    AnyValue rest;
    std::optional<size_t> never_with; ///< the output that it must never be on with
    std::optional<size_t> turns;      ///< the source that tells whether it turns
    WrittenCondition reset;           ///< after it has failed
    struct TakeOver {
        WrittenCondition take;
        WrittenCondition back;
        Duration longest{};
        size_t fact = 0;
    };
    std::optional<TakeOver> hand;
    std::vector<RigClaim> claims;
    std::shared_ptr<const DrivePart> part; ///< what its room has made of it

    ValueKind kind() const { return values; }
    /// As much as it can be, for a test.
    AnyValue full() const;
    /// What it asks for while no claim holds, or one is unknown: words of `RigClaim::says`.
    std::string says(AnyValue value) const { return to_text(value, kind()); }
};

/// A claim as it is called: "claim 2, "cold"", "by hand".
std::string label_of(const RigClaim& claim);

} // namespace zorilla::rig
