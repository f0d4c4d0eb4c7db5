// SPDX-License-Identifier: MIT
#include "rig/read/findings.hpp"

#include "rig/text/names.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <tuple>

namespace zorilla::rig {

namespace {

bool says_it_is_missing(const Mistake& one, const std::string& table, std::string_view key) {
    const std::string begin = table + " needs ";
    return one.text.compare(0, begin.size(), begin) == 0 &&
           one.text.find(fmt::format("\"{}\"", key)) != std::string::npos;
}

/// The name of which a mistake says that there is none, such as "there is no [sense.roost]"; empty
/// of any other mistake.
std::string name_not_there(const std::string& text) {
    const std::string begin = "there is no [";
    const size_t dot = text.find('.', begin.size()), end = text.find(']', begin.size());
    return text.compare(0, begin.size(), begin) != 0 || end == std::string::npos || dot > end
               ? std::string()
               : text.substr(dot + 1, end - dot - 1);
}

} // namespace

bool Findings::is_missing(const std::string& table, std::string_view key) const {
    return std::any_of(mistakes_.begin(), mistakes_.end(),
                       [&](const Mistake& one) { return says_it_is_missing(one, table, key); });
}

void Findings::take_back_missing(const std::string& table, std::string_view key) {
    mistakes_.erase(
        std::remove_if(mistakes_.begin(), mistakes_.end(),
                       [&](const Mistake& one) { return says_it_is_missing(one, table, key); }),
        mistakes_.end());
}

void Findings::take_back_general(size_t before, const std::string& table) {
    const auto first = mistakes_.begin() + static_cast<std::ptrdiff_t>(std::min(before, count()));
    const std::string begin = table + ": ";
    const auto is_general = [&](const Mistake& one) {
        return one.text.compare(0, begin.size(), begin) == 0;
    };
    if (std::any_of(first, mistakes_.end(),
                    [&](const Mistake& one) { return !is_general(one) && !one.is_of_pins; }))
        mistakes_.erase(std::remove_if(first, mistakes_.end(), is_general), mistakes_.end());
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

std::vector<Mistake> Findings::told_once(std::vector<Mistake> all) {
    std::vector<Mistake> out;
    std::map<std::string, std::pair<size_t, std::vector<uint32_t>>> names;
    for (Mistake& one : all) {
        const std::string name = name_not_there(one.text);
        const auto known = names.find(name);
        if (!name.empty() && known != names.end()) {
            known->second.second.push_back(one.line);
            continue;
        }
        if (!name.empty())
            names[name] = {out.size(), {}};
        out.push_back(std::move(one));
    }
    for (const auto& [name, places] : names) {
        const auto& [first, lines] = places;
        for (size_t i = 0; i < lines.size(); ++i)
            out[first].text += fmt::format("{}{}",
                                           i > 0 && i + 1 == lines.size() ? " and "
                                           : i > 0                        ? ", "
                                           : lines.size() == 1            ? "; it is named in line "
                                                               : "; it is named in lines ",
                                           lines[i]);
        if (!lines.empty())
            out[first].text += " too";
    }
    return out;
}

} // namespace zorilla::rig
