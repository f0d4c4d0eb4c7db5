// SPDX-License-Identifier: MIT
// Moisture probes, which are powered only while they are read.
#include "rig/sense/two_codes.hpp"

namespace zorilla::rig {

namespace {

ReadPart read_moisture_probe(PartReader& in, Sense& out) {
    TableReader& keys = in.keys;
    AnalogueReader analogue(in, Kind::percentage, out);
    uint16_t codes[2] = {};
    const bool complete =
        read_two_codes(keys, "dry", "wet", "in dry material", analogue.bits(), codes);
    MoistureSpec spec = moisture_probe(codes[0], codes[1]).bits(analogue.bits());
    if (const auto every = keys.quantity("every", Kind::duration, "10 min"))
        spec = spec.every(of<Duration>(every));
    if (const auto settle = keys.quantity("settle", Kind::duration, "100 ms"))
        spec = spec.settle(of<Duration>(settle));
    read_wire_off(keys, spec);
    const bool common = analogue.read_common(spec, false);
    if (!complete || !common)
        return {};
    keys.expect(spec.points_are_possible(), "wet",
                fmt::format("at least {} codes from \"dry\"", spec.least_codes));
    keys.expect(spec.every() >= 1_s && spec.every() <= 24_h * 24, "every", "between 1 s and 24 d");
    keys.expect(spec.settle() <= 1_min && spec.settle() < spec.every(), "settle",
                "between 0 and 1 min, and below \"every\"");
    out.every = spec.every();
    return analogue.finish_with(
        spec,
        fmt::format("moisture probe; powered for {} every {}",
                    span_to_text(spec.settle().thousandths()),
                    span_to_text(spec.every().thousandths())),
        percent_forward(codes, analogue.bits(), in.converter_bits), analogue.by_share(spec),
        [spec](auto converter) {
            return starts([spec, converter, state = MoistureState()](
                              Instant now, Raw raw, const AnyReading*, AnyReading* to) mutable {
                *to = any(state.read(spec, now, raw.sample(), converter));
            });
        });
}

} // namespace

SenseKind moisture_probe_room() {
    return {"moisture_probe",
            9,
            true,
            Kind::percentage,
            {{"power_pin", "the output that powers it while it is read"}},
            with_analogue_keys({
                {"dry", "620", ""},
                {"wet", "210", ""},
                {"every", "\"10 min\"", ".every({})"},
                {"settle", "\"100 ms\"", ".settle({})"},
                {"wire_off_reads", "\"high\"", ".wire_off_reads(Level::{})"},
            }),
            read_moisture_probe,
            {{{"", "moisture_probe({dry}, {wet})"}},
             "MoistureProbe",
             "",
             "read(now, {in})",
             "Analogue<{pin}>",
             "Sample"},
            {{"pin", "", "its output"},
             {"power_pin", "",
              "its supply, so that it is powered only while it is read; the pin bears 20 mA"}}};
}

} // namespace zorilla::rig
