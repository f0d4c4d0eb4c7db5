// SPDX-License-Identifier: MIT
#include "bench/replay.hpp"

#include "bench/ahead.hpp"
#include "bench/replaying.hpp"

namespace zorilla::bench {

/// The most that a device may say of an output.
static double largest_of(const rig::Drive& drive) {
    switch (drive.kind()) {
    case rig::ValueKind::on_off: return 1;
    case rig::ValueKind::duty: return 255;
    case rig::ValueKind::stage: return static_cast<double>(drive.pins.size());
    case rig::ValueKind::tone: return 0xffff;
    case rig::ValueKind::colour: break;
    }
    return 0xff'ffff;
}

std::vector<WantedColumn> columns_of(const rig::Rig& rig) {
    std::vector<WantedColumn> out;
    for (const rig::Sense& sense : rig.senses)
        out.push_back({sense.name, {sense.raw, static_cast<double>(sense.largest_raw)}});
    for (const rig::Drive& drive : rig.drives)
        out.push_back({drive.name, {rig::RawKind::code, largest_of(drive), true}});
    return out;
}

Summary replay(const rig::Rig& rig, TraceReader& trace,
               const std::function<void(const Event&)>& on_event,
               const std::function<void(int64_t, const rig::RunningRig&)>& on_row, Judge* judge) {
    Replaying state(rig, on_event);
    const bool compares = trace.has_outputs() && rig.report == Duration{};
    for (RowsAhead rows(trace); rows.next();) {
        const int64_t now = rows.row().milliseconds;
        const rig::Raw* const raws = rows.row().values;
        if (rows.row().begins_anew)
            state.begin_anew(now);
        state.pass(now, raws);
        if (compares)
            state.compare(raws + rig.senses.size());
        if (judge != nullptr)
            judge->pass(now, state.running());
        if (on_row)
            on_row(now, state.running());
    }
    return state.finish();
}

} // namespace zorilla::bench
