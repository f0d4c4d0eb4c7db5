// SPDX-License-Identifier: MIT
/// \file
/// Reading the tables of a rig file, and collecting what is wrong with them. Only for rig/ itself:
/// it brings in the TOML parser.
#pragma once

#include "rig/names.hpp"
#include "rig/rig_file.hpp"
#include "rig/text.hpp"

#include <fmt/format.h>

#define TOML_EXCEPTIONS 0
#include <toml++/toml.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <optional>
#include <tuple>

namespace zorilla::rig {

using Names = std::vector<std::string>;

/// Collects mistakes, and knows who uses which name and pin.
class Findings {
  public:
    void add(toml::source_position at, std::string text) {
        mistakes_.push_back({at.line, at.column, std::move(text)});
    }
    void add(const toml::node& at, std::string text) { add(at.source().begin, std::move(text)); }
    void add(const toml::key& at, std::string text) { add(at.source().begin, std::move(text)); }

    size_t count() const { return mistakes_.size(); }
    /// Takes back that a table lacks a key, since it has it under a mistyped name.
    void take_back_missing(const std::string& table, std::string_view key) {
        const std::string begin = table + " needs ";
        const std::string named = fmt::format("\"{}\"", key);
        mistakes_.erase(std::remove_if(mistakes_.begin(), mistakes_.end(),
                                       [&](const Mistake& one) {
                                           return one.text.compare(0, begin.size(), begin) == 0 &&
                                                  one.text.find(named) != std::string::npos;
                                       }),
                        mistakes_.end());
    }

    /// What may be meant, but seldom is.
    void warn(const toml::node& at, std::string text) {
        const auto place = at.source().begin;
        warnings_.push_back({place.line, place.column, std::move(text)});
    }

    std::vector<Mistake> sorted() { return sorted(std::move(mistakes_)); }
    std::vector<Mistake> sorted_warnings() { return sorted(std::move(warnings_)); }

    void claim_name(const toml::key& key, const std::string& table) {
        const std::string name(key.str());
        if (!is_plain_name(name))
            return add(key, fmt::format("\"{}\" cannot be a name here; use lower-case letters, "
                                        "digits and _, beginning with a letter",
                                        name));
        if (is_taken_word(name))
            return add(key, fmt::format("\"{}\" is a word with a meaning of its own; choose "
                                        "another name",
                                        name));
        const auto [used, fresh] = names_.emplace(name, table);
        if (!fresh)
            add(key, fmt::format("the name \"{}\" is already used by {}; every part needs a name "
                                 "of its own",
                                 name, used->second));
    }

    /// \param written  how the file calls the pin, which may have another name too
    void claim_pin(const toml::node& node, const std::string& pin, const std::string& written,
                   const std::string& table) {
        const auto line = node.source().begin.line;
        const auto [used, fresh] = pins_.emplace(pin, fmt::format("{} in line {}", table, line));
        if (!fresh)
            add(node, fmt::format("the pin {} is already used by {}; give one of them another pin",
                                  pin == written ? pin : fmt::format("{} ({})", written, pin),
                                  used->second));
    }

  private:
    static std::vector<Mistake> sorted(std::vector<Mistake> all) {
        std::sort(all.begin(), all.end(), [](const Mistake& a, const Mistake& b) {
            return std::tie(a.line, a.column, a.text) < std::tie(b.line, b.column, b.text);
        });
        return all;
    }

    std::vector<Mistake> mistakes_;
    std::vector<Mistake> warnings_;
    std::map<std::string, std::string> names_;
    std::map<std::string, std::string> pins_;
};

/// Reads the keys of one table and complains about what is missing, wrong or unknown.
class TableReader {
  public:
    TableReader(const toml::table& table, std::string label, Findings& findings)
        : table_(table), label_(std::move(label)), findings_(findings) {}

    const std::string& label() const { return label_; }
    const toml::node* find(std::string_view key) {
        if (std::find(known_.begin(), known_.end(), key) == known_.end())
            known_.emplace_back(key);
        return table_.get(key);
    }
    void complain(std::string text) { findings_.add(table_, std::move(text)); }

    /// A text, if the key is there.
    std::optional<std::string> text(std::string_view key, std::string_view example) {
        const toml::node* node = find(key);
        if (node == nullptr)
            return std::nullopt;
        if (const auto* string = node->as_string())
            return string->get();
        findings_.add(*node,
                      fmt::format("\"{}\" must be a text, such as {} = \"{}\"", key, key, example));
        return std::nullopt;
    }

    std::optional<std::string> required_text(std::string_view key, std::string_view example,
                                             std::string_view why) {
        auto out = text(key, example);
        if (!out && table_.get(key) == nullptr)
            complain(fmt::format("{} needs \"{}\", {}; for example {} = \"{}\"", label_, key, why,
                                 key, example));
        return out;
    }

    /// One word out of a few.
    std::optional<std::string> choice(std::string_view key, const Names& choices) {
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

    std::optional<OnOff> on_off(std::string_view key) {
        const auto word = choice(key, {"off", "on"});
        return word ? std::optional(*word == "on" ? on : off) : std::nullopt;
    }

    std::optional<int32_t> quantity(std::string_view key, Kind kind, std::string_view example) {
        const toml::node* node = find(key);
        return node == nullptr ? std::nullopt : quantity_of(*node, key, kind, example);
    }

    std::optional<int32_t> quantity_of(const toml::node& node, std::string_view key, Kind kind,
                                       std::string_view example) {
        if (node.is_number()) {
            std::string number = node.is_integer()
                                     ? fmt::format("{}", node.as_integer()->get())
                                     : fmt::format("{}", node.as_floating_point()->get());
            const std::string unit(example.substr(example.find(' ') + 1));
            findings_.add(node, fmt::format("\"{}\" is the bare number {}, without a unit; write "
                                            "for example {} = \"{} {}\"",
                                            key, number, key, number, unit));
            return std::nullopt;
        }
        const auto* string = node.as_string();
        if (string == nullptr) {
            findings_.add(node, fmt::format("\"{}\" must be a text with a unit, such as {} = "
                                            "\"{}\"",
                                            key, key, example));
            return std::nullopt;
        }
        QuantityText read = parse_quantity(string->get(), kind, example);
        if (read.problem.empty())
            return read.thousandths;
        findings_.add(node, std::move(read.problem));
        return std::nullopt;
    }

    /// A quantity that must be there.
    std::optional<int32_t> required_quantity(std::string_view key, Kind kind,
                                             std::string_view example, std::string_view why) {
        const auto value = quantity(key, kind, example);
        if (!value && table_.get(key) == nullptr)
            complain(fmt::format("{} needs \"{}\", {}; for example {} = \"{}\"", label_, key, why,
                                 key, example));
        return value;
    }

    /// Complains if a key is not there. \param example  a value as it is written in TOML
    bool require(std::string_view key, std::string_view why, std::string_view example) {
        if (find(key) != nullptr)
            return true;
        complain(fmt::format("{} needs \"{}\", {}; for example {} = {}", label_, key, why, key,
                             example));
        return false;
    }

    /// A whole number within bounds.
    std::optional<int64_t> whole(std::string_view key, int64_t least, int64_t most) {
        const toml::node* node = find(key);
        if (node == nullptr)
            return std::nullopt;
        const auto value = node->is_integer() ? node->value<int64_t>() : std::nullopt;
        if (value && *value >= least && *value <= most)
            return value;
        findings_.add(*node, fmt::format("\"{}\" must be a whole number from {} to {}", key, least,
                                         count_to_text(static_cast<uint64_t>(most))));
        return std::nullopt;
    }

    /// A plain number without a unit, in thousandths.
    std::optional<int32_t> ratio_of(const toml::node& node, std::string_view key) {
        const auto value = node.is_number() ? node.value<double>() : std::nullopt;
        if (value && std::fabs(*value) < 1e6)
            return static_cast<int32_t>(std::lround(*value * 1000));
        findings_.add(node,
                      fmt::format("\"{}\" must be a plain number without a unit, such as {} = "
                                  "0.7",
                                  key, key));
        return std::nullopt;
    }
    /// The same in millionths, up to 2,000.
    std::optional<int32_t> millionths_of(const toml::node& node, std::string_view key) {
        const auto value = node.is_number() ? node.value<double>() : std::nullopt;
        if (value && std::fabs(*value) < 2000)
            return static_cast<int32_t>(std::lround(*value * 1'000'000));
        ratio_of(node, key); // which says what is wrong
        if (value)
            findings_.add(node, fmt::format("\"{}\" must lie below 2,000", key));
        return std::nullopt;
    }
    std::optional<int32_t> ratio(std::string_view key) {
        const toml::node* node = find(key);
        return node == nullptr ? std::nullopt : ratio_of(*node, key);
    }

    /// A list of at least `least` and at most `most` entries; complains, with an example, if not.
    const toml::array* list(std::string_view key, size_t least, size_t most,
                            std::string_view example) {
        const toml::node* node = find(key);
        if (node == nullptr)
            return nullptr;
        const auto* array = node->as_array();
        if (array != nullptr && array->size() >= least && array->size() <= most)
            return array;
        findings_.add(*node, fmt::format("\"{}\" must be a list of {}, such as {} = {}", key,
                                         least == most ? fmt::format("{}", least)
                                                       : fmt::format("{} to {}", least, most),
                                         key, example));
        return nullptr;
    }

    /// A list of one quantity each. Empty if one of them is wrong, or the key is not there.
    std::vector<int32_t> quantities(std::string_view key, Kind kind, size_t least, size_t most,
                                    std::string_view example) {
        std::vector<int32_t> out;
        const auto* array = list(key, least, most, example);
        if (array == nullptr)
            return out;
        for (const toml::node& node : *array) {
            const auto value = quantity_of(node, key, kind, example_of(kind));
            if (!value)
                return {};
            out.push_back(*value);
        }
        return out;
    }

    /// The source of a name that a key holds, if it is of the right kind. \param wanted  may be
    /// null
    std::optional<size_t> source(std::string_view key, const Rig& rig, const Kind* wanted,
                                 std::string_view why) {
        const toml::node* node = find(key);
        if (node == nullptr) {
            complain(fmt::format("{} needs \"{}\", {}; for example {} = \"{}\"", label_, key, why,
                                 key, likely(rig, wanted)));
            return std::nullopt;
        }
        return source_of(*node, key, rig, wanted);
    }
    std::optional<size_t> source_of(const toml::node& node, std::string_view key, const Rig& rig,
                                    const Kind* wanted) {
        const auto* name = node.as_string();
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
            if (source.name != name->get())
                continue;
            if (wanted == nullptr || source.kind == *wanted || !source.kind_known)
                return i;
            findings_.add(node, fmt::format("{} is {}, but here {} is needed{}", source.name,
                                            name_of(source.kind), name_of(*wanted),
                                            has(rig, *wanted)
                                                ? fmt::format("; write for example {} = \"{}\"",
                                                              key, likely(rig, wanted))
                                                : std::string()));
            return std::nullopt;
        }
        for (const Sense& sense : rig.senses)
            if (sense.name == name->get() && sense.sources == 2) {
                findings_.add(node, fmt::format("{0} has two quantities; write \"{0}.humidity\" or "
                                                "\"{0}.temperature\"",
                                                sense.name));
                return std::nullopt;
            }
        const std::string near = suggestion(name->get(), names);
        findings_.add(node,
                      fmt::format("there is no [sense.{}]{}", name->get(),
                                  near.empty() ? "; what is named here must stand above it in "
                                                 "the file"
                                               : near));
        return std::nullopt;
    }

    /// Complains that the value of a key does not lie where it must, unless it does.
    bool expect(bool fine, std::string_view key, std::string_view must) {
        const toml::node* node = find(key);
        if (!fine && node != nullptr)
            findings_.add(*node, fmt::format("\"{}\" must lie {}", key, must));
        return fine;
    }

    Findings& findings() { return findings_; }

    /// Says that it is not known which keys there may be.
    void ignore_the_rest() { ignores_ = true; }

    /// Complains about every key that nobody asked for.
    void finish() {
        if (ignores_)
            return;
        for (const auto& [key, node] : table_) {
            const std::string word(key.str());
            if (std::find(known_.begin(), known_.end(), word) != known_.end())
                continue;
            const std::string near = suggestion(word, known_);
            findings_.take_back_missing(label_, nearest(word, known_));
            findings_.add(key,
                          fmt::format("unknown key \"{}\" in {}{}", word, label_,
                                      near.empty() ? "; possible are " + listed(known_) : near));
        }
    }

    static std::string listed(const Names& words) {
        std::string out;
        for (size_t i = 0; i < words.size(); ++i)
            out += fmt::format("{}\"{}\"",
                               i == 0                  ? ""
                               : i + 1 == words.size() ? " or "
                                                       : ", ",
                               words[i]);
        return out;
    }

  private:
    static bool has(const Rig& rig, Kind kind) {
        return std::any_of(rig.sources.begin(), rig.sources.end(),
                           [kind](const Source& source) { return source.kind == kind; });
    }
    /// A name for an example: that of a source of the kind, if there is one.
    static std::string likely(const Rig& rig, const Kind* kind) {
        for (const Source& source : rig.sources)
            if (kind == nullptr || source.kind == *kind)
                return source.name;
        return "roost";
    }

    const toml::table& table_;
    std::string label_;
    Findings& findings_;
    Names known_;
    bool ignores_ = false;
};

/// What reading a sensor or a derived quantity may look at.
struct PartReader {
    TableReader& keys;
    const Rig& rig; ///< as far as it has been read
    uint8_t converter_bits;
};

/// Whether a part that was read can be used, and the sources that it makes.
struct ReadPart {
    bool sound = false;
    std::vector<Source> sources;
};

/// Whether there is such a kind of sensor.
bool is_known_part(std::string_view part);
/// Whether a kind of sensor hangs on a pin of the converter; true for one that is not known.
bool is_analogue_part(std::string_view part);
/// Reads what kind of sensor a table describes, and all of it but its name and pin.
ReadPart read_sensor(PartReader& in, Sense& out);
/// Reads what a derived quantity is made of.
ReadPart read_derive(PartReader& in, Derive& out);

} // namespace zorilla::rig
