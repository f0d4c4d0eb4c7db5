// SPDX-License-Identifier: MIT
#include "rig/read/stray.hpp"

#include <algorithm>

namespace zorilla::rig {

namespace {

bool is_continuation(char c) { return (static_cast<unsigned char>(c) & 0xc0U) == 0x80U; }
bool is_ascii(char c) { return static_cast<unsigned char>(c) < 0x80; }

/// Where the comment or string that begins at `at` ends (TOML 1.0, "Comment" and "String"); `at`
/// itself if none begins there.
size_t end_of_quoted(std::string_view text, size_t at) {
    const char quote = text[at];
    if (quote == '#')
        return std::min(text.find('\n', at), text.size());
    if (quote != '"' && quote != '\'')
        return at;
    const bool escapes = quote == '"';
    const std::string three(3, quote);
    if (text.compare(at, 3, three) == 0) {
        for (at += 3; at < text.size(); ++at) {
            if (escapes && text[at] == '\\') {
                ++at;
            } else if (text.compare(at, 3, three) == 0) {
                // Up to two more quotes are the end of the text itself.
                at += 3;
                for (int more = 0; more < 2 && at < text.size() && text[at] == quote; ++more)
                    ++at;
                return at;
            }
        }
        return text.size();
    }
    for (++at; at < text.size() && text[at] != '\n'; ++at) {
        if (escapes && text[at] == '\\')
            ++at;
        else if (text[at] == quote)
            return at + 1;
    }
    return std::min(at, text.size());
}

} // namespace

std::optional<uint32_t> find_endless_key(std::string_view toml) {
    constexpr int most = 64;
    int dots = 0;
    uint32_t line = 1;
    for (size_t at = 0; at < toml.size();) {
        if (toml[at] == '\n') {
            ++line;
            dots = 0;
        } else if (toml[at] == '=' || toml[at] == ',' || toml[at] == '{') {
            dots = 0;
        } else if (toml[at] == '.' && ++dots > most) {
            return line;
        }
        const size_t end = end_of_quoted(toml, at);
        line += static_cast<uint32_t>(
            std::count(toml.begin() + static_cast<ptrdiff_t>(at) + 1,
                       toml.begin() + static_cast<ptrdiff_t>(std::max(end, at + 1)), '\n'));
        at = std::max(at + 1, end);
    }
    return std::nullopt;
}

std::optional<Stray> find_stray(std::string_view toml) {
    size_t at = toml.substr(0, 3) == "\xEF\xBB\xBF" ? 3 : 0;
    while (at < toml.size() && is_ascii(toml[at]))
        at = std::max(at + 1, end_of_quoted(toml, at));
    if (at >= toml.size())
        return std::nullopt;
    const std::string_view before = toml.substr(0, at);
    const size_t line_begin = before.find_last_of('\n') + 1;
    const auto line = std::count(before.begin(), before.end(), '\n') + 1;
    const auto column = std::count_if(before.begin() + static_cast<std::ptrdiff_t>(line_begin),
                                      before.end(), [](char c) { return !is_continuation(c); }) +
                        1;
    size_t end = at + 1;
    while (end < toml.size() && end < at + 4 && is_continuation(toml[end]))
        ++end;
    return Stray{static_cast<uint32_t>(line), static_cast<uint32_t>(column),
                 std::string(toml.substr(at, end - at))};
}

} // namespace zorilla::rig
