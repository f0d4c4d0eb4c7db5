// SPDX-License-Identifier: MIT
// size divider: the resistor of a sensor.
#include "bench/sizing.hpp"
#include "cli/command.hpp"
#include "cli/quantities.hpp"
#include "cli/size.hpp"
#include "rig/sense/forward.hpp"
#include "rig/text/files.hpp"
#include "rig/text/text.hpp"

#include <fast_float/fast_float.h>
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>

namespace zorilla::cli {

namespace {

using bench::amperes_text;
using bench::ohms_text;
using bench::watts_text;
using rig::InputError;
using rig::Kind;

struct DividerOptions {
    std::string from, to, at;
    std::vector<std::string> thermistor, photoresistor;
    std::vector<std::string> have;
    std::string supply = "5 V";
    std::string side = "up";
    std::string loses = "2 mW/K";
    int bits = 10;
    std::string series = "E24";
    std::string figure;
};

/// The sensor of the options: its resistance, and the kind of its values.
Kind read_sensor(const DividerOptions& options, bench::DividerTask& task) {
    if (!options.thermistor.empty() && !options.photoresistor.empty())
        throw InputError("give --thermistor or --photoresistor, not both");
    if (!options.thermistor.empty()) {
        const double ohms =
            above_zero("--thermistor", options.thermistor[0], Kind::resistance, "10 kohm");
        const double beta = above_zero("--thermistor", options.thermistor[1],
                                       Kind::temperature_difference, "3950 K");
        task.ohms = rig::beta_ohms(ohms, beta);
        return Kind::temperature;
    }
    if (!options.photoresistor.empty()) {
        const double ohms =
            above_zero("--photoresistor", options.photoresistor[0], Kind::resistance, "10 kohm");
        const double lux =
            above_zero("--photoresistor", options.photoresistor[1], Kind::light, "10 lx");
        double gamma = 0;
        const std::string& text = options.photoresistor[2];
        const auto read = fast_float::from_chars(text.data(), text.data() + text.size(), gamma);
        if (read.ec != std::errc() || read.ptr != text.data() + text.size() || gamma < 0.3 ||
            gamma > 1.5)
            throw InputError(fmt::format("--photoresistor: its gamma, \"{}\", must be a number "
                                         "from 0.3 to 1.5, such as 0.7",
                                         options.photoresistor[2]));
        task.ohms = rig::photoresistor_ohms(ohms, lux, gamma);
        return Kind::light;
    }
    task.ohms = [](double ohms) { return ohms; };
    return Kind::resistance;
}

std::string value_text(double value, Kind kind) {
    return kind == Kind::resistance ? ohms_text(value)
                                    : fmt::format("{:.4g} {}", value, rig::unit_of(kind));
}

Status size_divider(const DividerOptions& options, Page& page) {
    bench::DividerTask task;
    const Kind kind = read_sensor(options, task);
    const std::string_view example = rig::example_of(kind);
    const auto end = [&](const std::string& option, const std::string& text) {
        return kind == Kind::temperature ? quantity(option, text, kind, example)
                                         : above_zero(option, text, kind, example);
    };
    task.from = end("--from", options.from);
    task.to = end("--to", options.to);
    if (task.from > task.to)
        std::swap(task.from, task.to);
    if (!options.at.empty()) {
        task.point = end("--at", options.at);
        if (*task.point < task.from || *task.point > task.to)
            throw InputError(fmt::format("--at: {} lies outside the range from {} to {}",
                                         options.at, value_text(task.from, kind),
                                         value_text(task.to, kind)));
    }
    task.supply = above_zero("--supply", options.supply, Kind::voltage, "5 V");
    task.bits = options.bits;
    task.series = series_of(options.series);
    task.sensor_to_ground = options.side == "up";
    task.watts_per_kelvin = above_zero("--loses", options.loses, Kind::heat_loss, "2 mW/K");
    for (const std::string& have : options.have)
        task.have.push_back(above_zero("--have", have, Kind::resistance, "10 kohm"));
    const bench::DividerResult result = bench::size_divider(task);

    const std::string series = fmt::format("E{}", static_cast<int>(task.series));
    const double point = bench::point_of(task);
    const bool measures = kind != Kind::resistance;
    page.line(
        page.bold(fmt::format("Divider for a sensor of {} to {}{}", ohms_text(task.ohms(task.from)),
                              ohms_text(task.ohms(task.to)),
                              measures ? fmt::format(", from {} to {}", value_text(task.from, kind),
                                                     value_text(task.to, kind))
                                       : std::string())));
    page.line(fmt::format("  resistor to {}, sensor to {}; {:.3g} V, {}-bit converter, {} values",
                          task.sensor_to_ground ? "the supply" : "ground",
                          task.sensor_to_ground ? "ground" : "the supply", task.supply, task.bits,
                          series));
    page.line();
    // A count is so many of the quantity's unit; or, of bare resistance, so many percent of it.
    const auto resolution = [&](const bench::DividerChoice& choice) {
        return measures
                   ? fmt::format("{:.3g} {}", 1 / choice.counts_per_unit,
                                 kind == Kind::temperature ? std::string("K") : rig::unit_of(kind))
                   : fmt::format("{:.2g} %", 100 / (choice.counts_per_unit * point));
    };
    page.line(fmt::format("  {:>2}{:<10}{:>8}  {:<12}  {:<18}  {:<10}{}", "", "resistor", "counts",
                          "codes", fmt::format("a count, at {}", value_text(point, kind)),
                          "current", "heats the sensor by"));
    const auto row = [&](const bench::DividerChoice& choice, std::string_view mark) {
        return fmt::format(
            "  {:>2}{:<10}{:>8.0f}  {:<12}  {:<18}  {:<10}{}", mark, ohms_text(choice.pull),
            choice.span(), fmt::format("{:.0f} to {:.0f}", choice.code_from, choice.code_to),
            resolution(choice), amperes_text(choice.amperes),
            fmt::format("{}, {:.2g} K", watts_text(choice.sensor_watts), choice.warming));
    };
    for (size_t i = 0; i < result.choices.size(); ++i)
        page.line(i == result.best ? page.bold(row(result.choices[i], "> "))
                                   : row(result.choices[i], ""));
    for (const bench::DividerChoice& have : result.have)
        page.line(row(have, "") +
                  (result.have.size() == 1 ? ", the one you have" : ", one that you have"));
    page.line();
    const bench::DividerChoice& best = result.choices[result.best];
    page.line(fmt::format(
        "Take {}: {}", ohms_text(best.pull),
        task.point ? fmt::format("no value of {} resolves {} more finely.", series,
                                 value_text(point, kind))
                   : fmt::format("no value of {} spreads the range over more of the {} codes.",
                                 series, rig::count_to_text(uint64_t{1} << task.bits))));
    for (const bench::DividerChoice& have : result.have) {
        const double lost = task.point ? 1 - have.counts_per_unit / best.counts_per_unit
                                       : 1 - have.span() / best.span();
        page.line(fmt::format(
            "Your {} {}.", ohms_text(have.pull),
            lost < 0.005  ? "is as good"
            : lost < 0.15 ? fmt::format("gives up {:.0f} % of that: it may stay", 100 * lost)
                          : fmt::format("gives up {:.0f} % of that", 100 * lost)));
    }
    bool wanting = false;
    const auto warn = [&](const std::string& text) {
        message(text);
        wanting = true;
    };
    if (best.span() < 20)
        warn(fmt::format("the whole range is only {:.0f} counts wide: a sensor that changes more, "
                         "or a converter of more bits, is needed",
                         best.span()));
    if (kind == Kind::temperature && best.warming > 0.5)
        warn(
            fmt::format("its own current warms the thermistor by up to {:.2g} K: power the divider "
                        "only while it is read, take a larger resistor, or measure --loses",
                        best.warming));
    const double full = std::pow(2, task.bits);
    if (std::min(best.code_from, best.code_to) < full / 128 ||
        std::max(best.code_from, best.code_to) > full - full / 128)
        warn("at one end of the range the codes cannot be told from those of a broken or shorted "
             "wire (within 1/128 of an end); narrow the range");
    page.finish();
    if (!options.figure.empty())
        bench::draw_divider(
            options.figure, task, result, fmt::format("Divider: the best three of {}", series),
            fmt::format("{} ({})",
                        measures ? rig::quantity_of(kind) : std::string("the sensor's resistance"),
                        measures ? rig::unit_of(kind) : std::string("ohm")),
            kind != Kind::temperature);
    return wanting ? found_wanting : done;
}

} // namespace

void add_divider(Command* size, Chosen& chosen) {
    auto options = std::make_shared<DividerOptions>();
    Command* command = size->add_subcommand(
        "divider", "The resistor that makes the most of a resistive sensor.\n"
                   "Example: zorilla size divider --thermistor \"10 kohm\" \"3950 K\" --from \"0 "
                   "degC\" --to \"40 degC\"");
    command
        ->add_option("--from", options->from,
                     "One end of what is to be measured: a resistance, or a value of the sensor "
                     "named below.")
        ->required()
        ->type_name("VALUE");
    command->add_option("--to", options->to, "The other end.")->required()->type_name("VALUE");
    command
        ->add_option("--at", options->at,
                     "Look for the finest resolution here, instead of the widest span.")
        ->type_name("VALUE");
    command
        ->add_option("--have", options->have,
                     "A resistor that you have, to compare with; may be given several times.")
        ->type_name("RESISTANCE");
    command
        ->add_option("--thermistor", options->thermistor,
                     "The sensor: its resistance at 25 degC and its Beta.")
        ->expected(2)
        ->type_name("OHMS BETA");
    command
        ->add_option("--photoresistor", options->photoresistor,
                     "The sensor: its resistance, the light that it has it at, and its gamma.")
        ->expected(3)
        ->type_name("OHMS LIGHT GAMMA");
    command->add_option("--supply", options->supply, "The divider's supply.")
        ->type_name("VOLTAGE")
        ->capture_default_str();
    command->add_option("--bits", options->bits, "The converter's bits.")
        ->between(8, 16)
        ->capture_default_str();
    add_series(command, options->series)->capture_default_str();
    command
        ->add_option("--pull", options->side,
                     "Where the resistor goes: up, to the supply, or down, to ground.")
        ->one_of({"up", "down"})
        ->capture_default_str();
    command
        ->add_option("--loses", options->loses,
                     "How much power the sensor gives off for each degree that it is warmer than "
                     "its surroundings. A small bead in still air: about 2 mW/K.")
        ->type_name("MW/K")
        ->capture_default_str();
    command->add_option("--figure", options->figure, "Draw the codes of the best three here.")
        ->type_name("FILE.png|.svg");
    command->callback([options, &chosen] {
        chosen = [options](Page& page) { return size_divider(*options, page); };
    });
}

} // namespace zorilla::cli
