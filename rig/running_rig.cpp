// SPDX-License-Identifier: MIT
#include "rig/running_rig.hpp"

#include <array>

namespace zorilla::rig {

RunningRig::RunningRig(const Rig& rig)
    : rig_(rig), readings_(rig.sources.size()),
      truths_(rig.switched.size() + rig.decides.size(), Truth::unknown),
      switchings_(rig.drives.size()) {
    for (const rig::Sense& sense : rig.senses) {
        const bool simple = !sense.by_code.empty();
        senses_.push_back({simple ? sense.by_code.data() : nullptr,
                           simple ? nullptr : sense.start(), sense.source, sense.sources});
    }
    for (const Derive& derive : rig.derives)
        derived_.push_back({nullptr, derive.start(), derive.source, 1});
    for (const rig::Decide& decide : rig.decides)
        decides_.push_back({decide.spec, decide.of, {}});
    for (const rig::Drive& drive : rig.drives)
        drives_.push_back(
            {drive.spec, drive.claims.data(), static_cast<uint8_t>(drive.claims.size()), {}});
}

bool RunningRig::run(Sense& sense, Instant now, Raw raw, AnyReading* reading) {
    std::array<Health, 2> before{};
    for (size_t i = 0; i < sense.sources; ++i)
        before[i] = reading[i].health();
    sense.block->pass(now, raw, readings_.data(), reading);
    bool changed = false;
    for (size_t i = 0; i < sense.sources; ++i)
        changed |= reading[i].health() != before[i];
    return changed;
}

} // namespace zorilla::rig
