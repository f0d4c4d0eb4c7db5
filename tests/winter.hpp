// SPDX-License-Identifier: MIT
/// \file
/// The demo's hen house, as a trace and as a world.
#pragma once

#include "bench/world/place.hpp"
#include "bench/world/trying.hpp"
#include "rig/rig_file.hpp"

#include <algorithm>
#include <memory>
#include <string>

namespace zorilla::tests {

/// The world that a hen house's rig stands in: that of the demo, or of the one that is watched.
inline std::string winter_file(const rig::Rig& rig) {
    const bool whole = std::any_of(rig.senses.begin(), rig.senses.end(),
                                   [](const rig::Sense& sense) { return sense.name == "barrel"; });
    return std::string(ZORILLA_SOURCE) +
           (whole ? "/examples/hen_house/winter.toml" : "/data/live/winter.toml");
}

inline bench::AroundPlan winter_plan(double hours = 0) {
    bench::AroundPlan plan;
    plan.every = 5000;
    plan.begins = hours * 3600;
    return plan;
}

inline std::unique_ptr<bench::Surroundings> winter(const rig::Rig& rig, double hours) {
    return std::make_unique<bench::WorldPlace>(rig, bench::load_world(winter_file(rig)),
                                               winter_plan(hours));
}

/// Three days of it, as the demo leaves them.
inline std::string winter_trace(const rig::Rig& rig) {
    const bench::WorldPlace house(rig, bench::load_world(winter_file(rig)), winter_plan());
    return bench::trace_of_world(house.wiring(), winter_plan(), 3 * 86'400'000);
}

} // namespace zorilla::tests
