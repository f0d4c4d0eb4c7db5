// SPDX-License-Identifier: MIT
// One reading less another.
#include "rig/derive/part.hpp"

namespace zorilla::rig {

namespace {

/// What 32 bits can hold, as the core's own arithmetic does.
int32_t saturated(int64_t thousandths) {
    return static_cast<int32_t>(std::clamp<int64_t>(thousandths, INT32_MIN, INT32_MAX));
}

ReadPart read_difference(PartReader& in, Derive& out) {
    Kind kind{};
    out.of = read_of(in, 2, 2, kind);
    if (out.of.empty())
        return {};
    const Source &a = in.rig.sources[out.of[0]], &b = in.rig.sources[out.of[1]];
    out.about = fmt::format("{} less {}", a.name, b.name);
    out.part = derives([a = out.of[0], b = out.of[1]](Instant, const AnyReading* sources) {
        return difference(sources[a], sources[b]);
    });
    return {true,
            {{out.name, difference_of(kind), saturated(int64_t{a.lowest} - b.highest),
              saturated(int64_t{a.highest} - b.lowest)}}};
}

} // namespace

DeriveKind difference_room() {
    return {"difference",         3, {{"of", "[\"roost\", \"yard\"]"}}, read_difference, "", "",
            "difference({of:{}})"};
}

} // namespace zorilla::rig
