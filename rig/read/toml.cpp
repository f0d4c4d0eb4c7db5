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

/// Whether a text would steer whatever it is written to: a line break, an escape, and the like.
bool steers(std::string_view text) {
    return std::any_of(text.begin(), text.end(), [](char c) {
        const auto byte = static_cast<unsigned char>(c);
        return byte < 0x20 || byte == 0x7f;
    });
}

/// Complains of every text that does.
void look_for_steering(const Node& node, Findings& findings) {
    constexpr const char* words = "holds a line break or another character that cannot be seen; "
                                  "write it in one line, of letters, digits and signs";
    if (const std::string* text = node.as_text(); text != nullptr && steers(*text))
        findings.add(node, fmt::format("this text {}", words));
    for (size_t i = 0; i < node.size(); ++i) {
        if (node.is_table() && steers(node.keys()[i].text))
            findings.add(node.keys()[i], fmt::format("this name {}", words));
        look_for_steering(node[i], findings);
    }
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
    Node out = node_of(parsed.table());
    const size_t before = findings.count();
    look_for_steering(out, findings);
    return findings.count() == before ? std::optional(std::move(out)) : std::nullopt;
}

} // namespace zorilla::rig
