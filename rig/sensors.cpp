// SPDX-License-Identifier: MIT
// The sensors of a rig file: for each kind its keys, and what its numbers must be like.
#include "rig/table_reader.hpp"

namespace zorilla::rig {

namespace {

/// The keys that every temperature sensor on an analogue pin has.
template <class Spec> bool read_range(TableReader& keys, Spec& spec) {
    bool complete = true;
    if (const toml::node* node = keys.find("range")) {
        const auto* ends = node->as_array();
        if (ends == nullptr || ends->size() != 2) {
            keys.findings().add(*node, "\"range\" must be the lowest and the highest temperature, "
                                       "such as range = [\"-30 degC\", \"60 degC\"]");
            return false;
        }
        const auto lowest = keys.quantity_of(*ends->get(0), "range", Kind::temperature, "-30 degC");
        const auto highest = keys.quantity_of(*ends->get(1), "range", Kind::temperature, "60 degC");
        complete = lowest && highest;
        spec = spec.range(Temperature::from_thousandths(lowest.value_or(0)),
                          Temperature::from_thousandths(highest.value_or(0)));
    }
    if (const auto within = keys.quantity("accuracy", Kind::temperature_difference, "0.05 K"))
        spec = spec.accuracy(TemperatureDifference::from_thousandths(*within));
    return complete;
}

/// Builds the sensor's table, if its numbers allow.
template <class Spec> bool finish(TableReader& keys, const Spec& spec, Sense& out) {
    keys.expect(spec.range_is_possible(), "range",
                "between -100 and 300 degC, the lower end first, and span at least 10 K");
    keys.expect(spec.accuracy_is_possible(), "accuracy", "between 0.001 K and 10 K");
    if (!spec.is_possible())
        return false;
    if (!spec.codes_can_be_told()) {
        keys.complain(fmt::format(
            "{}: from {} to {} there are fewer than {} codes of the converter. "
            "Widen \"range\", or choose a part, a resistor or a reference that "
            "uses more of it",
            keys.label(), to_text(spec.lowest(), 0), to_text(spec.highest(), 0), spec.least_codes));
        return false;
    }
    if (!spec.wires_can_be_told()) {
        keys.complain(fmt::format(
            "{}: from {} to {} the codes run from {} to {}; those within {} of an end cannot be "
            "told from a broken or shorted wire. Narrow \"range\", or choose parts that bring it "
            "nearer to the middle of the converter",
            keys.label(), to_text(spec.lowest(), 0), to_text(spec.highest(), 0), spec.first_code(),
            spec.last_code(), spec.wire_ends().margin));
        return false;
    }
    out.plan = spec.plan();
    if (!out.plan.close_enough) {
        keys.complain(fmt::format(
            "{}: no table of {} entries is within {} of the exact curve (the best has {}); ask for "
            "less \"accuracy\" or a smaller \"range\"",
            keys.label(), most_table_entries, to_text(spec.accuracy()),
            to_text(TemperatureDifference::from_thousandths(out.plan.largest_error))));
        return false;
    }
    out.table.resize(out.plan.entries);
    fill_table(spec.curve(), out.plan, out.table.data());
    out.spec = spec;
    return true;
}

/// The divider's resistor, on the side that the keys say. False if it is not clear.
bool read_divider(TableReader& keys, ThermistorSpec& spec) {
    const auto up = keys.quantity("pull_up", Kind::resistance, "10 kohm");
    const auto down = keys.quantity("pull_down", Kind::resistance, "10 kohm");
    const bool has_up = keys.find("pull_up") != nullptr;
    const bool has_down = keys.find("pull_down") != nullptr;
    if (has_up == has_down) {
        keys.complain(fmt::format("{} needs either \"pull_up\" (resistor to the supply) or "
                                  "\"pull_down\" (resistor to ground), {}; for example pull_up = "
                                  "\"10 kohm\"",
                                  keys.label(), has_up ? "not both" : "to form the divider"));
        return false;
    }
    if (up)
        spec = spec.pull_up(Resistance::from_thousandths(*up));
    if (down)
        spec = spec.pull_down(Resistance::from_thousandths(*down));
    return up || down;
}

bool read_thermistor(TableReader& keys, uint8_t bits, Sense& out) {
    const auto nominal = keys.required_quantity("nominal", Kind::resistance, "10 kohm",
                                                "its resistance by the data sheet");
    const auto beta = keys.required_quantity("beta", Kind::temperature_difference, "3950 K",
                                             "its Beta by the data sheet");
    ThermistorSpec spec = thermistor(Resistance::from_thousandths(nominal.value_or(0)),
                                     TemperatureDifference::from_thousandths(beta.value_or(0)))
                              .bits(bits);
    if (const auto at = keys.quantity("nominal_at", Kind::temperature, "25 degC"))
        spec = spec.nominal_at(Temperature::from_thousandths(*at));
    const bool divided = read_divider(keys, spec);
    const bool ranged = read_range(keys, spec);
    if (!nominal || !beta || !divided || !ranged)
        return false;
    keys.expect(spec.nominal_is_possible(), "nominal", "between 1 ohm and 10 Mohm");
    keys.expect(spec.nominal_at_is_possible(), "nominal_at", "between -50 and 150 degC");
    keys.expect(spec.beta_is_possible(), "beta",
                "between 500 K and 10,000 K; data sheets mostly say 3,000 to 4,500 K");
    for (const char* pull : {"pull_up", "pull_down"})
        keys.expect(spec.divider_is_possible(), pull, "between 1 ohm and 10 Mohm");
    return finish(keys, spec, out);
}

bool read_linear_chip(TableReader& keys, uint8_t bits, Sense& out) {
    const auto slope = keys.required_quantity("slope", Kind::slope, "10 mV/K",
                                              "how much its voltage rises with each degree");
    const auto at_zero =
        keys.required_quantity("at_zero", Kind::voltage, "500 mV", "its voltage at 0 degC");
    const auto reference = keys.required_quantity("reference", Kind::voltage, "5 V",
                                                  "the voltage that full scale stands for");
    LinearChipSpec spec = linear_chip(VoltagePerKelvin::from_thousandths(slope.value_or(0)),
                                      Voltage::from_thousandths(at_zero.value_or(0)))
                              .reference(Voltage::from_thousandths(reference.value_or(0)))
                              .bits(bits);
    const bool ranged = read_range(keys, spec);
    if (!slope || !at_zero || !reference || !ranged)
        return false;
    keys.expect(spec.slope_is_possible(), "slope", "between 0.1 and 1,000 mV/K, up or down");
    keys.expect(spec.at_zero_is_possible(), "at_zero", "between -5 and 5 V");
    keys.expect(spec.reference_is_possible(), "reference", "between 0.5 and 10 V");
    return finish(keys, spec, out);
}

} // namespace

bool read_sensor(TableReader& keys, uint8_t converter_bits, Sense& out) {
    const auto part = keys.choice("part", {"thermistor", "linear_chip"});
    if (!part && keys.find("part") == nullptr)
        keys.complain(fmt::format("{} needs \"part\", what kind of sensor it is; write part = "
                                  "\"thermistor\" or part = \"linear_chip\"",
                                  keys.label()));
    return part == "linear_chip" ? read_linear_chip(keys, converter_bits, out)
                                 : read_thermistor(keys, converter_bits, out);
}

} // namespace zorilla::rig
