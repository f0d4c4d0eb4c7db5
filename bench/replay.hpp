// SPDX-License-Identifier: MIT
/// \file
/// Runs a rig over a trace and tells what changed, why, and how it went in all.
#pragma once

#include "bench/judge.hpp"
#include "bench/trace/trace.hpp"
#include "rig/run/running_rig.hpp"

#include <array>
#include <cstdint>
#include <functional>
#include <string>
#include <vector>

namespace zorilla::bench {

/// A change of a sensor's health, of a machine's state, or of an output.
struct Event {
    int64_t milliseconds = 0;
    std::string who;
    std::string what; ///< the new health, state or value
    std::string reason;
    bool is_output = false;
    bool is_good = true; ///< a healthy reading; an output that a claim or its rest value decides
};

/// How a source did over a trace.
struct SourceSummary {
    int64_t unhealthy = 0; ///< milliseconds
    int64_t yes = 0;       ///< milliseconds; of one that is yes or no
    int64_t held = 0;      ///< milliseconds; a good value stood in for what was missed
    bool any = false;      ///< whether it was ever healthy
    int32_t lowest = 0;    ///< thousandths
    int32_t highest = 0;
    int64_t highest_code = -1; ///< of a sensor whose converter adds codes up
};

/// How an output did over a trace. Times in milliseconds.
struct DriveSummary {
    std::vector<int64_t> by_claim; ///< how long each claim had it; then its rest, its safe value,
                                   ///< and guards and self-tests; of one that is not a relay
    uint64_t times_on = 0;         ///< how often it was switched on
    uint64_t held_back = 0;        ///< how often a guard made it wait
    int64_t on_time = 0;
    int64_t longest_on = 0;
    int64_t shortest_on = 0; ///< of those that ended within the trace; 0 if none did
    bool on_at_end = false;
};

/// How a ladder did over a trace.
struct LadderSummary {
    uint64_t moves = 0;
    std::vector<int64_t> time_at; ///< milliseconds at each stage, from 0
};

/// How a machine did over a trace.
struct MachineSummary {
    uint64_t moves = 0;
    std::vector<int64_t> time_in; ///< milliseconds in each state
};

/// What a device has said that its outputs were, beside what the rig makes of the same inputs.
struct Beside {
    uint64_t passes = 0;    ///< of which the device has told its outputs
    uint64_t different = 0; ///< and in which one was another
    int64_t since = 0;      ///< the first of those
    size_t drive = 0;       ///< and the first output that was
    rig::AnyValue was, says;
};

struct Summary {
    uint64_t rows = 0;
    int64_t begin = 0;
    int64_t end = 0;
    int64_t shortest_step = 0;
    int64_t longest_step = 0;
    uint64_t begun_anew = 0; ///< how often the device was off in between
    std::vector<SourceSummary> sources;
    std::vector<LadderSummary> ladders; ///< for each decision; empty of one that is no ladder
    std::vector<MachineSummary> machines;
    std::vector<DriveSummary> drives;
    Beside device;
};

/// Columns of a trace for a rig: its sensors, and what a device's outputs were, if it tells that.
std::vector<WantedColumn> columns_of(const rig::Rig& rig);

/// Plays the whole trace. Each row is one pass; between rows nothing changes. A pass sees the time
/// as a device does: a 32-bit counter of milliseconds that starts with the trace and wraps.
/// \param on_event  called for every change of health or output
/// \param on_row    called after every pass; may be empty
/// \param judge    sees every pass; may be null
Summary replay(const rig::Rig& rig, TraceReader& trace,
               const std::function<void(const Event&)>& on_event,
               const std::function<void(int64_t, const rig::RunningRig&)>& on_row,
               Judge* judge = nullptr);

} // namespace zorilla::bench
