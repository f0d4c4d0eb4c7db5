// SPDX-License-Identifier: MIT
// size led: the resistor of an LED.
#include "bench/sizing.hpp"
#include "cli/command.hpp"
#include "cli/quantities.hpp"
#include "cli/size.hpp"
#include "rig/text/files.hpp"
#include "rig/text/text.hpp"

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
    task.series = series_of(options.series);
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

} // namespace

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

} // namespace zorilla::cli
