// SPDX-License-Identifier: MIT
/// \file
/// A rig moved to another chip: which pins it would have there, and what else its file would say.
#pragma once

#include "rig/rig_file.hpp"

#include <string>
#include <string_view>
#include <vector>

namespace zorilla::bench {

struct Move {
    /// Why there is no plan, with what would help; empty if there is one.
    std::string problem;
    std::string text; ///< of the rig file, changed, with its comments
    struct Change {
        std::string of, what; ///< "barrel", "PD2 becomes GPIO2"; of the rig: "all"
    };
    std::vector<Change> pins;
    std::vector<Change> others;
    /// What a person has to see to: a code that was measured, a part for another voltage.
    std::vector<Change> to_do;
};

/// \param file  without mistakes, of a chip that is known  \param text  it
/// \throws rig::InputError  where it is written in a way that cannot be changed
Move move_of(const rig::RigFile& file, std::string_view text, const ChipFacts& to);

} // namespace zorilla::bench
