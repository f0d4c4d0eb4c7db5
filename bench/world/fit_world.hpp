// SPDX-License-Identifier: MIT
/// \file
/// The numbers of a world that nobody can guess, from a recorded run of a device in it.
#pragma once

#include "bench/world/world.hpp"
#include "rig/model/rig.hpp"

#include <string>
#include <vector>

namespace zorilla::bench {

/// A recorded run, pass by pass.
struct WorldRun {
    std::vector<int64_t> milliseconds;       ///< from 0
    std::vector<std::vector<float>> outputs; ///< of each pass, of each output of the rig, 0 to 1
    std::vector<std::vector<double>> read;   ///< of each pass, of each source; NaN: nothing
    uint64_t rows = 0;
};
/// Plays a trace through its rig. What outputs were is what the trace tells, or else what the rig
/// decides. \throws rig::InputError
WorldRun read_world_run(const std::string& trace, const rig::Rig& rig);

/// A number that was found.
struct FoundNumber {
    std::string name; ///< "roost.capacity", "roost.loses.1.heat"
    rig::Kind kind = rig::Kind::temperature;
    double value = 0, error = 0; ///< standard error; in thousandths of the stored unit
    double before = 0;           ///< what the file says
    bool told = true;            ///< whether the run tells it at all
};
struct FittedWorld {
    std::vector<FoundNumber> found;
    struct Left {
        std::string sensor;
        rig::Kind kind = rig::Kind::temperature;
        double rms = 0, rms_before = 0; ///< what is left between both, in the unit
        double together = 0; ///< correlation of neighbours: near 1, the world lacks something
    };
    std::vector<Left> left;
    rig::Node written = rig::Node::table(); ///< the world with what was found
    uint64_t rows = 0;
};
/// The value that a name such as "roost.loses.1.heat" stands for in what a world file says; null if
/// there is none.
rig::Node* number_in_world(rig::Node& written, const std::string& name);
/// \param names  numbers to find; none of them: capacities and losses of all bodies that a sensor
/// looks at \throws rig::InputError
FittedWorld fit_world(const World& world, const std::string& folder, const rig::Rig& rig,
                      const WorldRun& run, const std::vector<std::string>& names);

} // namespace zorilla::bench
