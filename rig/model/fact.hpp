// SPDX-License-Identifier: MIT
/// \file
/// What conditions can name, and conditions as they were written.
#pragma once

#include "rig/model/condition.hpp"

#include <cstdint>
#include <string>

namespace zorilla::rig {

/// Something that is yes, no or unknown in each pass, and that conditions can name.
struct Fact {
    enum class Kind : uint8_t {
        switched, ///< a sensor that is yes or no: `of` is its source
        decision, ///< `of` is the decision
        lost,     ///< whether a source is not healthy
        rises,    ///< whether another fact has become yes in this pass: `of` is its number
        falls,    ///< whether it has become no
        at_least, ///< whether a ladder is at stage `number` or a higher one
        locked,   ///< whether a timed action has given up
        in_state, ///< whether a machine is in state `number`
        enters,   ///< whether it has come into it in this pass
        leaves,
        warns,     ///< whether an output is about to switch, and warns
        warns_off, ///< whether it is about to switch off, and warns
        by_hand,   ///< whether a person has taken an output over
        stalled,   ///< whether a motor stands that should turn
        shut_down, ///< whether an output is shut down: `number` is its place in the order
        is_on,     ///< whether an output is on; in what must never be
        at_full,   ///< whether it is as much as it can be; the same
    };
    Kind kind = Kind::decision;
    size_t of = 0;
    uint8_t number = 0;
    std::string name; ///< as it is written
};

/// Who says a fact.
enum class FactFrom : uint8_t {
    source,   ///< the reading of a source
    edge,     ///< another fact, as it turns
    truth,    ///< a decision's own truth
    decision, ///< something else that a decision tells
    machine,  ///< a machine, after its move
    hand,     ///< a person's hand
    shutdown, ///< the shutdown
    part,     ///< the part of an output, after its guards
    nobody,   ///< nobody who runs: only what must never be looks at it
};
FactFrom from_of(Fact::Kind kind);
/// Whether others may look at it before it is said in a pass, and so see that of the pass before.
constexpr bool is_said_late(FactFrom from) {
    return from == FactFrom::machine || from == FactFrom::hand || from == FactFrom::shutdown ||
           from == FactFrom::part;
}

/// A condition as it was written, and ready to be evaluated.
struct WrittenCondition {
    std::string text; ///< empty if there is none
    Condition condition;
    bool given() const { return !text.empty(); }
};

} // namespace zorilla::rig
