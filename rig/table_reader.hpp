// SPDX-License-Identifier: MIT
/// \file
/// Reading the tables of a rig file, and collecting what is wrong with them. Only for rig/ itself:
/// it brings in the TOML parser.
#pragma once

#include "rig/rig_file.hpp"
#include "rig/text.hpp"

#include <fmt/format.h>

#define TOML_EXCEPTIONS 0
#include <toml++/toml.h>

#include <algorithm>
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

    std::vector<Mistake> sorted() {
        std::sort(mistakes_.begin(), mistakes_.end(), [](const Mistake& a, const Mistake& b) {
            return std::tie(a.line, a.column, a.text) < std::tie(b.line, b.column, b.text);
        });
        return std::move(mistakes_);
    }

    void claim_name(const toml::key& key, const std::string& table) {
        const std::string name(key.str());
        static const Names reserved = {"and", "or",   "not",     "in",  "on",
                                       "off", "lost", "unknown", "time"};
        const bool plain =
            !name.empty() && name[0] >= 'a' && name[0] <= 'z' &&
            name.find_first_not_of("abcdefghijklmnopqrstuvwxyz0123456789_") == std::string::npos;
        if (!plain)
            return add(key, fmt::format("\"{}\" cannot be a name here; use lower-case letters, "
                                        "digits and _, beginning with a letter",
                                        name));
        if (std::find(reserved.begin(), reserved.end(), name) != reserved.end())
            return add(key, fmt::format("\"{}\" is a word with a meaning of its own; choose "
                                        "another name",
                                        name));
        const auto [used, fresh] = names_.emplace(name, table);
        if (!fresh)
            add(key, fmt::format("the name \"{}\" is already used by {}; every part needs a name "
                                 "of its own",
                                 name, used->second));
    }

    void claim_pin(const toml::node& node, const std::string& pin, const std::string& table) {
        const auto line = node.source().begin.line;
        const auto [used, fresh] = pins_.emplace(pin, fmt::format("{} in line {}", table, line));
        if (!fresh)
            add(node, fmt::format("the pin {} is already used by {}; give one of them another pin",
                                  pin, used->second));
    }

  private:
    std::vector<Mistake> mistakes_;
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
        findings_.add(*table_.get(key),
                      fmt::format("\"{}\" is not a possible value of \"{}\"; write {}", *word, key,
                                  listed(choices)));
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

    /// Complains that the value of a key does not lie where it must, unless it does.
    bool expect(bool fine, std::string_view key, std::string_view must) {
        const toml::node* node = find(key);
        if (!fine && node != nullptr)
            findings_.add(*node, fmt::format("\"{}\" must lie {}", key, must));
        return fine;
    }

    Findings& findings() { return findings_; }

    /// Complains about every key that nobody asked for.
    void finish() {
        for (const auto& [key, node] : table_) {
            const std::string word(key.str());
            if (std::find(known_.begin(), known_.end(), word) != known_.end())
                continue;
            const std::string near = suggestion(word, known_);
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
    const toml::table& table_;
    std::string label_;
    Findings& findings_;
    Names known_;
};

/// Reads what kind of sensor a table describes, and all of it but its name and pin; builds the
/// sensor's table. \return  whether the sensor can be used
bool read_sensor(TableReader& keys, uint8_t converter_bits, Sense& out);

} // namespace zorilla::rig
