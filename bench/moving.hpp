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
    /// What changes, a line each: "roost: ADC0 stays", "barrel: PD2 becomes GPIO2".
    std::vector<std::string> pins;
    std::vector<std::string> others;
    /// What a person has to see to: a code that was measured, a part for another voltage.
    std::vector<std::string> to_do;
};

/// \param file  without mistakes, of a chip that is known  \param text  it
Move move_of(const rig::RigFile& file, std::string_view text, const ChipFacts& to);

} // namespace zorilla::bench
