// SPDX-License-Identifier: MIT
/// \file
/// State machines, as data.
#pragma once

#include "rig/model/fact.hpp"
#include "rig/model/table.hpp"

#include <zorilla/decide/decide.hpp>

#include <string>
#include <vector>

namespace zorilla::rig {

/// A state machine.
struct RigMachine {
    std::string name;
    Place place;
    std::vector<std::string> states;
    uint8_t start = 0;
    std::vector<MachineMove> moves; ///< `when` is one of the events
    std::vector<WrittenCondition> events;
};

} // namespace zorilla::rig
