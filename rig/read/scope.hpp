// SPDX-License-Identifier: MIT
/// \file
/// What whoever reads a part of a rig may ask of the rest of it: conditions, facts, pins, outputs.
#pragma once

#include "rig/read/conditions.hpp"
#include "rig/read/pins.hpp"
#include "rig/read/table_reader.hpp"

#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace zorilla::rig {

class Scope {
  public:
    Scope(Rig& of, Findings& into) : rig(of), findings(into) {}
    Scope(const Scope&) = delete;
    Scope& operator=(const Scope&) = delete;

    Rig& rig; ///< as far as it has been read
    Findings& findings;

    /// A condition as a key holds it; not given if the key is missing.
    WrittenCondition condition(TableReader& keys, std::string_view key);
    WrittenCondition condition_of(const Node& node, const std::string& text);
    /// The number of a fact that may be there already.
    size_t fact_number(Fact fact);
    size_t add_fact(Fact fact);
    /// A name for an example in a condition.
    std::string example_fact() const;

    /// The pin under a key, claimed.
    std::string pin(TableReader& keys, PinWay way, std::string_view key = "pin",
                    std::string_view why = "where it is connected");
    /// The pins of a list of outputs, claimed.
    std::vector<std::string> pins(TableReader& keys, std::string_view key);
    PinPlan plan;

    /// Learns the names of all outputs, since whatever is read before them may name them.
    void name_outputs(const Node& top);
    /// The number of an output, which may stand further down in the file.
    std::optional<size_t> output_number(std::string_view name, Names& names) const;
    /// Whether conditions may name outputs; only what must never be may.
    bool outputs_may_be_named = false;

  private:
    std::optional<size_t> find_fact(const FactText& text, std::string& problem);
    std::optional<size_t> find_plain(const FactText& text, std::string& problem);
    std::optional<size_t> find_lost(const FactText& text, std::string& problem);
    /// What an output tells of itself, after the pass before if it stands further down.
    std::optional<size_t> find_of_drive(const FactText& text, std::string& problem);
    std::optional<size_t> find_full(const FactText& text, std::string& problem);
    std::optional<size_t> find_of_decide(const FactText& text, std::string& problem);
    std::optional<size_t> find_of_machine(const FactText& text, std::string& problem);

    struct Output {
        const std::string* name;
        const Node* table; ///< null where it is none
    };
    std::vector<Output> outputs_; ///< in their order
};

} // namespace zorilla::rig
