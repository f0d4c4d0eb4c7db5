// SPDX-License-Identifier: MIT
#include "rig/read/table_reader.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <stdexcept>

namespace zorilla::rig {

const Node* TableReader::find(std::string_view key) {
    if (std::find(known_.begin(), known_.end(), key) == known_.end()) {
        if (std::find(allowed_.begin(), allowed_.end(), key) == allowed_.end())
            throw std::logic_error(
                fmt::format("{} asks for \"{}\", which its keys do not list", label_, key));
        known_.emplace_back(key);
    }
    return table_.get(key);
}

std::optional<std::string> TableReader::text(std::string_view key, std::string_view example) {
    const Node* node = find(key);
    if (node == nullptr)
        return std::nullopt;
    if (const auto* string = node->as_text())
        return *string;
    findings_.add(*node,
                  fmt::format("\"{}\" must be a text, such as {} = \"{}\"", key, key, example));
    return std::nullopt;
}

std::optional<std::string>
TableReader::required_text(std::string_view key, std::string_view example, std::string_view why) {
    auto out = text(key, example);
    if (!out && table_.get(key) == nullptr)
        complain(fmt::format("{} needs \"{}\", {}; for example {} = \"{}\"", label_, key, why, key,
                             example));
    return out;
}

std::optional<std::string> TableReader::choice(std::string_view key, const Names& choices) {
    auto word = text(key, choices.front());
    if (!word || std::find(choices.begin(), choices.end(), *word) != choices.end())
        return word;
    const std::string near = suggestion(*word, choices);
    findings_.add(
        *table_.get(key),
        fmt::format("\"{}\" is not a possible value of \"{}\"{}", *word, key,
                    near.empty() || choices.size() <= 4 ? "; write " + listed(choices) : near));
    return std::nullopt;
}

std::optional<OnOff> TableReader::on_off(std::string_view key) {
    const auto word = choice(key, {"off", "on"});
    return word ? std::optional(*word == "on" ? on : off) : std::nullopt;
}

std::optional<int32_t> TableReader::quantity(std::string_view key, Kind kind,
                                             std::string_view example) {
    const Node* node = find(key);
    return node == nullptr ? std::nullopt : quantity_of(*node, key, kind, example);
}

std::optional<int32_t> TableReader::quantity_of(const Node& node, std::string_view key, Kind kind,
                                                std::string_view example) {
    if (node.is_number()) {
        std::string number = node.as_whole() ? fmt::format("{}", *node.as_whole())
                                             : fmt::format("{}", *node.as_number());
        const std::string unit(example.substr(example.find(' ') + 1));
        findings_.add(node, fmt::format("\"{}\" is the bare number {}, without a unit; write "
                                        "for example {} = \"{} {}\"",
                                        key, number, key, number, unit));
        return std::nullopt;
    }
    const auto* string = node.as_text();
    if (string == nullptr) {
        findings_.add(node, fmt::format("\"{}\" must be a text with a unit, such as {} = "
                                        "\"{}\"",
                                        key, key, example));
        return std::nullopt;
    }
    QuantityText read = parse_quantity(*string, kind, example);
    if (read.problem.empty()) {
        node.understood({read.thousandths, kind});
        return read.thousandths;
    }
    findings_.add(node, std::move(read.problem));
    return std::nullopt;
}

std::optional<int32_t> TableReader::required_quantity(std::string_view key, Kind kind,
                                                      std::string_view example,
                                                      std::string_view why) {
    const auto value = quantity(key, kind, example);
    if (!value && table_.get(key) == nullptr)
        complain(fmt::format("{} needs \"{}\", {}; for example {} = \"{}\"", label_, key, why, key,
                             example));
    return value;
}

bool TableReader::require(std::string_view key, std::string_view why, std::string_view example) {
    if (find(key) != nullptr)
        return true;
    complain(
        fmt::format("{} needs \"{}\", {}; for example {} = {}", label_, key, why, key, example));
    return false;
}

std::optional<int64_t> TableReader::whole(std::string_view key, int64_t least, int64_t most) {
    const Node* node = find(key);
    if (node == nullptr)
        return std::nullopt;
    const auto value = node->as_whole();
    if (value && *value >= least && *value <= most)
        return value;
    findings_.add(*node, fmt::format("\"{}\" must be a whole number from {} to {}", key, least,
                                     count_to_text(static_cast<uint64_t>(most))));
    return std::nullopt;
}

std::optional<int32_t> TableReader::ratio_of(const Node& node, std::string_view key) {
    const auto value = node.as_number();
    if (value && std::fabs(*value) < 1e6)
        return static_cast<int32_t>(std::lround(*value * 1000));
    findings_.add(node, fmt::format("\"{}\" must be a plain number without a unit, such as {} = "
                                    "0.7",
                                    key, key));
    return std::nullopt;
}

std::optional<int32_t> TableReader::millionths_of(const Node& node, std::string_view key) {
    const auto value = node.as_number();
    if (value && std::fabs(*value) < 2000)
        return static_cast<int32_t>(std::lround(*value * 1'000'000));
    ratio_of(node, key); // which says what is wrong
    if (value)
        findings_.add(node, fmt::format("\"{}\" must lie below 2,000", key));
    return std::nullopt;
}

std::optional<int32_t> TableReader::ratio(std::string_view key) {
    const Node* node = find(key);
    return node == nullptr ? std::nullopt : ratio_of(*node, key);
}

const Node* TableReader::list(std::string_view key, size_t least, size_t most,
                              std::string_view example) {
    const Node* node = find(key);
    if (node == nullptr)
        return nullptr;
    const auto* array = node->as_list();
    if (array != nullptr && array->size() >= least && array->size() <= most)
        return array;
    findings_.add(*node, fmt::format("\"{}\" must be a list of {}, such as {} = {}", key,
                                     least == most ? fmt::format("{}", least)
                                                   : fmt::format("{} to {}", least, most),
                                     key, example));
    return nullptr;
}

std::vector<int32_t> TableReader::quantities(std::string_view key, Kind kind, size_t least,
                                             size_t most, std::string_view example) {
    std::vector<int32_t> out;
    const auto* array = list(key, least, most, example);
    if (array == nullptr)
        return out;
    for (const Node& node : array->inside()) {
        const auto value = quantity_of(node, key, kind, example_of(kind));
        if (!value)
            return {};
        out.push_back(*value);
    }
    return out;
}

std::optional<size_t> TableReader::source(std::string_view key, const Rig& rig, const Kind* wanted,
                                          std::string_view why) {
    const Node* node = find(key);
    if (node == nullptr) {
        complain(fmt::format("{} needs \"{}\", {}; for example {} = \"{}\"", label_, key, why, key,
                             likely(rig, wanted)));
        return std::nullopt;
    }
    return source_of(*node, key, rig, wanted);
}

std::optional<size_t> unknown_source(const Rig& rig, std::string_view name) {
    const std::string_view whole = name.substr(0, name.find('.'));
    for (size_t i = 0; i < rig.sources.size(); ++i)
        if (!rig.sources[i].kind_known && rig.sources[i].name == whole)
            return i;
    return std::nullopt;
}

std::optional<size_t> TableReader::source_of(const Node& node, std::string_view key, const Rig& rig,
                                             const Kind* wanted) {
    const auto* name = node.as_text();
    if (name == nullptr) {
        findings_.add(node, fmt::format("\"{}\" must be the name of a sensor or a derived "
                                        "quantity, such as \"{}\"",
                                        key, likely(rig, wanted)));
        return std::nullopt;
    }
    Names names;
    for (size_t i = 0; i < rig.sources.size(); ++i) {
        const Source& source = rig.sources[i];
        names.push_back(source.name);
        if (source.name != *name)
            continue;
        if (wanted == nullptr || source.kind == *wanted || !source.kind_known)
            return i;
        findings_.add(node,
                      fmt::format("{} is {}, but here {} is needed{}", source.name,
                                  name_of(source.kind), name_of(*wanted),
                                  has(rig, *wanted) ? fmt::format("; write for example {} = \"{}\"",
                                                                  key, likely(rig, wanted))
                                                    : std::string()));
        return std::nullopt;
    }
    for (const Sense& sense : rig.senses)
        if (sense.name == *name && sense.sources == 2) {
            findings_.add(node, fmt::format("{0} has two quantities; write \"{0}.humidity\" or "
                                            "\"{0}.temperature\"",
                                            sense.name));
            return std::nullopt;
        }
    if (const auto whole = unknown_source(rig, *name))
        return whole;
    const std::string near = suggestion(*name, names);
    findings_.add(node, fmt::format("there is no [sense.{}]{}", *name,
                                    near.empty() ? "; what is named here must stand above it in "
                                                   "the file"
                                                 : near));
    return std::nullopt;
}

bool TableReader::expect(bool fine, std::string_view key, std::string_view must) {
    const Node* node = find(key);
    if (!fine && node != nullptr)
        findings_.add(*node, fmt::format("\"{}\" must lie {}", key, must));
    return fine;
}

void TableReader::finish() {
    if (!ignores_)
        unknown_keys();
    findings_.take_back_general(found_, label_);
}

void TableReader::unknown_keys() {
    std::vector<const Key*> unknown;
    size_t unlike = 0; // any that may be
    for (const Key& key : table_.keys())
        if (std::find(known_.begin(), known_.end(), key.text) == known_.end()) {
            unknown.push_back(&key);
            unlike += nearest(key.text, known_).empty();
        }
    Names lacking;
    for (const std::string& key : known_)
        if (findings_.is_missing(label_, key))
            lacking.push_back(key);
    for (const Key* key : unknown) {
        const std::string& word = key->text;
        const std::string meant = meant_by(word, lacking, unlike == 1);
        if (!meant.empty())
            findings_.take_back_missing(label_, meant);
        const std::string near =
            meant.empty() ? suggestion(word, known_) : fmt::format("; did you mean \"{}\"?", meant);
        findings_.add(*key, fmt::format("unknown key \"{}\" in {}{}", word, label_,
                                        near.empty() ? "; possible are " + listed(known_) : near));
    }
}

/// Which key that is lacking was meant by an unknown word: one that it begins, or that is written
/// alike; or the only one that is lacking.
std::string TableReader::meant_by(const std::string& word, const Names& lacking, bool alone) {
    for (const std::string& key : lacking)
        if (word.size() >= 4 && key.compare(0, word.size(), word) == 0)
            return key;
    const std::string near = nearest(word, lacking);
    return near.empty() && alone && lacking.size() == 1 ? lacking.front() : near;
}

std::string TableReader::listed(const Names& words) {
    std::string out;
    for (size_t i = 0; i < words.size(); ++i)
        out += fmt::format("{}\"{}\"",
                           i == 0                  ? ""
                           : i + 1 == words.size() ? " or "
                                                   : ", ",
                           words[i]);
    return out;
}

bool TableReader::has(const Rig& rig, Kind kind) {
    return std::any_of(rig.sources.begin(), rig.sources.end(),
                       [kind](const Source& source) { return source.kind == kind; });
}

std::string TableReader::likely(const Rig& rig, const Kind* kind) {
    for (const Source& source : rig.sources)
        if (kind == nullptr || source.kind == *kind)
            return source.name;
    return "roost";
}

} // namespace zorilla::rig
