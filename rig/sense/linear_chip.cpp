// SPDX-License-Identifier: MIT
// Chips whose voltage is a line over temperature.
#include "rig/sense/analogue.hpp"

namespace zorilla::rig {

namespace {

ReadPart read_linear_chip(PartReader& in, Sense& out) {
    TableReader& keys = in.keys;
    AnalogueReader analogue(in, Kind::temperature, out);
    const auto slope = keys.required_quantity("slope", Kind::voltage_per_kelvin, "10 mV/K",
                                              "how much its voltage rises with each degree");
    const auto at_zero =
        keys.required_quantity("at_zero", Kind::voltage, "500 mV", "its voltage at 0 degC");
    const auto reference = keys.required_quantity("reference", Kind::voltage, "5 V",
                                                  "the voltage that full scale stands for");
    LinearChipSpec spec = linear_chip(of<VoltagePerKelvin>(slope), of<Voltage>(at_zero))
                              .reference(of<Voltage>(reference))
                              .bits(analogue.bits());
    const bool ranged = analogue.read_common(spec);
    if (!slope || !at_zero || !reference || !ranged)
        return {};
    keys.expect(spec.slope_is_possible(), "slope", "between 0.1 and 1,000 mV/K, up or down");
    keys.expect(spec.at_zero_is_possible(), "at_zero", "between -5 and 5 V");
    keys.expect(spec.reference_is_possible(), "reference", "between 0.5 and 10 V");
    out.shorted_reads_supply = true;
    const AnalogueModel model =
        linear_chip_model(volts(slope), volts(at_zero), volts(reference), in.converter_bits);
    return analogue.finish(spec, "linear chip", model.forward(), analogue.by_table(spec));
}

} // namespace

SenseKind linear_chip_room() {
    return {"linear_chip",
            1,
            true,
            Kind::temperature,
            {},
            with_analogue_keys({
                {"slope", "\"10 mV/K\"", ""},
                {"at_zero", "\"500 mV\"", ""},
                {"reference", "\"5 V\"", ".reference({})"},
            }),
            read_linear_chip,
            {{{"", "linear_chip({slope}, {at_zero})"}},
             "LinearChip",
             "",
             "read({in})",
             "Analogue<{pin}>",
             "Sample"},
            {{"pin", "", "its output; its other legs to {board} and ground, 100 nF between them"}}};
}

} // namespace zorilla::rig
