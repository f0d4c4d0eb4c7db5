// SPDX-License-Identifier: MIT
// device: the stand-in for a board.
#include "bench/live/serving.hpp"
#include "bench/stand_in.hpp"
#include "bench/world/place.hpp"
#include "cli/command.hpp"
#include "cli/signals.hpp"
#include "rig/text/files.hpp"
#include "rig/text/text.hpp"

#ifdef ZORILLA_REHEARSES
#include "bench/rehearse/board.hpp"
#endif

#include <fmt/format.h>

#include <chrono>
#include <optional>
#include <thread>
#include <utility>

namespace zorilla::cli {

namespace {

struct DeviceOptions {
    std::string source;
    std::vector<std::string> values;
    std::string link;
    std::string every = "100 ms";
    std::string form = "table";
    std::string trace, in;
    std::string on;
    std::string pass = "1 s";
    uint64_t seed = 1;
    double pace = 1;
    bool clock = false;
    bool once = false;
};

void rest() { std::this_thread::sleep_for(std::chrono::milliseconds(10)); }

/// A board whose chip runs what is uploaded, with a model on one of its pins.
Status board(const DeviceOptions& options, bench::StandIn& stand_in) {
#ifdef ZORILLA_REHEARSES
    bench::BoardPins pins;
    bench::Script script;
    pins.codes[static_cast<uint8_t>(options.on.back() - '0')] = [&, begun = SIZE_MAX](
                                                                    size_t turn) mutable {
        // Each reader finds the same, however long the one before has stayed.
        if (std::exchange(begun, turn) != turn)
            script = bench::held(options.source, options.values[turn % options.values.size()], 10);
        bench::Script::Line line;
        script.next(line);
        return static_cast<uint16_t>(std::stoi(line.values.front()));
    };
    bench::Board board(stand_in, pins);
    while (!asked_to_end()) {
        if (!stand_in.is_read_by_another())
            rest();
        else if (board.serve(options.pace, asked_to_end) && options.once)
            break;
    }
    return done;
#else
    (void)options, (void)stand_in;
    return bad_input; // which check_pin has told
#endif
}

void check_pin(const DeviceOptions& options) {
#ifndef ZORILLA_REHEARSES
    throw rig::InputError("--on: this tool was built without an emulated chip; install "
                          "libsimavr-dev and libelf-dev (apt-get install libsimavr-dev libelf-dev) "
                          "and build it anew");
#endif
    if (options.on.size() != 4 || options.on.rfind("ADC", 0) != 0 || options.on[3] < '0' ||
        options.on[3] > '7')
        throw rig::InputError(fmt::format("--on: \"{}\" is no pin of the converter; write ADC0 to "
                                          "ADC7",
                                          options.on));
    if (options.values.empty())
        throw rig::InputError(
            "--on: say what the sensor is held at, such as --values \"0 degC\"; a "
            "recorded file is put on pins by zorilla rehearse");
}

Status device(const DeviceOptions& options, Page& page) {
    const auto every = static_cast<double>(time_option("--every", options.every, "100 ms"));
    // What cannot be played is told before anybody waits for it.
    const bool is_rig = options.source.size() > 5 &&
                        options.source.compare(options.source.size() - 5, 5, ".toml") == 0;
    if (is_rig && options.trace.empty() == options.in.empty())
        throw rig::InputError(fmt::format("{}: say what it reads, either --trace winter.csv or "
                                          "--in world.toml",
                                          options.source));
    if (!is_rig && !(options.trace.empty() && options.in.empty()))
        throw rig::InputError("--trace, --in: are of a rig file's device; leave them away, or name "
                              "a rig file, which ends with .toml");
    if (is_rig) {
        const rig::Rig rig = usable_rig(options.source);
        bench::AroundPlan plan;
        plan.every = time_option("--pass", options.pass, "1 s");
        plan.seed = options.seed;
        const std::unique_ptr<bench::Surroundings> around =
            options.in.empty()
                ? bench::trace_around(rig, options.trace)
                : std::make_unique<bench::WorldPlace>(rig, usable_world(options.in), plan);
        bench::StandIn stand_in(options.link);
        page.line(fmt::format("Watching it: zorilla live {} {}", options.source, stand_in.path()));
        page.finish();
        end_on_signals();
        while (!asked_to_end()) {
            if (!stand_in.is_read_by_another()) {
                rest();
                continue;
            }
            bench::serve(rig, stand_in, *around, options.pace, asked_to_end);
            if (options.once)
                break;
        }
        return done;
    }
    if (!options.on.empty())
        check_pin(options);
    if (options.values.empty())
        bench::recorded(options.source);
    for (const std::string& value : options.values)
        bench::held(options.source, value, every);
    bench::StandIn stand_in(options.link);
    page.line(options.on.empty()
                  ? fmt::format("Reading it: zorilla capture {} --out FILE.csv", stand_in.path())
                  : fmt::format("A board with an empty chip, {} on {}; a program for it: zorilla "
                                "upload FILE --port {}",
                                options.source, options.on, stand_in.path()));
    page.finish();
    end_on_signals();
    if (!options.on.empty())
        return board(options, stand_in);
    const bench::PrintedForm form = options.form == "table"   ? bench::PrintedForm::table
                                    : options.form == "plain" ? bench::PrintedForm::plain
                                                              : bench::PrintedForm::pairs;
    size_t turn = 0;
    while (!asked_to_end()) {
        if (!stand_in.is_read_by_another()) {
            rest();
            continue;
        }
        stand_in.print(
            options.values.empty()
                ? bench::recorded(options.source)
                : bench::held(options.source, options.values[turn % options.values.size()], every),
            form, options.pace, options.clock, asked_to_end);
        while (stand_in.is_read() && !stand_in.is_read_by_another() && !asked_to_end())
            rest();
        ++turn;
        if (options.once || (!options.values.empty() && turn == options.values.size()))
            break;
    }
    return done;
}

} // namespace

void add_device(Command& app, Chosen& chosen) {
    auto options = std::make_shared<DeviceOptions>();
    Command* command = app.add_subcommand(
        "device",
        "Stand in for a board: print readings on a pseudo-terminal, for zorilla capture.\n"
        "Example: zorilla device thermistor --values \"0 degC,21 degC\" --link board");
    command
        ->add_option("SOURCE", options->source,
                     "A recorded CSV file, one of the models thermistor and photoresistor, or a "
                     "rig file: then its device runs, and obeys what it is told.")
        ->required();
    command
        ->add_option("--values", options->values,
                     "What a model is held at: the first for who reads it first, the next for the "
                     "next.")
        ->delimiter(',')
        ->type_name("VALUE,...");
    command
        ->add_option("--trace", options->trace, "What the device of a rig file reads on its pins.")
        ->type_name("FILE.csv");
    command
        ->add_option("--in", options->in,
                     "A world file: the surroundings in which the device of a rig file stands, so "
                     "that its outputs act on what it reads.")
        ->type_name("WORLD");
    command->add_option("--pass", options->pass, "With --in: the time from pass to pass.")
        ->type_name("TIME")
        ->capture_default_str();
    command->add_option("--seed", options->seed, "With --in: other weather and other noise.")
        ->between(0, 1e15)
        ->capture_default_str();
    command->add_option("--link", options->link, "A name of its own for the pseudo-terminal.")
        ->type_name("PATH");
    command->add_option("--every", options->every, "The time from line to line of a model.")
        ->type_name("DURATION")
        ->capture_default_str();
    command
        ->add_option("--pace", options->pace,
                     "So many times as fast as it really is; 0 for as fast as it is read.")
        ->between(0, 1e9)
        ->capture_default_str();
    command
        ->add_option("--form", options->form,
                     "How lines look: table (a header, then numbers), plain (numbers), pairs "
                     "(name=value).")
        ->one_of({"table", "plain", "pairs"})
        ->capture_default_str();
    command->add_flag("--clock", options->clock, "Print the device's own time with each line.");
    command
        ->add_option("--on", options->on,
                     "Stand in for a whole board: an emulated ATmega328P with a boot loader, and "
                     "the model on this pin, such as ADC0. It runs what zorilla upload brings.")
        ->type_name("PIN");
    command->add_flag("--once", options->once, "End when the first reader has left.");
    command->callback(
        [options, &chosen] { chosen = [options](Page& page) { return device(*options, page); }; });
}

} // namespace zorilla::cli
