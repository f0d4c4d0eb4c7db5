// SPDX-License-Identifier: MIT
/// \file
/// Reading the decisions of a rig file. Only for rig/ itself.
#pragma once

#include "rig/read/scope.hpp"

#include <vector>

namespace zorilla::rig {

/// Reads `[decide.NAME]`.
class DecideReader {
  public:
    explicit DecideReader(Scope& scope)
        : scope_(scope), rig_(scope.rig), findings_(scope.findings) {}

    /// Adds a decision to the rig, and the fact that it may be.
    void decide(const Key& key, TableReader& keys);

  private:
    void about_quantity(TableReader& keys, Decide& out);
    void about_truths(TableReader& keys, Decide& out);
    void looks_at_something_new(TableReader& keys, const Decide& decide);
    void find_sources(size_t index, std::vector<bool>& seen) const;
    void find_made_of(size_t source, std::vector<bool>& seen) const;
    void timing(TableReader& keys, Decide& out);
    std::vector<AnyQuantity> points(TableReader& keys, std::string_view key, Kind kind,
                                    size_t least, size_t most);
    void window(TableReader& keys, Kind kind, bool inside, Decide& out);
    void ladder(TableReader& keys, Kind kind, bool rising, Decide& out);
    void curve(TableReader& keys, Kind kind, Decide& out);
    void threshold(TableReader& keys, Kind kind, Decide& out);
    void placed(TableReader& keys, const Decide& decide, Kind kind);
    void placed_pair(const Node& point, const Node& release, const Decide& decide,
                     AnyQuantity at, AnyQuantity lets_go);
    bool reachable(const Node& node, size_t index, AnyQuantity point);

    Scope& scope_;
    Rig& rig_;
    Findings& findings_;
};

} // namespace zorilla::rig
