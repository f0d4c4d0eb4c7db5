// SPDX-License-Identifier: MIT
#include "rig/toml_text.hpp"

#include "rig/stray.hpp"

namespace zorilla::rig {

std::optional<toml::table> parse_toml(std::string_view text, Findings& findings) {
    if (const auto stray = find_stray(text)) {
        findings.add({stray->line, stray->column},
                     fmt::format("\"{}\" may stand only in quotes or in a comment; names are "
                                 "lower-case letters, digits and _",
                                 stray->character));
        return std::nullopt;
    }
    if (const auto line = find_endless_key(text)) {
        findings.add({*line, 1},
                     "this key has more than 64 parts; a rig's tables have two or three");
        return std::nullopt;
    }
    toml::parse_result parsed = toml::parse(text);
    if (!parsed) {
        const auto at = parsed.error().source().begin;
        findings.add(at, fmt::format("this is not TOML: {}", parsed.error().description()));
        return std::nullopt;
    }
    return std::move(parsed).table();
}

} // namespace zorilla::rig
