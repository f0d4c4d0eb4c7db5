// SPDX-License-Identifier: MIT
/// \file
/// Reading the state machines of a rig file. Only for rig/ itself.
#pragma once

#include "rig/read/scope.hpp"

#include <string>
#include <vector>

namespace zorilla::rig {

/// Reads `[machine.NAME]`.
class MachineReader {
  public:
    explicit MachineReader(Scope& scope)
        : scope_(scope), rig_(scope.rig), findings_(scope.findings) {}

    /// The states of a machine and its moves, without their events.
    void machine(const Key& key, TableReader& keys);
    /// The events of all machines, once every name is known, and what is wrong with their tables.
    void finish();

  private:
    struct Waiting {
        const Node* start;
        size_t machine;
        std::string label;
        std::vector<const Node*> moves;
        std::vector<uint8_t> ends;
    };

    uint8_t state_number(RigMachine& machine, const std::string& name, const Node* node);
    void move(const Node& table, RigMachine& out);
    void look_at(const Waiting& waiting, const RigMachine& machine);

    Scope& scope_;
    Rig& rig_;
    Findings& findings_;
    std::vector<Waiting> waiting_; ///< machines whose events are not yet read
};

} // namespace zorilla::rig
