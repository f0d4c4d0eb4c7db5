// SPDX-License-Identifier: MIT
/// \file
/// Decisions, as data.
#pragma once

#include "rig/model/fact.hpp"
#include "rig/model/sense.hpp"

#include <zorilla/decide/decide.hpp>

#include <memory>
#include <optional>
#include <string>

namespace zorilla::rig {

class DecidePart;

/// What a decision gives to those who look at it.
enum class Gives : uint8_t { truth, stage, duty };

/// A decision.
struct Decide {
    std::string name;
    Place place;
    std::string word; ///< what kind of decision it is
    Gives gives = Gives::truth;
    bool judges = true;     ///< a quantity; else it goes by a condition
    size_t of = 0;          ///< index of the source that it judges
    uint8_t stages = 0;     ///< how many it has, if it gives a stage
    bool can_lock = false;  ///< whether it may give up until a reset
    WrittenCondition when;  ///< of one about a condition
    WrittenCondition reset; ///< of counting, and of an action
    std::optional<LastingSpec> lasting;
    uint16_t times = 0;                     ///< counts so many edges, if above 0
    size_t fact = 0;                        ///< its own truth, if it gives one
    std::shared_ptr<const DecidePart> part; ///< what its room has made of it

    bool has_truth() const { return gives == Gives::truth; }
};

} // namespace zorilla::rig
