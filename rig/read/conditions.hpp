// SPDX-License-Identifier: MIT
/// \file
/// Reading conditions.
#pragma once

#include "rig/model/condition.hpp"

#include <functional>
#include <optional>
#include <string>
#include <string_view>

namespace zorilla::rig {

/// A parsed condition, or what is wrong with the text and where in it.
struct ConditionText {
    Condition condition;
    std::string problem; ///< empty if the text was understood
    size_t offset = 0;   ///< of the problem, in characters from the beginning of the text
};

/// What one part of a condition says, in words.
struct FactText {
    std::string_view name; ///< of a sensor, a decision or a machine
    /// "", "lost", "rises", "falls", "locked", "warns", "warns_off", "by_hand", "stalled", ">=",
    /// "in", "enters", "leaves" or "at"
    std::string_view verb;
    std::string_view object; ///< the state, or the number of the stage
};

/// Finds the number of a fact, or says what is wrong with it.
using FindFact = std::function<std::optional<size_t>(const FactText&, std::string& problem)>;

ConditionText parse_condition(std::string_view text, const FindFact& find);

} // namespace zorilla::rig
