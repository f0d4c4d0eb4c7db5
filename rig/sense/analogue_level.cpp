// SPDX-License-Identifier: MIT
// Levels of an analogue pin, high or low by its voltage.
#include "rig/sense/truths.hpp"

namespace zorilla::rig {

namespace {

ReadPart read_analogue_level(PartReader& in, Sense& out) {
    TableReader& keys = in.keys;
    const auto low =
        keys.required_quantity("low", Kind::voltage, "1.2 V", "low up to this voltage");
    const auto high =
        keys.required_quantity("high", Kind::voltage, "2.8 V", "high from this voltage on");
    const auto reference = keys.required_quantity("reference", Kind::voltage, "5 V",
                                                  "the voltage that full scale stands for");
    const auto active = keys.choice("active", {"high", "low"});
    const AnalogueLevelSpec spec = analogue_level(of<Voltage>(low), of<Voltage>(high))
                                       .reference(of<Voltage>(reference))
                                       .bits(in.converter_bits)
                                       .active(active == "low" ? active_low : active_high);
    out.largest_raw = spec.full_scale();
    if (!low || !high || !reference)
        return {};
    keys.expect(spec.reference_is_possible(), "reference", "between 0.5 and 10 V");
    keys.expect(
        !spec.reference_is_possible() || spec.zone_is_possible(), "high",
        "above \"low\", at least four codes of the converter from it, and below \"reference\"; "
        "\"low\" above 0");
    if (!spec.is_possible())
        return {};
    out.about = fmt::format("level of an analogue pin; yes {} code {}, no {} code {}",
                            spec.active() == active_high ? "from" : "up to",
                            spec.active() == active_high ? spec.high_code() : spec.low_code(),
                            spec.active() == active_high ? "up to" : "from",
                            spec.active() == active_high ? spec.low_code() : spec.high_code());
    AnalogueModel model;
    model.share = [low = volts(low), high = volts(high), full = volts(reference),
                   rises = spec.active() == active_high](double yes) {
        // Well beyond the zone in which it stays as it was.
        return (yes != 0) == rises ? (high + full) / 2 / full : low / 2 / full;
    };
    model.bits = in.converter_bits;
    out.part = std::make_shared<SensePart>(
        starts([spec, state = AnalogueLevelState()](Instant, Raw raw, const AnyReading*,
                                                    AnyReading* to) mutable {
            *to = reading_of(
                state.read(spec.low_code(), spec.high_code(), spec.active(), raw.sample()));
        }),
        model.forward(), CodeScale());
    return truth_part(out, true);
}

} // namespace

SenseKind analogue_level_room() {
    return {"analogue_level",
            11,
            true,
            Kind::truth,
            {},
            {
                {"low", "\"1.2 V\"", ""},
                {"high", "\"2.8 V\"", ""},
                {"reference", "\"5 V\"", ".reference({})"},
                {"active", "\"high\"", ".active(active_{})"},
            },
            read_analogue_level,
            {{{"", "analogue_level({low}, {high})"}},
             "AnalogueLevel",
             "",
             "read({in})",
             "Analogue<{pin}>",
             "Sample"},
            {{"pin", "", "its output"}}};
}

} // namespace zorilla::rig
