// SPDX-License-Identifier: MIT
/// \file
/// What is wrong with a rig file, and who uses which name and pin.
#pragma once

#include "rig/model/table.hpp"

#include <map>
#include <string>
#include <string_view>
#include <vector>

namespace zorilla::rig {

using Names = std::vector<std::string>;

/// One mistake in a rig file, where it is, and what to write instead.
struct Mistake {
    uint32_t line = 0;
    uint32_t column = 0;
    std::string text;
    bool is_of_pins = false; ///< another plan of pins would mend it
};

/// Collects mistakes, and knows who uses which name and pin.
class Findings {
  public:
    void add(Place at, std::string text) {
        mistakes_.push_back({at.line, at.column, std::move(text), false});
    }
    void add(const Node& at, std::string text) { add(at.place(), std::move(text)); }
    void add_of_pins(Place at, std::string text) {
        mistakes_.push_back({at.line, at.column, std::move(text), true});
    }
    void add(const Key& at, std::string text) { add(at.place, std::move(text)); }
    /// What may be meant, but seldom is.
    void warn(const Node& at, std::string text) {
        warnings_.push_back({at.place().line, at.place().column, std::move(text), false});
    }

    size_t count() const { return mistakes_.size(); }
    /// Whether it has been said that a table lacks a key.
    bool is_missing(const std::string& table, std::string_view key) const;
    /// Takes back that a table lacks a key, since it has it under a mistyped name.
    void take_back_missing(const std::string& table, std::string_view key);

    /// Takes back what was said of a table as a whole ("[drive.pump]: ...") if something else in it
    /// was found wrong since there were `before` mistakes: it may be no more than what follows.
    void take_back_general(size_t before, const std::string& table);

    /// In the order of their lines. A name that is not there is told once, with all lines that have
    /// it: it is one mistake.
    std::vector<Mistake> sorted() { return told_once(sorted(std::move(mistakes_))); }
    std::vector<Mistake> sorted_warnings() { return sorted(std::move(warnings_)); }

    void claim_name(const Key& key, const std::string& table);
    /// \param written  how the file calls the pin, which may have another name too
    void claim_pin(Place at, const std::string& pin, const std::string& written,
                   const std::string& table);
    void claim_pin(const Node& node, const std::string& pin, const std::string& written,
                   const std::string& table) {
        claim_pin(node.place(), pin, written, table);
    }

  private:
    static std::vector<Mistake> sorted(std::vector<Mistake> all);
    static std::vector<Mistake> told_once(std::vector<Mistake> all);

    std::vector<Mistake> mistakes_;
    std::vector<Mistake> warnings_;
    std::map<std::string, std::string> names_;
    std::map<std::string, std::string> pins_;
};

} // namespace zorilla::rig
