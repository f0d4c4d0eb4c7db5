// SPDX-License-Identifier: MIT
/// \file
/// A rig as a circuit: one pass over what its sensors may say, with times left open. Wherever
/// something waits, it may have waited long enough or not; how long each wait must have been stands
/// beside it, for whoever looks for a sequence that can really happen. Random rigs are tried
/// against it (tests/prove).
#pragma once

#include "rig/circuit/circuit.hpp"
#include "rig/model/rig.hpp"

#include <optional>
#include <string>
#include <vector>

namespace zorilla::rig::prove {

/// Whether a value is as much as an output can be.
bool is_full(const Drive& drive, AnyValue value);

/// What a source may say: one of a few readings that the rig tells apart, or nothing.
struct Saying {
    size_t source;
    Wire lost;                     ///< it has no healthy reading
    std::vector<Wire> says;        ///< one for each of the readings
    std::vector<int32_t> readings; ///< in thousandths, the calmest first
    std::vector<int32_t> lowest;   ///< the least that looks the same, and the most
    std::vector<int32_t> highest;
};

/// A wait: in a pass in which `when` holds, so much time has gone by since the clock was started in
/// an earlier pass; where `fresh` holds, it was started in this one, and no time has gone by.
struct Wait {
    size_t clock;
    Wire when;
    Wire fresh;
    Wire choice;                  ///< the input that leaves it open
    std::optional<int64_t> least; ///< milliseconds
    std::optional<int64_t> most;
    std::string text; ///< "min_off of lamp (5 min) is over"; empty of one that is not over
};

/// A state of the rig for a person: "lamp goes on".
struct Change {
    Wire is;
    Wire was;
    std::string text;
};

struct Model {
    Circuit circuit;
    std::vector<Saying> sayings;
    std::vector<Wire> clocks; ///< each is yes in the passes in which it is started
    std::vector<Wait> waits;
    std::vector<Change> changes;
    std::vector<Three> facts; ///< of the rig, after the pass
    std::vector<Wire> any;    ///< of each output, whether it is anything but off
    std::vector<Wire> full;
    std::vector<Three> bad; ///< each line of `never`

    Three evaluate(const Condition& condition);
};

/// \param with_self_test  whether a self-test may begin
Model model_of(const Rig& rig, bool with_self_test);

} // namespace zorilla::rig::prove
