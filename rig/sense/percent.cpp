// SPDX-License-Identifier: MIT
// Percent between two codes that were measured.
#include "rig/sense/two_codes.hpp"

namespace zorilla::rig {

namespace {

ReadPart read_percent(PartReader& in, Sense& out) {
    TableReader& keys = in.keys;
    AnalogueReader analogue(in, Kind::percentage, out);
    uint16_t codes[2] = {};
    const bool complete =
        read_two_codes(keys, "code_at_0", "code_at_100", "at 0 %", analogue.bits(), codes);
    ShareSpec spec = percent_between(codes[0], codes[1]).bits(analogue.bits());
    read_wire_off(keys, spec);
    const bool common = analogue.read_common(spec, false);
    if (!complete || !common)
        return {};
    keys.expect(spec.points_are_possible(), "code_at_100",
                fmt::format("at least {} codes from \"code_at_0\"", spec.least_codes));
    return analogue.finish(spec, "percent between two codes",
                           percent_forward(codes, analogue.bits(), in.converter_bits),
                           analogue.by_share(spec));
}

} // namespace

SenseKind percent_room() {
    return {"percent",
            4,
            true,
            Kind::percentage,
            {},
            with_analogue_keys({
                {"code_at_0", "620", ""},
                {"code_at_100", "210", ""},
                {"wire_off_reads", "\"high\"", ".wire_off_reads(Level::{})"},
            }),
            read_percent,
            {{{"", "percent_between({code_at_0}, {code_at_100})"}},
             "Share",
             "",
             "read({in})",
             "Analogue<{pin}>",
             "Sample"},
            {{"pin", "", "its output; its other wires to {board} and ground"}}};
}

} // namespace zorilla::rig
