// SPDX-License-Identifier: MIT
// Thermistors, and chips whose voltage is a line.
#include "rig/sensors/analogue.hpp"
#include "rig/sensors/parts.hpp"

namespace zorilla::rig {

namespace {

template <class Model>
ReadPart finish_thermistor(AnalogueReader& analogue, PartReader& in, ThermistorSpec<Model> spec,
                           std::string_view what) {
    spec = spec.bits(analogue.bits());
    const bool divided = read_divider(in.keys, spec);
    const bool ranged = analogue.read_common(spec);
    if (!divided || !ranged)
        return {};
    return analogue.finish(spec, std::string(what), analogue.by_table(spec));
}

constexpr uint8_t most_lines = 64;

bool read_lines(TableReader& keys, std::string_view key, size_t least, size_t most,
                ResistanceTableModel<most_lines>& out) {
    out.count = 0;
    const std::string_view example = "[[\"0 degC\", \"32.65 kohm\"], [\"25 degC\", \"10 kohm\"], "
                                     "[\"60 degC\", \"2.488 kohm\"]]";
    return read_pairs(keys, key, least, most, example,
                      [&](const toml::node& a, const toml::node& b) {
                          const auto t = keys.quantity_of(a, key, Kind::temperature, "25 degC");
                          const auto r = keys.quantity_of(b, key, Kind::resistance, "10 kohm");
                          out.lines[out.count++] = {of<Temperature>(t), of<Resistance>(r)};
                          return t && r;
                      });
}

} // namespace

ReadPart read_thermistor(PartReader& in, Sense& out) {
    TableReader& keys = in.keys;
    AnalogueReader analogue(in, Kind::temperature, out);
    const bool by_points = keys.find("points") != nullptr;
    const bool by_table = keys.find("table") != nullptr;
    const bool by_coefficients = keys.find("steinhart_hart") != nullptr;
    const bool by_beta = keys.find("beta") != nullptr || keys.find("nominal") != nullptr;
    if (by_points + by_table + by_coefficients + by_beta > 1) {
        keys.complain(fmt::format("{} is described twice; give either \"nominal\" and \"beta\", or "
                                  "\"points\", or \"steinhart_hart\", or \"table\"",
                                  keys.label()));
        return unread(keys);
    }
    if (by_points) {
        ResistanceTableModel<most_lines> lines;
        if (!read_lines(keys, "points", 3, 3, lines))
            return unread(keys);
        const auto model =
            SteinhartHartModel::through(lines.lines[0], lines.lines[1], lines.lines[2]);
        keys.expect(model.is_possible(), "points",
                    "on a thermistor's curve: three different points from the data sheet, best the "
                    "ends and the middle of the range");
        return model.is_possible() ? finish_thermistor(analogue, in, ThermistorSpec(model),
                                                       "thermistor by three points")
                                   : unread(keys);
    }
    if (by_coefficients) {
        SteinhartHartModel model{0, 0, 0};
        const auto* list =
            keys.list("steinhart_hart", 3, 3, "[1.129148e-3, 2.34125e-4, 8.76741e-8]");
        if (list == nullptr)
            return unread(keys);
        int64_t* const into[] = {&model.a, &model.b, &model.c};
        for (size_t i = 0; i < 3; ++i) {
            const double value = list->get(i)->value<double>().value_or(1.0);
            *into[i] = std::fabs(value) < 0.1 ? std::llround(value * 1e15) : 0;
        }
        keys.expect(
            model.is_possible(), "steinhart_hart",
            "where those of thermistors do, for R in ohm: such as [1.129148e-3, 2.34125e-4, "
            "8.76741e-8]");
        return model.is_possible() ? finish_thermistor(analogue, in, ThermistorSpec(model),
                                                       "thermistor by Steinhart-Hart")
                                   : unread(keys);
    }
    if (by_table) {
        ResistanceTableModel<most_lines> model;
        if (!read_lines(keys, "table", 2, most_lines, model))
            return unread(keys);
        keys.expect(
            model.is_possible(), "table",
            "in order: going up in temperature, and its resistance one way, from 1 ohm to 10 "
            "Mohm");
        return model.is_possible() ? finish_thermistor(analogue, in, ThermistorSpec(model),
                                                       "thermistor by its table")
                                   : unread(keys);
    }
    const auto nominal = keys.required_quantity("nominal", Kind::resistance, "10 kohm",
                                                "its resistance by the data sheet");
    const auto beta = keys.required_quantity("beta", Kind::temperature_difference, "3950 K",
                                             "its Beta by the data sheet");
    BetaModel model{of<Resistance>(nominal), of<TemperatureDifference>(beta)};
    if (const auto at = keys.quantity("nominal_at", Kind::temperature, "25 degC"))
        model.nominal_at = of<Temperature>(at);
    if (nominal)
        keys.expect(model.nominal_is_possible(), "nominal", "between 1 ohm and 10 Mohm");
    keys.expect(model.nominal_at_is_possible(), "nominal_at", "between -50 and 150 degC");
    if (beta)
        keys.expect(model.beta_is_possible(), "beta",
                    "between 500 K and 10,000 K; data sheets mostly say 3,000 to 4,500 K");
    ReadPart part = finish_thermistor(analogue, in, ThermistorSpec(model), "thermistor");
    part.sound = part.sound && nominal && beta;
    return part;
}

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
    return analogue.finish(spec, "linear chip", analogue.by_table(spec));
}

} // namespace zorilla::rig
