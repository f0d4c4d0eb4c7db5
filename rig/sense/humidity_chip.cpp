// SPDX-License-Identifier: MIT
// Humidity chips with a voltage, which a temperature corrects.
#include "rig/sense/air.hpp"
#include "rig/sense/analogue.hpp"

namespace zorilla::rig {

namespace {

ReadPart read_humidity_chip(PartReader& in, Sense& out) {
    TableReader& keys = in.keys;
    AnalogueReader analogue(in, Kind::humidity, out);
    const auto slope = keys.required_quantity("slope", Kind::voltage_per_humidity, "31 mV/%RH",
                                              "how much its voltage rises with each percent");
    const auto at_zero =
        keys.required_quantity("at_zero", Kind::voltage, "800 mV", "its voltage at 0 %RH");
    const auto reference = keys.required_quantity("reference", Kind::voltage, "5 V",
                                                  "the voltage that full scale stands for");
    HumidityChipSpec spec = humidity_chip(of<VoltagePerPercent>(slope), of<Voltage>(at_zero))
                                .reference(of<Voltage>(reference))
                                .bits(analogue.bits());
    const auto loss = keys.quantity("loses", Kind::percent_per_kelvin, "0.216 %/K");
    if (loss)
        spec = spec.loses(of<PercentPerKelvin>(loss));
    const AirInput air = read_air(in,
                                  "the air's, which corrects it: a sensor above it, or a fixed "
                                  "one such as \"20 degC\"",
                                  out);
    const bool common = analogue.read_common(spec);
    if (!slope || !at_zero || !reference || !air.sound || !common)
        return {};
    keys.expect(spec.slope_is_possible(), "slope", "between 1 and 200 mV/%RH");
    keys.expect(spec.at_zero_is_possible(), "at_zero", "between 0 and 5 V");
    keys.expect(spec.reference_is_possible(), "reference", "between 0.5 and 10 V");
    keys.expect(spec.loss_is_possible(), "loses", "between -0.5 and 0.5 %/K");
    if (!spec.loss_is_possible())
        return {};
    const CompensationCurve curve{spec.loss().thousandths()};
    const auto factors = std::make_shared<DeskTable<CompensationCurve>>(
        curve, plan_table(curve, curve.first, curve.last, curve.error));
    out.shorted_reads_supply = true;
    const double lost = thousandth_of(spec.loss().thousandths()) / 100;
    const auto forward = [=, bits = in.converter_bits](const Surroundings& around, Noise& noise,
                                                       Fault fault, Raw before) {
        return humidity_chip_model(volts(slope), volts(at_zero), lost, volts(reference), bits,
                                   air.celsius(around))
            .at(around.value, noise, fault, before, around.noise);
    };
    return analogue.finish_with(
        spec, "analogue humidity chip", forward, analogue.by_table(spec),
        [air, factors](auto converter) {
            return starts([=](Instant, Raw raw, const AnyReading* sources, AnyReading* to) {
                *to = any(compensate(converter(raw.sample()), air.at(sources), [&](uint16_t x) {
                    return look_up(factors->plan(), factors->entry(), x);
                }));
            });
        });
}

} // namespace

SenseKind humidity_chip_room() {
    return {"humidity_chip",
            5,
            true,
            Kind::humidity,
            {},
            with_analogue_keys({
                {"slope", "\"31 mV/%RH\"", ""},
                {"at_zero", "\"800 mV\"", ""},
                {"reference", "\"5 V\"", ".reference({})"},
                {"loses", "\"0.216 %/K\"", ".loses({})"},
                {"temperature", "\"20 degC\"", ""},
            }),
            read_humidity_chip,
            {{{"", "humidity_chip({slope}, {at_zero})"}},
             "HumidityChip",
             "",
             "read({in}, {air})",
             "Analogue<{pin}>",
             "Sample"},
            {{"pin", "", "its output; its other legs to {board} and ground, 100 nF between them"}}};
}

} // namespace zorilla::rig
