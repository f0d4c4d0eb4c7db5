// SPDX-License-Identifier: MIT
#include "bench/row_check.hpp"

#include <zorilla/board/trace_row.hpp>

#include <charconv>

namespace zorilla::bench {

namespace {

/// Hexadecimal digits in lower case, as many as there are; nothing if there are others.
std::optional<uint32_t> hexadecimal(std::string_view text, size_t digits) {
    if (text.size() != digits || text.find_first_not_of("0123456789abcdef") != text.npos)
        return std::nullopt;
    uint32_t out = 0;
    std::from_chars(text.data(), text.data() + digits, out, 16);
    return out;
}

/// A line as its row and its check.
struct Parts {
    std::string_view row;
    uint16_t check;
};
std::optional<Parts> parts_of(std::string_view line) {
    const size_t comma = line.rfind(',');
    if (comma == line.npos)
        return std::nullopt;
    const auto check = hexadecimal(line.substr(comma + 1), 4);
    if (!check)
        return std::nullopt;
    return Parts{line.substr(0, comma), static_cast<uint16_t>(*check)};
}

/// The check one character before: `next_check` backwards.
uint16_t check_before(uint16_t check, char c) {
    const auto low = static_cast<uint8_t>(check);
    const auto x = static_cast<uint8_t>(low ^ low << 5);
    const auto wide = uint16_t{x};
    const auto kept = static_cast<uint16_t>(check ^ wide << 12 ^ wide << 5 ^ wide) >> 8;
    const auto high = static_cast<uint8_t>(x ^ x >> 4 ^ static_cast<uint8_t>(c));
    return static_cast<uint16_t>(high << 8 | kept);
}

} // namespace

std::optional<uint32_t> check_number(std::string_view field) {
    constexpr std::string_view before = "check (";
    if (field.size() != before.size() + 9 || field.substr(0, before.size()) != before ||
        field.back() != ')')
        return std::nullopt;
    return hexadecimal(field.substr(before.size(), 8), 8);
}

bool take_check(std::string_view line, uint16_t start, std::string_view& row) {
    const auto parts = parts_of(line);
    if (!parts)
        return false;
    uint16_t check = start;
    for (const char c : parts->row)
        check = next_check(check, c);
    row = parts->row;
    return check == parts->check;
}

std::optional<uint16_t> start_of_check(std::string_view line) {
    const auto parts = parts_of(line);
    if (!parts)
        return std::nullopt;
    uint16_t check = parts->check;
    for (size_t i = parts->row.size(); i-- > 0;)
        check = check_before(check, parts->row[i]);
    return check;
}

} // namespace zorilla::bench
