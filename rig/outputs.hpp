// SPDX-License-Identifier: MIT
/// \file
/// Reading the outputs of a rig file: their parts, values, patterns and claims. Only for rig/
/// itself.
#pragma once

#include "rig/table_reader.hpp"

#include <functional>
#include <map>
#include <string>
#include <vector>

namespace zorilla::rig {

/// Reads `[pattern.NAME]` and `[drive.NAME]`.
class OutputReader {
  public:
    /// What it needs of whoever reads the whole file.
    struct Help {
        std::function<WrittenCondition(TableReader&, std::string_view key)> condition;
        std::function<std::string(TableReader&, std::string_view key, std::string_view why)> pin;
        /// The pins of a list, claimed.
        std::function<std::vector<std::string>(TableReader&, std::string_view key)> pins;
        std::function<bool(const std::string& pin)> has_pwm;
        std::function<size_t(Fact)> fact_number;
    };

    OutputReader(Rig& rig, Findings& findings, Help help)
        : rig_(rig), findings_(findings), help_(std::move(help)) {}

    /// Remembers a pattern; its values are read by the output that uses it.
    void pattern(const toml::key& key, TableReader& keys);
    /// All outputs by name, in their order, before any is read.
    void outputs(std::vector<const toml::key*> keys) { keys_ = std::move(keys); }
    void drive(const toml::key& key, TableReader& keys);
    void shutdown(TableReader& keys);
    void self_test(TableReader& keys);
    /// What can be said only when all is read.
    void finish();

    /// The number of an output, which may stand further down in the file.
    std::optional<size_t> number_of(std::string_view name, Names& names) const;

  private:
    struct Pattern {
        const toml::key* key;
        const toml::array* steps;
        bool used = false;
    };

    void part(TableReader& keys, Drive& out);
    void relay(TableReader& keys, Drive& out);
    void motor(TableReader& keys, Drive& out);
    void values(TableReader& keys, Drive& out);
    void active(TableReader& keys, Drive& out, bool needed);
    void interlock(TableReader& keys, Drive& out);
    void dimmed(TableReader& keys, const Drive& drive);
    void hand(TableReader& keys, Drive& out);
    void hand_values(TableReader& keys, const Drive& drive, RigClaim& claim);
    void claims(TableReader& keys, Drive& out);
    RigClaim claim(TableReader& keys, const Drive& drive);
    void then(TableReader& keys, const Drive& drive, RigClaim& out);
    bool names_nothing(const toml::node& node, const std::string& name, const Drive& drive);
    bool follow(const toml::node& node, const std::string& name, const Drive& drive, RigClaim& out);
    void steps_of(Pattern& pattern, const Drive& drive, RigClaim& out);
    std::optional<AnyValue> value(const toml::node& node, std::string_view key, const Drive& drive);
    std::optional<AnyValue> value(TableReader& keys, std::string_view key, const Drive& drive);
    std::optional<Duration> time(TableReader& keys, std::string_view key, std::string_view example);
    std::string example_fact() const;

    Rig& rig_;
    Findings& findings_;
    Help help_;
    std::vector<const toml::key*> keys_;
    std::map<std::string, Pattern> patterns_;
};

} // namespace zorilla::rig
