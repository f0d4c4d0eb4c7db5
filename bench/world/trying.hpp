// SPDX-License-Identifier: MIT
/// \file
/// A device tried in a world: the rig decides, its outputs act, and what comes of it is judged.
#pragma once

#include "bench/judge.hpp"
#include "bench/replay.hpp"
#include "bench/world/around.hpp"

namespace zorilla::bench {

struct TryPlan : AroundPlan {
    int64_t length = 86'400'000; ///< ms
    std::string save;            ///< where the trace goes; empty: nowhere
};

/// What happened in the world.
struct WorldSummary {
    struct Value {
        std::string name;
        rig::Kind kind;
        double least = 0, most = 0, sum = 0;
        double changed_by_half_step = 0; ///< the largest difference
    };
    std::vector<Value> values; ///< those that somebody sees or that are outside
    uint64_t passes = 0;
    /// What outputs gave to, or took from, bodies.
    struct Energy {
        std::string output, body;
        bool cools = false;
        double joules = 0;
    };
    std::vector<Energy> energies;
    /// How far the quantity went on after a threshold had turned.
    struct Overshoot {
        std::string decide;
        rig::Kind kind;
        double sum = 0, most = 0;
        uint64_t times = 0;
    };
    std::vector<Overshoot> overshoots;
    int64_t checked = 0; ///< ms over which the step was halved beside it
    double step = 0;     ///< s
};

struct Tried {
    Summary summary;
    WorldSummary world;
    std::vector<Verdict> verdicts;
    std::optional<int64_t> power_back; ///< when the supply last came back: the trace begins there
};

/// \param on_event, on_row  as in `replay`; times count from midnight of the first day
Tried try_in_world(const WorldWiring& wiring, const TryPlan& plan,
                   const std::function<void(const Event&)>& on_event,
                   const std::function<void(int64_t, const rig::RunningRig&)>& on_row);

/// By how much a value may change when the step is halved before it is told.
double step_matters(const WorldSummary::Value& value);

/// The whole trace of some time in a world, as text.
std::string trace_of_world(const WorldWiring& wiring, const AroundPlan& plan, int64_t length);

/// What trying in many variants asks for, without what only a person reads.
struct Lived {
    std::vector<Verdict> verdicts;
    bool kept = true;
    std::vector<uint64_t> times_on; ///< of each output
    double deviation = 0;           ///< mean distance from `wished`, in its unit
    double joules = 0;              ///< of all that outputs gave or took
};
/// What is wished of a reading: that it lies between two values.
struct Wished {
    size_t source = 0;
    double lowest = 0, highest = 0;
    /// How far a value is outside.
    double distance(double value) const {
        return value < lowest ? lowest - value : value > highest ? value - highest : 0;
    }
};
Lived live_in_world(const WorldWiring& wiring, const AroundPlan& plan, int64_t length,
                    const Wished* wished = nullptr);

} // namespace zorilla::bench
