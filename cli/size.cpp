// SPDX-License-Identifier: MIT
// size: which standard parts to take.
#include "bench/sizing.hpp"
#include "cli/command.hpp"
#include "cli/quantities.hpp"
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
using bench::LoadKind;
using bench::LoadWay;
using bench::ohms_text;
using bench::Series;
using bench::watts_text;
using rig::InputError;
using rig::Kind;

const std::map<std::string, Series> series_names = {
    {"E12", Series::e12}, {"E24", Series::e24}, {"E96", Series::e96}};

Option* add_series(Command* command, std::string& series) {
    return command
        ->add_option("--series", series,
                     "The series of preferred values that you have: E12, E24 or E96.")
        ->one_of({"E12", "E24", "E96"})
        ->type_name("SERIES");
}

// --- Divider

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
    task.series = series_names.at(options.series);
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

// --- LED

struct LedOptions {
    std::string supply = "5 V";
    std::string forward, colour;
    std::string current = "10 mA";
    std::string pin_limit = "20 mA";
    std::string series = "E12";
};

/// Usual forward voltages at 10 to 20 mA, by the semiconductor that makes the colour.
const std::map<std::string, double> colour_volts = {
    {"infrared", 1.3}, {"red", 1.9},  {"orange", 2.0}, {"yellow", 2.1},
    {"green", 2.2},    {"blue", 3.1}, {"white", 3.1},
};

Status size_led(const LedOptions& options, Page& page) {
    bench::LedTask task;
    task.supply = above_zero("--supply", options.supply, Kind::voltage, "5 V");
    if (options.forward.empty() == options.colour.empty())
        throw InputError("give either --forward, the LED's voltage by its data sheet, or --colour; "
                         "for example --colour red");
    task.forward = options.forward.empty()
                       ? colour_volts.at(options.colour)
                       : above_zero("--forward", options.forward, Kind::voltage, "2 V");
    task.amperes = above_zero("--current", options.current, Kind::current, "10 mA");
    task.pin_limit = above_zero("--pin-limit", options.pin_limit, Kind::current, "20 mA");
    task.series = series_names.at(options.series);
    const bench::LedResult led = bench::size_led(task);
    page.line(
        page.bold(fmt::format("LED of {:.3g} V{} on {:.3g} V, {}", task.forward,
                              options.colour.empty() ? "" : fmt::format(" ({})", options.colour),
                              task.supply, amperes_text(task.amperes))));
    if (!led.lights) {
        page.line(fmt::format("  It does not light: it needs more than {:.3g} V. Take a higher "
                              "supply, or an LED of another colour.",
                              task.forward));
        page.finish();
        return found_wanting;
    }
    page.line(fmt::format(
        "  resistor    {}: ({:.3g} V - {:.3g} V) / {} is {}, and the next larger "
        "value of E{} keeps the current below what was asked",
        ohms_text(led.ohms), task.supply, task.forward, amperes_text(task.amperes),
        ohms_text((task.supply - task.forward) / task.amperes), static_cast<int>(task.series)));
    page.line(fmt::format("  current     {}", amperes_text(led.amperes)));
    page.line(fmt::format(
        "  heat        {} in the resistor: {}", watts_text(led.resistor_watts),
        led.resistor_watts <= 0.125
            ? "any resistor bears that"
            : fmt::format("take one that bears at least {}", watts_text(2 * led.resistor_watts))));
    page.line(fmt::format("  pin         {:.0f} % of the {} that the pin may carry: {}",
                          100 * led.amperes / task.pin_limit, amperes_text(task.pin_limit),
                          led.pin_bears_it
                              ? "it may hang on the pin itself"
                              : "too much; ask for less current, or put a transistor between: see "
                                "zorilla size load --kind lamp"));
    if (!led.settled)
        page.line(page.warning(
            fmt::format("  Only {:.2g} V are left for the resistor: LEDs differ by 0.2 V or so, "
                        "and the current "
                        "will differ by as much as a third; a higher supply sets it better.",
                        task.supply - task.forward)));
    page.finish();
    return led.pin_bears_it && led.settled ? done : found_wanting;
}

void add_led(Command* size, Chosen& chosen) {
    auto options = std::make_shared<LedOptions>();
    Command* command =
        size->add_subcommand("led", "The resistor of an LED, and whether the pin bears it.\n"
                                    "Example: zorilla size led --colour red --current \"10 mA\"");
    std::vector<std::string> colours;
    for (const auto& [name, volts] : colour_volts)
        colours.push_back(name);
    command->add_option("--supply", options->supply, "What it is fed from: the pin's high level.")
        ->type_name("VOLTAGE")
        ->capture_default_str();
    command->add_option("--forward", options->forward, "Its forward voltage by the data sheet.")
        ->type_name("VOLTAGE");
    command
        ->add_option("--colour", options->colour,
                     "Its colour, for the usual forward voltage of such LEDs.")
        ->one_of(colours);
    command->add_option("--current", options->current, "The current that is wanted.")
        ->type_name("CURRENT")
        ->capture_default_str();
    command
        ->add_option(
            "--pin-limit", options->pin_limit,
            "What the pin may carry. The ATmega328P's data sheet vouches for its levels up "
            "to 20 mA; 40 mA destroy it.")
        ->type_name("CURRENT")
        ->capture_default_str();
    add_series(command, options->series)->capture_default_str();
    command->callback([options, &chosen] {
        chosen = [options](Page& page) { return size_led(*options, page); };
    });
}

// --- Load

struct LoadOptions {
    std::string kind;
    std::string current, coil;
    std::string supply = "5 V", pin_voltage = "5 V", pin_limit = "20 mA";
    std::string contact, switched, switched_kind;
};

const std::map<std::string, LoadKind> load_names = {
    {"relay", LoadKind::relay},   {"solenoid", LoadKind::solenoid}, {"motor", LoadKind::motor},
    {"buzzer", LoadKind::buzzer}, {"lamp", LoadKind::lamp},         {"heater", LoadKind::heater}};

std::vector<std::string> load_words() {
    std::vector<std::string> out;
    for (const auto& [name, kind] : load_names)
        out.push_back(name);
    return out;
}

/// What the relay's own contact bears.
bool print_contact(Page& page, const LoadOptions& options) {
    if (options.contact.empty() || options.switched.empty() || options.switched_kind.empty())
        throw InputError("a contact needs all three: --contact, what is printed on it; --switched, "
                         "the current that it switches; --switched-kind, such as motor");
    const double printed = above_zero("--contact", options.contact, Kind::current, "10 A");
    const double switched = above_zero("--switched", options.switched, Kind::current, "2 A");
    const double share = bench::contact_share(load_names.at(options.switched_kind));
    const bool bears = switched <= share * printed;
    page.line(fmt::format(
        "  contact     {}: of the {} that are printed on it, a {} leaves {:.0f} %, {}, for a long "
        "life{}",
        bears ? "it bears that" : "not this one", amperes_text(printed), options.switched_kind,
        100 * share, amperes_text(share * printed),
        bears ? "" : fmt::format("; take one of at least {}", amperes_text(switched / share))));
    return bears;
}

Status size_load(const LoadOptions& options, Page& page) {
    bench::LoadTask task;
    task.kind = load_names.at(options.kind);
    task.supply = above_zero("--supply", options.supply, Kind::voltage, "5 V");
    if (options.current.empty() == options.coil.empty())
        throw InputError("give either --current, what it draws, or --coil, the resistance of its "
                         "coil; for example --current \"80 mA\"");
    task.amperes =
        options.coil.empty()
            ? above_zero("--current", options.current, Kind::current, "80 mA")
            : task.supply / above_zero("--coil", options.coil, Kind::resistance, "70 ohm");
    task.pin_voltage = above_zero("--pin-voltage", options.pin_voltage, Kind::voltage, "5 V");
    task.pin_limit = above_zero("--pin-limit", options.pin_limit, Kind::current, "20 mA");
    const bench::LoadResult load = bench::size_load(task);
    page.line(page.bold(fmt::format(
        "{} of {} on {:.3g} V, {}", options.kind, amperes_text(task.amperes), task.supply,
        load.way == LoadWay::pin          ? "on the pin itself"
        : load.way == LoadWay::transistor ? "behind a transistor"
                                          : "behind a MOSFET or a driver")));
    page.line(fmt::format("  pin         {:.0f} % of the {} that it may carry",
                          100 * task.amperes / task.pin_limit, amperes_text(task.pin_limit)));
    switch (load.way) {
    case LoadWay::pin:
        page.line(
            "  transistor  none: the pin bears it, and it makes no voltage of its own when it "
            "is switched off");
        break;
    case LoadWay::transistor:
        page.line(
            fmt::format("  transistor  an NPN of at least {}, emitter to ground, because {}",
                        amperes_text(2 * task.amperes),
                        task.amperes > task.pin_limit ? "the pin cannot carry the load's current"
                        : task.supply > task.pin_voltage
                            ? "the load's supply is above the pin's voltage"
                            : "a coil's kick when it is switched off must not reach the pin"));
        page.line(fmt::format("  base        {}: it lets {} into the base, a twentieth of the load "
                              "or a little more, so that the transistor is fully on",
                              ohms_text(load.base_ohms), amperes_text(load.base_amperes)));
        break;
    case LoadWay::mosfet:
        page.line(fmt::format(
            "  transistor  an N-channel MOSFET that is fully on at {:.3g} V, for at least {}, "
            "because {}",
            task.pin_voltage, amperes_text(2 * task.amperes),
            task.amperes > 0.5 ? "a small transistor is not made for more than half an ampere"
                               : "the base of an NPN would take more than the pin may carry"));
        page.line(
            "  gate        100 ohm from the pin, which slows its edge a little, and 100 kohm to "
            "ground, which keeps it off while the chip starts");
        break;
    }
    page.line(
        load.diode
            ? fmt::format("  diode       across the load, its ring to the plus, for at least {} "
                          "and {:.3g} V: it takes the coil's kick when it is switched off",
                          amperes_text(load.diode_amperes), load.diode_volts)
            : "  diode       none: there is no coil");
    bool bears = true;
    if (!options.contact.empty() || !options.switched.empty() || !options.switched_kind.empty()) {
        if (task.kind != LoadKind::relay)
            throw InputError("--contact, --switched and --switched-kind belong to --kind relay");
        bears = print_contact(page, options);
    }
    page.finish();
    return bears ? done : found_wanting;
}

void add_load(Command* size, Chosen& chosen) {
    auto options = std::make_shared<LoadOptions>();
    Command* command = size->add_subcommand(
        "load", "Whether a load needs a transistor and a diode, and whether a contact bears it.\n"
                "Example: zorilla size load --kind relay --coil \"70 ohm\" --contact \"10 A\" "
                "--switched \"1 A\" --switched-kind motor");
    command->add_option("--kind", options->kind, "What it is.")->required()->one_of(load_words());
    command->add_option("--current", options->current, "The current that it draws.")
        ->type_name("CURRENT");
    command->add_option("--coil", options->coil, "Or the resistance of its coil.")
        ->type_name("RESISTANCE");
    command->add_option("--supply", options->supply, "The load's own supply.")
        ->type_name("VOLTAGE")
        ->capture_default_str();
    command->add_option("--pin-voltage", options->pin_voltage, "The pin's voltage when it is high.")
        ->type_name("VOLTAGE")
        ->capture_default_str();
    command->add_option("--pin-limit", options->pin_limit, "What the pin may carry.")
        ->type_name("CURRENT")
        ->capture_default_str();
    command->add_option("--contact", options->contact, "What is printed on the relay's contact.")
        ->type_name("CURRENT");
    command->add_option("--switched", options->switched, "What the contact switches.")
        ->type_name("CURRENT");
    command->add_option("--switched-kind", options->switched_kind, "What hangs on the contact.")
        ->one_of(load_words());
    command->callback([options, &chosen] {
        chosen = [options](Page& page) { return size_load(*options, page); };
    });
}

} // namespace

void add_size(Command& app, Chosen& chosen) {
    Command* size = app.add_subcommand(
        "size", "Which standard parts to take: a divider's resistor, an LED's, what a load needs.\n"
                "Example: zorilla size led --colour red");
    size->require_subcommand();
    add_divider(size, chosen);
    add_led(size, chosen);
    add_load(size, chosen);
}

} // namespace zorilla::cli
