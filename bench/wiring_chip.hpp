// SPDX-License-Identifier: MIT
/// \file
/// What a chip needs whatever it does. Only for the wiring plan itself.
#pragma once

#include "rig/model/rig.hpp"

#include <string>
#include <vector>

namespace zorilla::bench {

struct FixedWire {
    int leg;
    std::string name, to;
};
struct ChipWires {
    std::string about; ///< the package and its clock, a sentence or two
    std::vector<FixedWire> fixed;
};
/// \param rig  one whose chip is known; its line's pins are among them
ChipWires wires_of(const rig::Rig& rig);

} // namespace zorilla::bench
