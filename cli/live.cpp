// SPDX-License-Identifier: MIT
// live: watches running devices with their reasons.
#include "cli/command.hpp"
#include "cli/watching.hpp"
#include "rig/text/files.hpp"

namespace zorilla::cli {

namespace {

Status live(WatchPlan plan, const std::vector<std::string>& more, Page& page) {
    if (more.size() % 2 != 0)
        throw rig::InputError(more.back() +
                              ": say which port it is at, behind it: RIG PORT RIG PORT");
    for (size_t i = 0; i < more.size(); i += 2)
        plan.devices.push_back({more[i], more[i + 1]});
    const bool several = plan.devices.size() > 1;
    const auto of_one = [several](const char* option, bool given) {
        if (several && given)
            throw rig::InputError(std::string(option) +
                                  ": is of one device; watch it alone, or leave that away");
    };
    of_one("--save", !plan.save.empty());
    of_one("--say", !plan.say.empty());
    for (const WatchPlan::Place& place : plan.devices) {
        of_one("-", place.port == "-");
        if (!plan.say.empty() && place.port == "-")
            throw rig::InputError(
                "--say: standard input brings lines, and takes none; give the port");
    }
    if (!plan.page_phrase.empty() && plan.page.empty())
        throw rig::InputError(
            "--page-phrase: is for --page; say where that is to be, such as --page 8080");
    return watch(plan, page);
}

} // namespace

void add_live(Command& app, Chosen& chosen) {
    auto options = std::make_shared<WatchPlan>();
    auto more = std::make_shared<std::vector<std::string>>();
    options->devices.resize(1);
    Command* command = app.add_subcommand(
        "live", "Watch a running device: its readings, decisions and outputs, with reasons, since "
                "the same rig runs beside it.\n"
                "Example: zorilla live hen_house.toml /dev/ttyUSB0");
    command->add_option("RIG", options->devices[0].rig, "The rig file that the device was made of.")
        ->required();
    command
        ->add_option("PORT", options->devices[0].port,
                     "The serial port, the stand-in of zorilla device, a recorded file, or - for "
                     "standard input.")
        ->required();
    command->add_option("MORE", *more, "Further devices: rig file and port of each.")
        ->type_name("RIG PORT");
    command->add_option("--baud", options->baud, "The speed of the line.")
        ->between(300, 4'000'000)
        ->capture_default_str();
    command
        ->add_option("--pace", options->pace,
                     "Of a recorded file instead of a port: so many times as fast as it was; "
                     "without it, at once.")
        ->between(0.001, 1e6);
    command->add_option("--save", options->save, "Save what the device sends here, as it comes.")
        ->type_name("FILE.csv");
    command
        ->add_option("--history", options->history,
                     "Keep all of it here, for zorilla history; several devices may share a file.")
        ->type_name("FILE.db");
    command
        ->add_option("--keep-days", options->keep_days,
                     "For how many days each row is kept; minutes and events are for ever.")
        ->between(1, 36'500)
        ->capture_default_str();
    command
        ->add_option(
            "--began", options->began,
            "When the device's clock began, in UTC, if that clock is to be taken as right: "
            "for what was recorded.")
        ->type_name("TIME");
    command
        ->add_option(
            "--page", options->page,
            "Show it in a browser, at this port of this machine; at an address of its own, "
            "such as 0.0.0.0:8080, others can see it too, and need a pass phrase.")
        ->type_name("[ADDRESS:]PORT");
    command
        ->add_option("--page-phrase", options->page_phrase,
                     "A file whose first line is the page's pass phrase, instead of being asked.")
        ->type_name("FILE");
    command
        ->add_option("--broker", options->broker,
                     "Tell an MQTT broker each reading, decision and output as it changes.")
        ->type_name("HOST[:PORT]");
    command->add_option("--broker-user", options->broker_user, "Who we are there.")
        ->type_name("NAME");
    command
        ->add_option("--broker-password", options->broker_password,
                     "A file whose first line is the password.")
        ->type_name("FILE");
    command
        ->add_option("--broker-ca", options->broker_ca,
                     "Go there by TLS, and check its certificate by those in this file.")
        ->type_name("FILE");
    command->add_flag("--let-broker-command", options->let_broker_command,
                      "Take commands from there, on topics that end with /set.");
    command
        ->add_option("--say", options->say,
                     "A command for the device, such as \"set boost 40 for 10 min\"; several one "
                     "after the other.")
        ->repeatable()
        ->type_name("COMMAND");
    command->add_option("--for", options->duration, "End after this time.")->type_name("DURATION");
    command->callback([options, more, &chosen] {
        chosen = [options, more](Page& page) { return live(*options, *more, page); };
    });
}

} // namespace zorilla::cli
