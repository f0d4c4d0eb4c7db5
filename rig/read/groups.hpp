// SPDX-License-Identifier: MIT
/// \file
/// The groups of tables that a rig file may have.
#pragma once

#include "rig/read/findings.hpp"

#include <optional>

namespace zorilla::rig {

/// Whether a file has the tables of a world and no sensor.
bool is_world(const Node& top);

/// Says which of its tables are of no group that there is.
/// \return  the tables with those of mistyped groups where they were meant to be, if there are any:
/// so that what names their parts is not called wrong too
std::optional<Node> check_groups(const Node& top, Findings& findings);

} // namespace zorilla::rig
