// SPDX-License-Identifier: MIT
/// \file
/// Reading the state machines of a rig file. Only for rig/ itself.
#pragma once

#include "rig/decides.hpp"

#include <string>
#include <vector>

namespace zorilla::rig {

/// Reads `[machine.NAME]`.
class MachineReader {
  public:
    MachineReader(Rig& rig, Findings& findings, ReadCondition condition)
        : rig_(rig), findings_(findings), condition_(std::move(condition)) {}

    /// The states of a machine and its moves, without their events.
    void machine(const toml::key& key, TableReader& keys);
    /// The events of all machines, once every name is known, and what is wrong with their tables.
    void finish();

  private:
    struct Waiting {
        const toml::node* start;
        size_t machine;
        std::string label;
        std::vector<const toml::table*> moves;
        std::vector<uint8_t> ends;
    };

    uint8_t state_number(RigMachine& machine, const std::string& name, const toml::node* node);
    void move(const toml::table& table, RigMachine& out);
    void look_at(const Waiting& waiting, const RigMachine& machine);

    Rig& rig_;
    Findings& findings_;
    ReadCondition condition_;
    std::vector<Waiting> waiting_; ///< machines whose events are not yet read
};

} // namespace zorilla::rig
