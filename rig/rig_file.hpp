// SPDX-License-Identifier: MIT
/// \file
/// Rig files: a whole device described in TOML. Every key is explained in docs/rig-file.md.
#pragma once

#include "rig/model/rig.hpp"
#include "rig/read/findings.hpp"
#include "rig/read/pins.hpp"

#include <string>
#include <string_view>
#include <vector>

namespace zorilla::rig {

/// A rig file as far as it could be understood. `rig` may be used only if there is no mistake.
struct RigFile {
    Rig rig;
    std::vector<Mistake> mistakes; ///< in the order of their lines
    std::vector<Mistake> warnings; ///< what may be meant, but seldom is; the same
    std::vector<PinUse> pins;      ///< in the order in which they were claimed
};

/// Checks the text of a rig file and builds the rig. Never throws on bad text.
RigFile parse_rig(std::string_view text);

/// The same from tables: of a rig that was read, and then perhaps changed.
RigFile make_rig(Node written);

/// The text of a rig file that says what this rig is.
std::string to_toml(const Rig& rig);

/// Reads and checks a rig file. \throws InputError  if the file cannot be read.
RigFile load_rig(const std::string& path);

} // namespace zorilla::rig
