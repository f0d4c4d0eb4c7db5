// SPDX-License-Identifier: MIT
// Photoresistors and phototransistors.
#include "rig/sensors/analogue.hpp"
#include "rig/sensors/parts.hpp"

namespace zorilla::rig {

ReadPart read_photoresistor(PartReader& in, Sense& out) {
    TableReader& keys = in.keys;
    AnalogueReader analogue(in, Kind::light, out);
    const auto anchor = keys.required_quantity("resistance", Kind::resistance, "10 kohm",
                                               "its resistance at a known light by the data sheet");
    const auto light = keys.required_quantity("at_light", Kind::light, "10 lx",
                                              "the light that it has this resistance at");
    keys.require("gamma", "how steep its curve is by the data sheet", "0.7");
    const auto gamma = keys.ratio("gamma");
    PhotoresistorSpec spec =
        photoresistor(of<Resistance>(anchor), of<Illuminance>(light), of<Ratio>(gamma))
            .bits(analogue.bits());
    const bool divided = read_divider(keys, spec);
    const bool ranged = analogue.read_common(spec);
    if (!anchor || !light || !gamma || !divided || !ranged)
        return {};
    keys.expect(spec.anchor_is_possible(), "resistance",
                "between 1 ohm and 10 Mohm, and \"at_light\" between 0.1 and 100,000 lx");
    keys.expect(spec.gamma_is_possible(), "gamma",
                "between 0.3 and 1.5; data sheets mostly say 0.6 to 0.9");
    return analogue.finish(spec, "photoresistor by its power law", [&](std::string&) {
        return std::function<Reading<Illuminance>(Sample)>(
            [range = spec.code_range(), law = spec.law()](Sample sample) {
                return read_by_power_law<Illuminance>(range, law, sample);
            });
    });
}

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
    return analogue.finish(spec, "phototransistor", [&](std::string&) {
        return std::function<Reading<Illuminance>(Sample)>(
            [range = spec.code_range(), proportion = spec.proportion(), rises = spec.rising(),
             full_scale = spec.full_scale()](Sample sample) {
                return read_phototransistor(range, proportion, rises, full_scale, sample);
            });
    });
}

} // namespace zorilla::rig
