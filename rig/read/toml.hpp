// SPDX-License-Identifier: MIT
/// \file
/// From TOML to plain tables, and back.
#pragma once

#include "rig/read/findings.hpp"

namespace zorilla::rig {

/// The tables of a text; none if it is no TOML, which the findings tell then.
std::optional<Node> parse_toml(std::string_view text, Findings& findings);

/// The text of a rig's tables. Read again, they say the same.
std::string to_toml(const Node& rig);

} // namespace zorilla::rig
