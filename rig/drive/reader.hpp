// SPDX-License-Identifier: MIT
/// \file
/// What reading an output may ask: its pins, values, times and claims.
#pragma once

#include "rig/drive/part.hpp"
#include "rig/drive/patterns.hpp"

#include <string>

namespace zorilla::rig {

class DriveReader {
  public:
    DriveReader(Scope& within, TableReader& table, Patterns& patterns)
        : scope(within), keys(table), patterns_(patterns) {}
    Scope& scope;
    TableReader& keys;

    /// The one pin that most have.
    void pin(Drive& out) { out.pins = {scope.pin(keys, PinWay::level)}; }
    /// The level that means on. \param needed  complain if it is not there
    void active(Drive& out, bool needed = false);
    /// What it is when a sensor fails, and when no claim holds.
    void values(Drive& out);
    std::optional<AnyValue> value(std::string_view key, const Drive& drive);
    std::optional<Duration> time(std::string_view key, std::string_view example);

    /// A person's hand, if there is one, and the claims.
    void claims(Drive& out);

  private:
    void hand(Drive& out);
    void hand_values(TableReader& table, const Drive& drive, RigClaim& claim);
    RigClaim claim(TableReader& table, const Drive& drive);
    void rest_pattern(Drive& out);
    void then(TableReader& table, const Drive& drive, RigClaim& out);
    bool names_nothing(const Node& node, const std::string& name, const Drive& drive);
    bool follow(const Node& node, const std::string& name, const Drive& drive, RigClaim& out);
    void steps_of(Patterns::Pattern& pattern, const Drive& drive, RigClaim& out);
    std::optional<AnyValue> value_of(const Node& node, std::string_view key, const Drive& drive);

    Patterns& patterns_;
};

/// Reads `[drive.NAME]`, and adds it to the rig.
void read_drive(Scope& scope, const Key& key, TableReader& keys, Patterns& patterns);
/// Reads `[rig.shutdown]` and `[rig.self_test]`.
void read_shutdown(Scope& scope, TableReader& keys);
void read_self_test(Scope& scope, TableReader& keys);
/// Puts the shutdown before all other claims, once all outputs are known.
void finish_shutdown(Rig& rig);

} // namespace zorilla::rig
