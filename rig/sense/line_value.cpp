// SPDX-License-Identifier: MIT
// What somebody says over the serial line: a share in percent.
#include "rig/sense/common.hpp"
#include "rig/sense/said.hpp"

#include <algorithm>
#include <cmath>

namespace zorilla::rig {

namespace {

ReadPart read_line_value(PartReader& in, Sense& out) {
    const bool sound = read_longest(in.keys);
    out.largest_raw = said_full;
    out.about = fmt::format("value on the serial line; missing again after {} at most",
                            span_to_text(longest_said(in.keys.table()).thousandths()));
    auto part = std::make_shared<SensePart>(
        starts([](Instant, Raw raw, const AnyReading*, AnyReading* to) {
            *to = any(said_share(raw.sample()));
        }),
        [](const Surroundings& around, Noise&, Fault fault, Raw) {
            const double tenths = std::clamp(around.value * 10, 0.0, double{said_full});
            return fault == Fault::dropped ? Raw() : Raw(static_cast<int64_t>(std::lround(tenths)));
        },
        CodeScale());
    part->typed = [](Raw raw) { return fmt::format("{}.{} %", raw.bits() / 10, raw.bits() % 10); };
    out.part = std::move(part);
    return {sound, {{out.name, Kind::percentage, 0, 100'000}}};
}

} // namespace

SenseKind line_value_room() {
    return {"line_value",
            16,
            false,
            Kind::percentage,
            {},
            {{"longest", "\"1 h\"", ""}},
            read_line_value,
            {{}, "", "", "said_share({in})", "", "Sample"},
            {}};
}

} // namespace zorilla::rig
