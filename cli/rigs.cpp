// SPDX-License-Identifier: MIT
// check, run and demo: what is done with a rig.
#include "bench/diagram.hpp"
#include "bench/figure/figure.hpp"
#include "bench/replay.hpp"
#include "bench/scxml.hpp"
#include "bench/table.hpp"
#include "bench/why.hpp"
#include "bench/world/place.hpp"
#include "bench/world/trying.hpp"
#include "cli/command.hpp"
#include "cli/demo_live.hpp"
#include "cli/thinner.hpp"
#include "cli/verdicts.hpp"
#include "demo_rig.hpp"
#include "rig/text/files.hpp"
#include "rig/text/text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <filesystem>
#include <optional>

namespace zorilla::cli {

rig::Rig usable_rig(const std::string& path) {
    rig::RigFile file = rig::load_rig(path);
    if (!file.mistakes.empty()) {
        print_mistakes(path, file.mistakes);
        throw rig::InputError(fmt::format("{}: mend the mistakes above first", path));
    }
    return std::move(file.rig);
}

void tell_repeated_echoes(const std::string& path, const rig::Rig& rig, int64_t pass) {
    const int64_t round = rig.round_of_pings();
    const int64_t times = (round + pass - 1) / pass;
    for (const rig::Sense& sense : rig.senses) {
        if (times < 2 || sense.median == 0)
            continue;
        const int64_t wide = (sense.median * times) | 1; // an odd number
        message(
            fmt::format("{}: {} hears an echo every {} at most, so with a pass every {} its "
                        "median of {} takes the same echo up to {} times; take --pass \"{}\" or "
                        "longer{}",
                        path, sense.name, rig::span_to_text(round), rig::span_to_text(pass),
                        sense.median, times, rig::span_to_text(round),
                        wide <= 15 ? fmt::format(", or write median = {}", wide) : ""));
    }
}

namespace {

struct RunOptions {
    std::string rig;
    std::string trace;
    std::string csv;
    std::string figure;
    std::string why;
    std::vector<std::string> only;
    std::string every;
};

/// The way from the samples to one output at one moment.
Status why(const RunOptions& options, const rig::Rig& rig, bench::TraceReader& trace, Page& page) {
    const bench::Question question = bench::parse_question(options.why, rig);
    const std::vector<std::string> sentences = bench::explain_why(rig, trace, question);
    if (sentences.empty())
        throw rig::InputError(fmt::format("{}: ends before {}", options.trace,
                                          rig::time_to_text(question.milliseconds)));
    page.line(page.bold(sentences.front()));
    for (size_t i = 1; i < sentences.size(); ++i)
        page.line(sentences[i]);
    page.finish();
    return done;
}

Status run(const RunOptions& options, Page& page) {
    const rig::Rig rig = usable_rig(options.rig);
    const rig::ShownUnits shown(rig.show);
    Complaints complaints(options.trace);
    bench::TraceReader trace(options.trace, bench::columns_of(rig), std::ref(complaints));
    for (const std::string& name : trace.absent())
        message(fmt::format("{0}: has no column \"{1}\"; {1} will be missing all the time",
                            options.trace, name));
    for (const std::string& name : trace.unused())
        message(fmt::format("{}: the column \"{}\" belongs to no sensor of the rig and is not "
                            "used",
                            options.trace, name));

    if (trace.has_outputs() && rig.report != Duration{})
        message(fmt::format("{}: the device reports each {} and decides between as well, which no "
                            "row tells: what is said here is what the rig would do if it passed "
                            "with each row, and the device's outputs are not compared",
                            options.trace, rig::span_to_text(rig.report.thousandths())));

    if (!options.why.empty())
        return why(options, rig, trace, page);

    std::optional<bench::TableWriter> table;
    if (!options.csv.empty())
        table.emplace(options.csv, rig);
    std::optional<bench::Figure> figure;
    if (!options.figure.empty())
        figure.emplace(options.figure, rig);
    std::function<void(int64_t, const rig::RunningRig&)> on_row;
    bench::Judge judge(rig);
    const bool judges = !rig.promises.empty() || !rig.nevers.empty();
    if (table || figure)
        on_row = [&](int64_t now, const rig::RunningRig& running) {
            if (table)
                table->add(now, running);
            if (figure)
                figure->add(now, running);
        };

    const std::string file_name = std::filesystem::path(options.trace).filename().string();
    page.line(page.bold(fmt::format("{} on {}", rig.name, file_name)));
    Thinner thinner(options.only, options.every, rig);
    const bench::Summary summary = bench::replay(
        rig, trace,
        [&](bench::Event event) {
            if (thinner.tells(event))
                print_event(page, rig, event);
        },
        on_row, judges ? &judge : nullptr);
    complaints.finish();
    if (summary.rows == 0)
        throw rig::InputError(fmt::format("{}: there is no row after the header", options.trace));
    page.line();
    page.line(page.bold("In all"));
    print_summary(page, rig, summary, trace.bad_lines());
    for (const rig::Sense& sense : rig.senses) {
        const int64_t highest = summary.sources[sense.source].highest_code;
        const int64_t plain = sense.largest_raw >> sense.extra_bits;
        if (sense.extra_bits != 0 && highest >= 0 && highest <= plain)
            message(fmt::format(
                "{}: no code of {} is above {}, and with extra_bits = {} they go up "
                "to {}: was it recorded without?",
                options.trace, sense.name, rig::count_to_text(static_cast<uint64_t>(plain)),
                sense.extra_bits, rig::count_to_text(static_cast<uint64_t>(sense.largest_raw))));
    }
    bool kept = true;
    if (judges) {
        page.line();
        page.line(page.bold("Promises, by what was read"));
        kept = print_verdicts(page, judge.verdicts());
    }
    page.finish();
    if (table)
        table->commit();
    if (figure)
        figure->write(fmt::format("{} on {}", rig.name, file_name));
    if (summary.device.different > 0)
        message(
            fmt::format("{}: the device has done otherwise than {} says: it has another program or "
                        "other settings, rows are missing, it was off in between, or the first "
                        "row is not that of its first pass. What would have come of other outputs "
                        "no trace can tell; "
                        "zorilla try can",
                        options.trace, options.rig));
    return complaints.any() || summary.device.different > 0 || !kept ? found_wanting : done;
}

Status demo(const std::string& directory, Page& page) {
    std::error_code failed;
    std::filesystem::create_directories(directory, failed);
    if (failed)
        throw rig::InputError(fmt::format("{}: cannot be made: {}", directory, failed.message()));
    const RunOptions files{directory + "/hen_house.toml",
                           directory + "/winter.csv",
                           "",
                           directory + "/winter.png",
                           "",
                           {},
                           ""};
    const std::string world_path = directory + "/winter.toml";
    const rig::RigFile rig = rig::parse_rig(demo_rig);
    bench::AroundPlan plan;
    plan.every = 5000;
    const bench::WorldPlace house(rig.rig, bench::parse_world(demo_world), plan);
    bool kept = false;
    for (const auto& [path, text] :
         {std::pair(files.rig, std::string(demo_rig)),
          std::pair(world_path, std::string(demo_world)),
          std::pair(files.trace, bench::trace_of_world(house.wiring(), plan, 3 * 86'400'000))}) {
        std::error_code ignored;
        if (!std::filesystem::exists(path, ignored)) {
            write_file(path, text);
        } else if (rig::read_file(path) != text) {
            message(fmt::format("{}: was changed, and is kept as it is; for a fresh copy take it "
                                "away, or choose another folder with --out",
                                path));
            kept = true;
        }
    }
    if (kept)
        message("");

    for (const char* line : {
             "A hen house in winter, three days, made up. Five sensors and two buttons move a heat "
             "lamp, "
             "a water",
             "valve, a dusk lamp, a ventilator, a buzzer and a status light. On the second morning "
             "somebody leaves",
             "the door open, and at eleven presses the air button; that afternoon a hen perches on "
             "the "
             "water barrel;",
             "in the third night the roost sensor's wire is off until three, and the alarm is "
             "hushed at "
             "half past",
             "eight; that afternoon the humidity sensor's plug is loose.",
         })
        page.line(line);
    page.line();
    const Status status = run(files, page);
    const std::string diagram = directory + "/watch.png";
    bench::draw_diagram(diagram, bench::dot_of(rig.rig, rig.rig.machines.front()));
    page.line();
    page.line(page.bold("Yours to try"));
    page.line(fmt::format("  rig     {}", files.rig));
    page.line(fmt::format("  world   {}", world_path));
    page.line(fmt::format("  trace   {}", files.trace));
    page.line(fmt::format("  figure  {}", files.figure));
    page.line(fmt::format("  machine {}", diagram));
    page.line();
    page.line("Ask for the whole way from the samples to a pin:");
    page.line(fmt::format("  zorilla run {} --trace {} --why \"ventilator@1d 11:05\"", files.rig,
                          files.trace));
    page.line(
        "Change \"release\" of [decide.cold] in the rig file to \"4.3 degC\", and let it live "
        "through those days anew:");
    page.line(fmt::format("  zorilla check {}", files.rig));
    page.line(fmt::format("  zorilla try {} --world {} --summary", files.rig, world_path));
    page.finish();
    return status;
}

} // namespace

void add_run(Command& app, Chosen& chosen) {
    auto options = std::make_shared<RunOptions>();
    Command* command = app.add_subcommand(
        "run", "Play a recorded trace through a rig and tell what it does, when and why.\n"
               "Example: zorilla run heat_lamp.toml --trace winter.csv --figure winter.png");
    command->add_option("RIG", options->rig, "The rig file.")->required();
    command
        ->add_option("--trace", options->trace,
                     "The recorded samples: CSV with a header such as \"time (s),roost (code)\".")
        ->required()
        ->type_name("FILE.csv");
    command
        ->add_option("--csv", options->csv,
                     "Write readings, decisions and outputs of every sample here.")
        ->type_name("FILE.csv");
    command->add_option("--figure", options->figure, "Draw readings, thresholds and outputs here.")
        ->type_name("FILE.png|.svg");
    command
        ->add_option(
            "--why", options->why,
            "Only tell why an output, a decision, a machine or a sensor was as it was at a "
            "time, all the way down to the samples: --why \"ventilator@1d 11:05\".")
        ->type_name("NAME@TIME");
    command->add_option("--only", options->only, "Tell the events of these parts only.")
        ->delimiter(',')
        ->type_name("NAME,...");
    command
        ->add_option(
            "--every", options->every,
            "Tell of each part at most one event in this time, and how many more there were.")
        ->type_name("TIME");
    command->callback(
        [options, &chosen] { chosen = [options](Page& page) { return run(*options, page); }; });
}

void add_demo(Command& app, Chosen& chosen) {
    struct Options {
        std::string directory = "zorilla-demo", page = "8377";
        bool live = false;
    };
    auto options = std::make_shared<Options>();
    Command* command = app.add_subcommand(
        "demo", "Run a made-up hen house through three winter days, and leave its files to play "
                "with.\nExample: zorilla demo");
    command
        ->add_option("--out", options->directory,
                     "Where to put the rig file, the trace and the figure.")
        ->type_name("DIRECTORY")
        ->capture_default_str();
    command->add_flag("--live", options->live,
                      "Watch such a house while it runs, ten times as fast as life, with a page in "
                      "the browser and a week of history; Ctrl-C ends it.");
    command->add_option("--page", options->page, "Where the page of --live is.")
        ->type_name("[ADDRESS:]PORT")
        ->capture_default_str();
    command->callback([options, &chosen] {
        chosen = [options](Page& page) {
            return options->live ? demo_live(options->directory, options->page, page)
                                 : demo(options->directory, page);
        };
    });
}

} // namespace zorilla::cli
