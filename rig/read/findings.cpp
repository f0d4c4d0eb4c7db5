// SPDX-License-Identifier: MIT
#include "rig/read/findings.hpp"

#include "rig/text/names.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <tuple>

namespace zorilla::rig {

void Findings::take_back_missing(const std::string& table, std::string_view key) {
    const std::string begin = table + " needs ";
    const std::string named = fmt::format("\"{}\"", key);
    mistakes_.erase(std::remove_if(mistakes_.begin(), mistakes_.end(),
                                   [&](const Mistake& one) {
                                       return one.text.compare(0, begin.size(), begin) == 0 &&
                                              one.text.find(named) != std::string::npos;
                                   }),
                    mistakes_.end());
}

void Findings::claim_name(const Key& key, const std::string& table) {
    const std::string& name = key.text;
    if (!is_plain_name(name))
        return add(key, fmt::format("\"{}\" cannot be a name here; use lower-case letters, "
                                    "digits and _, beginning with a letter",
                                    name));
    if (name.size() > longest_name)
        return add(key, fmt::format("this name has {} characters; write one of at most {}",
                                    name.size(), longest_name));
    if (is_taken_word(name))
        return add(key, fmt::format("\"{}\" is a word with a meaning of its own; choose "
                                    "another name",
                                    name));
    if (is_cpp_word(name))
        return add(key, fmt::format("\"{0}\" is a word of C++, which every rig can be written as; "
                                    "choose another name, such as \"{0}_one\"",
                                    name));
    const auto [used, fresh] = names_.emplace(name, table);
    if (!fresh)
        add(key, fmt::format("the name \"{}\" is already used by {}; every part needs a name "
                             "of its own",
                             name, used->second));
}

void Findings::claim_pin(Place at, const std::string& pin, const std::string& written,
                         const std::string& table) {
    // What the chip takes by itself stands in no line.
    const auto [used, fresh] =
        pins_.emplace(pin, at.line == 0 ? table : fmt::format("{} in line {}", table, at.line));
    if (!fresh)
        add_of_pins(at,
                    fmt::format("the pin {} is already used by {}; give one of them another pin",
                                pin == written ? pin : fmt::format("{} ({})", written, pin),
                                used->second));
}

std::vector<Mistake> Findings::sorted(std::vector<Mistake> all) {
    std::sort(all.begin(), all.end(), [](const Mistake& a, const Mistake& b) {
        return std::tie(a.line, a.column, a.text) < std::tie(b.line, b.column, b.text);
    });
    return all;
}

} // namespace zorilla::rig
