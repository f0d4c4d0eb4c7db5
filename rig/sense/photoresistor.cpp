// SPDX-License-Identifier: MIT
// Photoresistors, by their power law.
#include "rig/sense/analogue.hpp"

namespace zorilla::rig {

namespace {

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
    const auto divider = read_divider(keys, spec);
    const bool ranged = analogue.read_common(spec);
    if (!anchor || !light || !gamma || !divider || !ranged)
        return {};
    keys.expect(spec.anchor_is_possible(), "resistance",
                "between 1 ohm and 10 Mohm, and \"at_light\" between 0.1 and 100,000 lx");
    keys.expect(spec.gamma_is_possible(), "gamma",
                "between 0.3 and 1.5; data sheets mostly say 0.6 to 0.9");
    const AnalogueModel model = divider->model(
        photoresistor_ohms(*anchor, thousandth_of(light), thousandth_of(gamma)), in.converter_bits);
    return analogue.finish(spec, "photoresistor by its power law", model.forward(),
                           [&](std::string&) {
                               return std::function<Reading<Illuminance>(Sample)>(
                                   [range = spec.code_range(), law = spec.law()](Sample sample) {
                                       return read_by_power_law<Illuminance>(range, law, sample);
                                   });
                           });
}

} // namespace

SenseKind photoresistor_room() {
    return {"photoresistor",
            2,
            true,
            Kind::light,
            {},
            with_divider_keys({
                {"resistance", "\"10 kohm\"", ""},
                {"at_light", "\"10 lx\"", ""},
                {"gamma", "0.7", ""},
            }),
            read_photoresistor,
            {{{"", "photoresistor({resistance}, {at_light}, {gamma}_times)"}},
             "Photoresistor",
             "",
             "read({in})",
             "Analogue<{pin}>",
             "Sample"},
            {{"pin", "pull_up",
              "one leg, which goes on through {pull_up} to {supply}; the other leg to ground"},
             {"pin", "pull_down",
              "one leg, which goes on through {pull_down} to ground; the other leg to {supply}"}}};
}

} // namespace zorilla::rig
