// SPDX-License-Identifier: MIT
/// \file
/// Reading the decisions of a rig file. Only for rig/ itself.
#pragma once

#include "rig/table_reader.hpp"

#include <functional>
#include <vector>

namespace zorilla::rig {

/// Reads a condition as a key holds it; not given if the key is missing.
using ReadCondition = std::function<WrittenCondition(TableReader&, std::string_view key)>;

/// Reads `[decide.NAME]`.
class DecideReader {
  public:
    DecideReader(Rig& rig, Findings& findings, ReadCondition condition)
        : rig_(rig), findings_(findings), condition_(std::move(condition)) {}

    /// Adds a decision to the rig, and the fact that it may be.
    void decide(const toml::key& key, TableReader& keys);

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
    void placed_pair(const toml::node& point, const toml::node& release, const Decide& decide,
                     AnyQuantity at, AnyQuantity lets_go);
    bool reachable(const toml::node& node, size_t index, AnyQuantity point);

    Rig& rig_;
    Findings& findings_;
    ReadCondition condition_;
};

} // namespace zorilla::rig
