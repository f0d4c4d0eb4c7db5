// SPDX-License-Identifier: MIT
// A rig's tables as TOML.
#include "rig/read/toml.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace zorilla::rig {

namespace {

/// A text in quotes, as TOML 1.0 has basic strings.
std::string quoted(std::string_view text) {
    std::string out = "\"";
    for (const char c : text) {
        if (c == '"' || c == '\\')
            out += '\\';
        if (static_cast<unsigned char>(c) < 0x20 || c == 0x7f)
            out += fmt::format("\\u{:04x}", static_cast<unsigned>(c));
        else
            out += c;
    }
    return out + '"';
}

std::string written(const std::string& key) {
    const bool bare = !key.empty() && key.find_first_not_of("abcdefghijklmnopqrstuvwxyz"
                                                            "ABCDEFGHIJKLMNOPQRSTUVWXYZ"
                                                            "0123456789_-") == std::string::npos;
    return bare ? key : quoted(key);
}

std::string inline_text(const Node& node) {
    switch (node.type()) {
    case Node::Type::text:
        return quoted(node.measure() ? exact_text(node.measure()->thousandths, node.measure()->kind)
                                     : *node.as_text());
    case Node::Type::whole: return fmt::format("{}", *node.as_whole());
    case Node::Type::number: {
        const std::string out = fmt::format("{}", *node.as_number());
        return out.find_first_of(".en") == std::string::npos ? out + ".0" : out;
    }
    case Node::Type::yes_no: return *node.as_yes_no() ? "true" : "false";
    case Node::Type::other: break; // a date, which no rig has a use for
    case Node::Type::list:
    case Node::Type::table: {
        std::string out;
        for (size_t i = 0; i < node.size(); ++i)
            out += (i == 0 ? "" : ", ") +
                   (node.is_table() ? written(node.keys()[i].text) + " = " : std::string()) +
                   inline_text(node[i]);
        return node.is_list() ? "[" + out + "]" : out.empty() ? "{}" : "{ " + out + " }";
    }
    }
    return "\"\"";
}

/// A list of tables or of lists is easier to read on lines of its own.
std::string value_text(const Node& node) {
    const bool deep = node.is_list() && std::any_of(node.inside().begin(), node.inside().end(),
                                                    [](const Node& one) { return one.is_table(); });
    if (!deep)
        return inline_text(node);
    std::string out = "[\n";
    for (const Node& one : node.inside())
        out += "    " + inline_text(one) + ",\n";
    return out + "]";
}

/// Whether a table of this name is a part: "drive.lamp".
bool is_part(const std::string& name) {
    return name.find('.') != std::string::npos && name.substr(0, 4) != "rig.";
}
/// Whether a table reads well on the line of its key.
bool is_short(const Node& table) {
    return std::none_of(table.inside().begin(), table.inside().end(),
                        [](const Node& one) { return one.is_table() || one.is_list(); });
}

void write_table(const Node& table, const std::string& name, std::string& out) {
    std::string values, tables;
    for (size_t i = 0; i < table.size(); ++i) {
        const std::string key = written(table.keys()[i].text);
        if (table[i].is_table() && !(is_part(name) && is_short(table[i])))
            write_table(table[i], name.empty() ? key : name + "." + key, tables);
        else
            values += fmt::format("{} = {}\n", key, value_text(table[i]));
    }
    // A table that only holds others needs no line of its own.
    if (!name.empty() && (!values.empty() || tables.empty()))
        out += fmt::format("{}[{}]\n", out.empty() ? "" : "\n", name);
    out += values;
    out += (out.empty() || tables.empty() ? "" : "\n") + tables;
}

} // namespace

std::string to_toml(const Node& rig) {
    std::string out;
    write_table(rig, "", out);
    return out;
}

} // namespace zorilla::rig
