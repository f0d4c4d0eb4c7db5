// SPDX-License-Identifier: MIT
/// \file
/// From text to TOML tables. Only for rig/ itself.
#pragma once

#include "rig/table_reader.hpp"

namespace zorilla::rig {

/// The tables of a text; none if it is no TOML, which the findings tell then.
std::optional<toml::table> parse_toml(std::string_view text, Findings& findings);

} // namespace zorilla::rig
