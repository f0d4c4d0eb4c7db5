// SPDX-License-Identifier: MIT
// size load: what a load needs.
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
using bench::LoadKind;
using bench::LoadWay;
using bench::ohms_text;
using rig::InputError;
using rig::Kind;

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

} // namespace

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

} // namespace zorilla::cli
