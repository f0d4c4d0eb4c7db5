// SPDX-License-Identifier: MIT
// Phototransistors, whose current goes with the light.
#include "rig/sense/analogue.hpp"

namespace zorilla::rig {

namespace {

ReadPart read_phototransistor(PartReader& in, Sense& out) {
    TableReader& keys = in.keys;
    AnalogueReader analogue(in, Kind::light, out);
    const auto sensitivity =
        keys.required_quantity("sensitivity", Kind::current_per_light, "500 nA/lx",
                               "how much current a lux makes by the data sheet");
    const auto reference = keys.required_quantity("reference", Kind::voltage, "5 V",
                                                  "the voltage that full scale stands for");
    PhototransistorSpec spec = phototransistor(of<CurrentPerLux>(sensitivity))
                                   .reference(of<Voltage>(reference))
                                   .bits(analogue.bits());
    const auto ground = keys.quantity("load_to_ground", Kind::resistance, "10 kohm");
    const auto supply = keys.quantity("load_to_supply", Kind::resistance, "10 kohm");
    const bool has_ground = keys.find("load_to_ground") != nullptr;
    if (has_ground == (keys.find("load_to_supply") != nullptr))
        keys.complain(
            fmt::format("{} needs either \"load_to_ground\" or \"load_to_supply\", its load "
                        "resistor{}; for example load_to_ground = \"10 kohm\"",
                        keys.label(), has_ground ? ", not both" : ""));
    if (ground)
        spec = spec.load_to_ground(of<Resistance>(ground));
    else if (supply)
        spec = spec.load_to_supply(of<Resistance>(supply));
    const bool ranged = analogue.read_common(spec);
    if (!sensitivity || !reference || !(ground || supply) || !ranged)
        return {};
    keys.expect(spec.sensitivity_is_possible(), "sensitivity", "between 0.1 and 100,000 nA/lx");
    keys.expect(spec.load_is_possible(), has_ground ? "load_to_ground" : "load_to_supply",
                "between 1 ohm and 10 Mohm");
    keys.expect(spec.reference_is_possible(), "reference", "between 0.5 and 10 V");
    // Sensitivity is counted in pA/lx.
    const AnalogueModel model =
        phototransistor_model(*sensitivity * 1e-12, ground ? *ground : *supply, ground.has_value(),
                              volts(reference), in.converter_bits);
    return analogue.finish(spec, "phototransistor", model.forward(), [&](std::string&) {
        return std::function<Reading<Illuminance>(Sample)>(
            [range = spec.code_range(), proportion = spec.proportion(), rises = spec.rising(),
             full_scale = spec.full_scale()](Sample sample) {
                return zorilla::read_phototransistor(range, proportion, rises, full_scale, sample);
            });
    });
}

} // namespace

SenseKind phototransistor_room() {
    return {"phototransistor",
            3,
            true,
            Kind::light,
            {},
            with_analogue_keys({
                {"sensitivity", "\"500 nA/lx\"", ""},
                {"reference", "\"5 V\"", ".reference({})"},
                {"load_to_ground", "\"10 kohm\"", ".load_to_ground({})"},
                {"load_to_supply", "\"10 kohm\"", ".load_to_supply({})"},
            }),
            read_phototransistor,
            {{{"", "phototransistor({sensitivity})"}},
             "Phototransistor",
             "",
             "read({in})",
             "Analogue<{pin}>",
             "Sample"},
            {{"pin", "load_to_supply",
              "its collector, which goes on through {load_to_supply} to {board}; its emitter to "
              "ground"},
             {"pin", "",
              "its emitter, which goes on through {load_to_ground} to ground; its collector to "
              "{board}"}}};
}

} // namespace zorilla::rig
