// SPDX-License-Identifier: MIT
/// \file
/// The check behind each row that a device sends (docs/serial-line.md).
#pragma once

#include <cstdint>
#include <optional>
#include <string_view>

namespace zorilla::bench {

/// The number in a header's last column, `check (3f2a91c0)`; nothing if it is no such column.
std::optional<uint32_t> check_number(std::string_view field);

/// Whether the last field of a line is the check of all that stands before its comma. \param start
/// what the check begins with  \param row  becomes what stands before it
bool take_check(std::string_view line, uint16_t start, std::string_view& row);

/// What the check of a line would have to begin with to be right; nothing if its last field cannot
/// be one.
std::optional<uint16_t> start_of_check(std::string_view line);

} // namespace zorilla::bench
