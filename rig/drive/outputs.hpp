// SPDX-License-Identifier: MIT
/// \file
/// Reading the outputs of a rig file: their parts, values, patterns and claims. Only for rig/
/// itself.
#pragma once

#include "rig/read/scope.hpp"

#include <map>
#include <string>
#include <vector>

namespace zorilla::rig {

/// Reads `[pattern.NAME]` and `[drive.NAME]`.
class OutputReader {
  public:
    explicit OutputReader(Scope& scope)
        : scope_(scope), rig_(scope.rig), findings_(scope.findings) {}

    /// Remembers a pattern; its values are read by the output that uses it.
    void pattern(const Key& key, TableReader& keys);
    void drive(const Key& key, TableReader& keys);
    void shutdown(TableReader& keys);
    void self_test(TableReader& keys);
    /// What can be said only when all is read.
    void finish();

  private:
    struct Pattern {
        const Key* key;
        const Node* steps;
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
    bool names_nothing(const Node& node, const std::string& name, const Drive& drive);
    bool follow(const Node& node, const std::string& name, const Drive& drive, RigClaim& out);
    void steps_of(Pattern& pattern, const Drive& drive, RigClaim& out);
    std::optional<AnyValue> value(const Node& node, std::string_view key, const Drive& drive);
    std::optional<AnyValue> value(TableReader& keys, std::string_view key, const Drive& drive);
    std::optional<Duration> time(TableReader& keys, std::string_view key, std::string_view example);

    Scope& scope_;
    Rig& rig_;
    Findings& findings_;
    std::map<std::string, Pattern> patterns_;
};

} // namespace zorilla::rig
