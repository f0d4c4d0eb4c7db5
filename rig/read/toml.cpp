// SPDX-License-Identifier: MIT
// The only file that knows the TOML parser.
#include "rig/read/toml.hpp"

#include "rig/read/stray.hpp"

#include <fmt/format.h>

#define TOML_EXCEPTIONS 0
#include <toml++/toml.h>

#include <algorithm>
#include <tuple>

namespace zorilla::rig {

namespace {

Place place_of(const toml::source_region& source) {
    return {source.begin.line, source.begin.column};
}

Node node_of(const toml::node& from) {
    const Place at = place_of(from.source());
    if (const auto* text = from.as_string())
        return Node::text(text->get(), at);
    if (const auto* whole = from.as_integer())
        return Node::whole(whole->get(), at);
    if (const auto* number = from.as_floating_point())
        return Node::number(number->get(), at);
    if (const auto* yes_no = from.as_boolean())
        return Node::yes_no(yes_no->get(), at);
    if (const auto* list = from.as_array()) {
        Node out = Node::list(at);
        for (const toml::node& node : *list)
            out.add(node_of(node));
        return out;
    }
    const auto* table = from.as_table();
    if (table == nullptr)
        return Node::other(at);
    // The parser sorts by name; a rig keeps the order of the file, since order has a meaning.
    std::vector<std::pair<const toml::key*, const toml::node*>> parts;
    for (const auto& [key, node] : *table)
        parts.emplace_back(&key, &node);
    std::stable_sort(parts.begin(), parts.end(), [](const auto& a, const auto& b) {
        const auto one = a.first->source().begin, other = b.first->source().begin;
        return std::tie(one.line, one.column) < std::tie(other.line, other.column);
    });
    Node out = Node::table(at);
    for (const auto& [key, node] : parts)
        out.add({std::string(key->str()), place_of(key->source())}, node_of(*node));
    return out;
}

} // namespace

std::optional<Node> parse_toml(std::string_view text, Findings& findings) {
    if (const auto stray = find_stray(text)) {
        findings.add(Place{stray->line, stray->column},
                     fmt::format("\"{}\" may stand only in quotes or in a comment; names are "
                                 "lower-case letters, digits and _",
                                 stray->character));
        return std::nullopt;
    }
    if (const auto line = find_endless_key(text)) {
        findings.add(Place{*line, 1},
                     "this key has more than 64 parts; a rig's tables have two or three");
        return std::nullopt;
    }
    const toml::parse_result parsed = toml::parse(text);
    if (!parsed) {
        findings.add(place_of(parsed.error().source()),
                     fmt::format("this is not TOML: {}", parsed.error().description()));
        return std::nullopt;
    }
    return node_of(parsed.table());
}

} // namespace zorilla::rig
