// SPDX-License-Identifier: MIT
#include "rig/running_rig.hpp"

namespace zorilla::rig {

namespace {

Reading<Temperature> read(const Sense& sense, Sample sample) {
    const int16_t* table = sense.table.data();
    return read_temperature(
        sense.wire_ends(), sense.plan, [table](uint16_t entry) { return table[entry]; }, sample);
}

} // namespace

RunningRig::RunningRig(const Rig& rig)
    : rig_(rig), readings_(rig.senses.size()), truths_(rig.decides.size(), Truth::unknown),
      switchings_(rig.drives.size()) {
    for (const rig::Sense& sense : rig.senses) {
        std::vector<Reading<Temperature>> table;
        for (uint32_t code = 0; code <= sense.full_scale(); ++code)
            table.push_back(read(sense, Sample(static_cast<uint16_t>(code))));
        tables_.push_back(std::move(table));
        senses_.push_back({tables_.back().data(), read(sense, Sample())});
    }
    for (const rig::Decide& decide : rig.decides)
        decides_.push_back({decide.spec, decide.of, {}});
    for (const rig::Drive& drive : rig.drives)
        drives_.push_back(
            {drive.spec, drive.claims.data(), static_cast<uint8_t>(drive.claims.size()), {}});
}

} // namespace zorilla::rig
