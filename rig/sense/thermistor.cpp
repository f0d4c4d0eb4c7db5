// SPDX-License-Identifier: MIT
// Thermistors: by their Beta, three points, the coefficients of Steinhart and Hart, or a table.
#include "rig/sense/analogue.hpp"

namespace zorilla::rig {

namespace {

using Ohms = std::function<double(double)>;

template <class Model>
ReadPart finish(AnalogueReader& analogue, PartReader& in, ThermistorSpec<Model> spec,
                std::string_view what, Ohms ohms) {
    spec = spec.bits(analogue.bits());
    const auto divider = read_divider(in.keys, spec);
    const bool ranged = analogue.read_common(spec);
    if (!divider || !ranged)
        return {};
    return analogue.finish(spec, std::string(what),
                           divider->model(std::move(ohms), in.converter_bits).forward(),
                           analogue.by_table(spec));
}

constexpr uint8_t most_lines = 64;
using Lines = ResistanceTableModel<most_lines>;

bool read_lines(TableReader& keys, std::string_view key, size_t least, size_t most, Lines& out) {
    out.count = 0;
    const std::string_view example = "[[\"0 degC\", \"32.65 kohm\"], [\"25 degC\", \"10 kohm\"], "
                                     "[\"60 degC\", \"2.488 kohm\"]]";
    return read_pairs(keys, key, least, most, example, [&](const Node& a, const Node& b) {
        const auto t = keys.quantity_of(a, key, Kind::temperature, "25 degC");
        const auto r = keys.quantity_of(b, key, Kind::resistance, "10 kohm");
        out.lines[out.count++] = {of<Temperature>(t), of<Resistance>(r)};
        return t && r;
    });
}

Ohms ohms_of(const SteinhartHartModel& model) {
    return steinhart_hart_ohms(static_cast<double>(model.a) * 1e-15,
                               static_cast<double>(model.b) * 1e-15,
                               static_cast<double>(model.c) * 1e-15);
}

ReadPart by_points(PartReader& in, AnalogueReader& analogue) {
    Lines lines;
    if (!read_lines(in.keys, "points", 3, 3, lines))
        return unread(in.keys);
    const auto model = SteinhartHartModel::through(lines.lines[0], lines.lines[1], lines.lines[2]);
    in.keys.expect(model.is_possible(), "points",
                   "on a thermistor's curve: three different points from the data sheet, best the "
                   "ends and the middle of the range");
    return model.is_possible() ? finish(analogue, in, ThermistorSpec(model),
                                        "thermistor by three points", ohms_of(model))
                               : unread(in.keys);
}

ReadPart by_coefficients(PartReader& in, AnalogueReader& analogue) {
    SteinhartHartModel model{0, 0, 0};
    const auto* list =
        in.keys.list("steinhart_hart", 3, 3, "[1.129148e-3, 2.34125e-4, 8.76741e-8]");
    if (list == nullptr)
        return unread(in.keys);
    int64_t* const into[] = {&model.a, &model.b, &model.c};
    for (size_t i = 0; i < 3; ++i) {
        const double value = (*list)[i].as_number().value_or(1.0);
        *into[i] = std::fabs(value) < 0.1 ? std::llround(value * 1e15) : 0;
    }
    in.keys.expect(model.is_possible(), "steinhart_hart",
                   "where those of thermistors do, for R in ohm: such as [1.129148e-3, 2.34125e-4, "
                   "8.76741e-8]");
    return model.is_possible() ? finish(analogue, in, ThermistorSpec(model),
                                        "thermistor by Steinhart-Hart", ohms_of(model))
                               : unread(in.keys);
}

ReadPart by_lines(PartReader& in, AnalogueReader& analogue) {
    Lines model;
    if (!read_lines(in.keys, "table", 2, most_lines, model))
        return unread(in.keys);
    in.keys.expect(
        model.is_possible(), "table",
        "in order: going up in temperature, and its resistance one way, from 1 ohm to 10 "
        "Mohm");
    if (!model.is_possible())
        return unread(in.keys);
    std::vector<std::pair<double, double>> lines;
    for (uint8_t i = 0; i < model.count; ++i)
        lines.emplace_back(thousandth_of(model.lines[i].temperature.thousandths()),
                           model.lines[i].resistance.thousandths());
    return finish(analogue, in, ThermistorSpec(model), "thermistor by its table",
                  table_ohms(std::move(lines)));
}

ReadPart by_beta(PartReader& in, AnalogueReader& analogue) {
    TableReader& keys = in.keys;
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
    ReadPart part = finish(analogue, in, ThermistorSpec(model), "thermistor",
                           beta_ohms(nominal.value_or(1), thousandth_of(beta),
                                     thousandth_of(model.nominal_at.thousandths())));
    part.sound = part.sound && nominal && beta;
    return part;
}

ReadPart read_thermistor(PartReader& in, Sense& out) {
    TableReader& keys = in.keys;
    AnalogueReader analogue(in, Kind::temperature, out);
    const bool points = keys.find("points") != nullptr;
    const bool table = keys.find("table") != nullptr;
    const bool coefficients = keys.find("steinhart_hart") != nullptr;
    const bool beta = keys.find("beta") != nullptr || keys.find("nominal") != nullptr;
    if (points + table + coefficients + beta > 1) {
        keys.complain(fmt::format("{} is described twice; give either \"nominal\" and \"beta\", or "
                                  "\"points\", or \"steinhart_hart\", or \"table\"",
                                  keys.label()));
        return unread(keys);
    }
    return points         ? by_points(in, analogue)
           : coefficients ? by_coefficients(in, analogue)
           : table        ? by_lines(in, analogue)
                          : by_beta(in, analogue);
}

} // namespace

SenseKind thermistor_room() {
    return {"thermistor",
            0,
            true,
            Kind::temperature,
            {},
            with_divider_keys({
                {"nominal", "\"10 kohm\"", ""},
                {"beta", "\"3950 K\"", ""},
                {"nominal_at", "\"25 degC\"", ".nominal_at({})"},
                {"points", "[[\"0 degC\", \"32.65 kohm\"], ...]", ""},
                {"steinhart_hart", "[1.129148e-3, 2.34125e-4, 8.76741e-8]", ""},
                {"table", "[[\"0 degC\", \"32.65 kohm\"], ...]", ""},
            }),
            read_thermistor,
            {{{"points", "thermistor({points:point({}, {})})"},
              {"table", "thermistor_table({table:point({}, {})})"},
              {"steinhart_hart", "thermistor({steinhart_hart.0}_per_K, {steinhart_hart.1}_per_K, "
                                 "{steinhart_hart.2}_per_K)"},
              {"", "thermistor({nominal}, {beta})"}},
             "Thermistor",
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
