// SPDX-License-Identifier: MIT
// What somebody says over the serial line: on or off.
#include "rig/sense/said.hpp"
#include "rig/sense/truths.hpp"

namespace zorilla::rig {

namespace {

ReadPart read_line_switch(PartReader& in, Sense& out) {
    const bool sound = read_longest(in.keys);
    out.raw = RawKind::level;
    out.largest_raw = 1;
    out.about = fmt::format("switch on the serial line; off again after {} at most",
                            span_to_text(longest_said(in.keys.table()).thousandths()));
    auto part = std::make_shared<SensePart>(
        starts([](Instant, Raw raw, const AnyReading*, AnyReading* to) {
            *to = reading_of(said_truth(raw.level()));
        }),
        // No wire can break: what is not said is off.
        [](const Surroundings& around, Noise&, Fault fault, Raw) {
            return fault == Fault::dropped ? Raw() : Raw(int64_t{around.value != 0 ? 1 : 0});
        },
        CodeScale());
    part->typed = [](Raw raw) { return std::string(raw.bits() != 0 ? "on" : "off"); };
    out.part = std::move(part);
    return truth_part(out, sound);
}

} // namespace

SenseKind line_switch_room() {
    return {"line_switch",
            15,
            false,
            Kind::truth,
            {},
            {{"longest", "\"1 h\"", ""}},
            read_line_switch,
            {{}, "", "", "said_truth({in})", "", "LevelSample"},
            {}};
}

} // namespace zorilla::rig
