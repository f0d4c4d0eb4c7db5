// SPDX-License-Identifier: MIT
#include "bench/world/place.hpp"

#include "rig/text/files.hpp"

#include <fmt/format.h>

namespace zorilla::bench {

namespace {

void refuse(const std::vector<rig::Mistake>& mistakes) {
    if (!mistakes.empty())
        throw rig::InputError(fmt::format("the world, line {}, column {}: {}",
                                          mistakes.front().line, mistakes.front().column,
                                          mistakes.front().text));
}

} // namespace

WorldPlace::WorldPlace(const rig::Rig& rig, WorldFile file, const AroundPlan& plan)
    : world_(std::move(file.world)) {
    refuse(file.mistakes);
    wiring_ = std::make_unique<WorldWiring>(*world_, rig);
    refuse(wiring_->mistakes());
    around_ = std::make_unique<WorldAround>(*wiring_, plan);
}

} // namespace zorilla::bench
