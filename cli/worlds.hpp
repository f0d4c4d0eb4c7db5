// SPDX-License-Identifier: MIT
/// \file
/// What the commands that try a rig in a world share.
#pragma once

#include "bench/world/trying.hpp"
#include "cli/command.hpp"
#include "cli/verdicts.hpp"

#include <memory>

namespace zorilla::cli {

/// A rig in a world, as files have them.
struct Meeting {
    std::unique_ptr<const rig::Rig> device; ///< where others may refer to it
    std::shared_ptr<const bench::World> world;
    std::unique_ptr<bench::WorldWiring> wiring;
};
/// What all of them may be asked for.
struct WorldOptions {
    std::string rig, world;
    std::string length = "3 d";
    std::string every = "1 s";
    uint64_t seed = 1;
    std::vector<std::string> faults;
};
void add_world_options(Command& command, const std::shared_ptr<WorldOptions>& options);

/// On how many cores many lives are lived.
void add_threads(Command& command, uint64_t& threads);

/// Tells what is wrong with either, or does not fit. \throws rig::InputError
Meeting meet(const WorldOptions& options);
bench::AroundPlan around_plan(const WorldOptions& options, const Meeting& meeting);
int64_t length_of(const WorldOptions& options);

} // namespace zorilla::cli
