// SPDX-License-Identifier: MIT
/// \file
/// A whole device, checked, as data.
#pragma once

#include "rig/model/chip.hpp"
#include "rig/model/decide.hpp"
#include "rig/model/drive.hpp"
#include "rig/model/machine.hpp"
#include "rig/model/promise.hpp"
#include "rig/model/sense.hpp"

namespace zorilla::rig {

/// How a device shuts down.
struct Shutdown {
    WrittenCondition when;
    std::vector<size_t> order; ///< outputs
    Duration gap{};
    std::vector<size_t> facts; ///< one for each of them
};

/// How a device tries its outputs alone, in their order; without a condition, not at all.
struct SelfTest {
    WrittenCondition when;
    Duration each{};
};

/// A whole device, checked.
struct Rig {
    Node written = Node::table(); ///< what the file says: all else is made from it
    std::string name;
    std::string chip;
    std::string line; ///< of its lines to the outside; empty on a chip that is not known
    uint8_t converter_bits = 0;
    Duration report{}; ///< how often it tells what it does; 0: in each pass
    std::vector<Sense> senses;
    std::vector<Derive> derives;
    std::vector<Source> sources; ///< those of the sensors, then the derived ones
    std::vector<Decide> decides;
    std::vector<RigMachine> machines;
    std::vector<Fact> facts; ///< in the order in which they were first named
    std::vector<Drive> drives;
    Shutdown shutdown; ///< with an empty order: none
    SelfTest self_test;
    std::vector<std::string> show;        ///< units in which values are shown
    std::vector<WrittenCondition> nevers; ///< what must never be, after any pass
    std::vector<Promise> promises;

    /// What is known of its chip; null if it is none of ours.
    const ChipFacts* chip_facts() const { return chip_named(chip); }
    /// The sensor that a source belongs to; `nullptr` for a derived one.
    const Sense* sense_of(size_t source) const;
    /// In how many milliseconds each ranger has pinged once; 0 without one.
    int64_t round_of_pings() const;

    /// Whether both are the same device, wherever it is written down and in whatever units.
    friend bool operator==(const Rig& a, const Rig& b) { return a.written == b.written; }
};

} // namespace zorilla::rig
