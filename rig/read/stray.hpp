// SPDX-License-Identifier: MIT
/// \file
/// Letters beyond ASCII where TOML does not allow them.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>

namespace zorilla::rig {

/// A character that stands outside of quotes and comments, and its place; both count from 1.
struct Stray {
    uint32_t line;
    uint32_t column;
    std::string character;
};

/// The line of a key with more parts than anybody means, which no parser should have to build.
std::optional<uint32_t> find_endless_key(std::string_view toml);

/// The first character beyond ASCII outside of strings and comments, if any. Looked for before the
/// TOML parser runs: Debian 12's version of that has undefined behaviour on such a character.
std::optional<Stray> find_stray(std::string_view toml);

} // namespace zorilla::rig
