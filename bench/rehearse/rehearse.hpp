// SPDX-License-Identifier: MIT
/// \file
/// A firmware's rehearsal: the real program on an emulated chip, a trace on its pins, and what its
/// pins do beside what the rig does with the inputs that the chip has read.
#pragma once

#include "rig/model/rig.hpp"

#include <cstdint>
#include <map>
#include <string>
#include <utility>
#include <vector>

namespace zorilla::bench {

/// One row of what is put on the pins.
struct RehearsedRow {
    int64_t ms = 0;
    std::vector<rig::Raw> raws; ///< one for each sensor
};

struct Rehearsal {
    uint64_t passes = 0;
    uint64_t missed = 0; ///< passes that came more than 5 ms late
    double code_off = 0; ///< the furthest that a code was from what was put on its pin
    double echo_off = 0; ///< the same of an echo, in microseconds
    uint64_t frames = 0, echoes = 0;
    bool wrapped = false;          ///< the clock began anew
    std::vector<uint64_t> changes; ///< of each output
    std::vector<bool> was_on;      ///< of each output: whether it was ever anything but off
    std::vector<bool> moved;       ///< of each sensor: whether what lay on its pin has changed
    /// In how many passes a sensor had which health, where that was not ok.
    std::map<std::pair<size_t, Health>, uint64_t> unhealthy;
    uint64_t worst_cycles = 0;
    double mean_cycles = 0;
    double idle_share = 0;
    uint32_t stack = 0; ///< the most that it has taken
    /// The first difference, a line each: where; then what the rig file says, what the pins do and
    /// what the chip had read, or what lay on an input and what the program has read. Empty: none.
    std::vector<std::string> difference;
};

/// What is wrong with a sensor, or its wires, all the while.
struct PinFault {
    enum class Kind : uint8_t {
        open,     ///< of the converter: its wire is off
        shorted,  ///< the same: its wires touch
        stuck,    ///< an echo that never ends; a frame's line that stays low
        silent,   ///< no echo comes, or no frame
        flipped,  ///< a hundredth of a frame's bits are turned over on the way
        bouncing, ///< a contact goes to and fro for 5 ms
        spiky,    ///< between pulses there are some of 20 us
    };
    size_t sense = 0;
    Kind kind = Kind::open;
};
/// The words of these, in their order, and whether a sensor can have one.
inline constexpr const char* pin_fault_words[] = {"open",    "shorted",  "stuck", "silent",
                                                  "flipped", "bouncing", "spiky"};
bool can_have(const rig::Sense& sense, PinFault::Kind kind);

struct RehearsalPlan {
    bool compares =
        true; ///< ends at the first difference; otherwise only looks at what passes cost
    std::vector<PinFault> faults;
    bool wraps = false; ///< begins within 66 s before the chip's clock of 49.7 days begins anew
};

/// \param folder  of a firmware that was built  \param rows  in order of time, from 0 on
Rehearsal rehearse(const rig::Rig& rig, const std::string& folder,
                   const std::vector<RehearsedRow>& rows, int64_t milliseconds,
                   const RehearsalPlan& plan = {});

/// Inputs of every kind, faults too, that change ten times a second: to see what passes cost.
std::vector<RehearsedRow> random_rows(const rig::Rig& rig, int64_t milliseconds);

} // namespace zorilla::bench
