// SPDX-License-Identifier: MIT
/// \file
/// What a rig's parts are soldered to: which leg of the chip, through what, and what else the chip
/// needs.
#pragma once

#include "rig/model/rig.hpp"

#include <string>
#include <vector>

namespace zorilla::bench {

/// One wire of the plan.
struct WiringRow {
    std::string pin; ///< as the rig file calls it
    int leg = 0;     ///< of the package with 28 legs; 0 where only larger ones have it
    std::string name, part;
    std::string to; ///< what of the part goes there, and through what
    bool drives = false;
};
/// One for each pin of each part, in the order of the file.
std::vector<WiringRow> wiring_of(const rig::Rig& rig);

/// The plan as a page of Markdown, and as a picture for Graphviz; with the serial line, by which a
/// program comes too.
std::string wiring_page(const rig::Rig& rig);
std::string wiring_dot(const rig::Rig& rig);

} // namespace zorilla::bench
