// SPDX-License-Identifier: MIT
/// \file
/// What a device sends: its header, answers, and rows with a check (docs/serial-line.md).
#pragma once

#include <cstdint>
#include <optional>
#include <string_view>

namespace zorilla::bench {

/// Whether a line is a device's header.
inline bool is_header(std::string_view line) { return line.substr(0, 5) == "time "; }

/// Whether a line is an answer to a command.
inline bool is_answer(std::string_view line) {
    return line == "ok" || line.substr(0, 3) == "ok " || line.substr(0, 4) == "no: ";
}

/// Whether the row behind a header is that of a device's first pass: it follows its header at once,
/// while later a header has to wait for a row. \param milliseconds  of the device's clock
/// \param header  its characters, each of which takes a millisecond at most
inline bool is_first_pass(int64_t milliseconds, int64_t header) {
    return milliseconds < 2 * header;
}

/// The number in a header's last column, `check (3f2a91c0)`; nothing if it is no such column.
std::optional<uint32_t> check_number(std::string_view field);

/// Whether the last field of a line is the check of all that stands before its comma. \param start
/// what the check begins with  \param row  becomes what stands before it
bool take_check(std::string_view line, uint16_t start, std::string_view& row);

/// What the check of a line would have to begin with to be right; nothing if its last field cannot
/// be one.
std::optional<uint16_t> start_of_check(std::string_view line);

} // namespace zorilla::bench
