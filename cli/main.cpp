// SPDX-License-Identifier: MIT
// The command-line tool: arguments in, text out. All work is done in bench/ and rig/.
#include "bench/figure.hpp"
#include "bench/hen_house.hpp"
#include "bench/replay.hpp"
#include "bench/table.hpp"
#include "cli/page.hpp"
#include "demo_rig.hpp"
#include "rig/files.hpp"
#include "rig/text.hpp"

#include <CLI/CLI.hpp>
#include <fmt/format.h>

#include <algorithm>
#include <csignal>
#include <cstring>
#include <filesystem>
#include <optional>

namespace {

using namespace zorilla;

enum Status { done = 0, found_wanting = 1, bad_input = 2 };

/// Loads a rig that is to be used, not only checked.
rig::Rig usable_rig(const std::string& path) {
    rig::RigFile file = rig::load_rig(path);
    if (!file.mistakes.empty()) {
        cli::print_mistakes(path, file.mistakes);
        throw rig::InputError(fmt::format("{}: mend the mistakes above first", path));
    }
    return std::move(file.rig);
}

struct RunOptions {
    std::string rig;
    std::string trace;
    std::string csv;
    std::string figure;
};

Status run(const RunOptions& options, cli::Page& page) {
    constexpr uint64_t most_complaints = 20;
    const rig::Rig rig = usable_rig(options.rig);
    uint64_t complaints = 0;
    bench::TraceReader trace(
        options.trace, bench::columns_of(rig), [&](uint64_t line, const std::string& text) {
            if (++complaints <= most_complaints)
                cli::message(fmt::format("{}:{}: {}", options.trace, line, text));
        });
    for (const std::string& name : trace.absent())
        cli::message(fmt::format("{0}: has no column \"{1}\"; {1} will be missing all the time",
                                 options.trace, name));
    for (const std::string& name : trace.unused())
        cli::message(fmt::format("{}: the column \"{}\" belongs to no sensor of the rig and is not "
                                 "used",
                                 options.trace, name));

    std::optional<bench::TableWriter> table;
    if (!options.csv.empty())
        table.emplace(options.csv, rig);
    std::optional<bench::Figure> figure;
    if (!options.figure.empty())
        figure.emplace(options.figure, rig);
    std::function<void(int64_t, const rig::RunningRig&)> on_row;
    if (table || figure)
        on_row = [&](int64_t now, const rig::RunningRig& running) {
            if (table)
                table->add(now, running);
            if (figure)
                figure->add(now, running);
        };

    const std::string file_name = std::filesystem::path(options.trace).filename().string();
    page.line(page.bold(fmt::format("{} on {}", rig.name, file_name)));
    const bench::Summary summary = bench::replay(
        rig, trace, [&](const bench::Event& event) { cli::print_event(page, rig, event); }, on_row);
    if (complaints > most_complaints)
        cli::message(fmt::format("{}: and {} more lines that were not understood", options.trace,
                                 rig::count_to_text(complaints - most_complaints)));
    if (summary.rows == 0)
        throw rig::InputError(fmt::format("{}: there is no row after the header", options.trace));
    page.line();
    page.line(page.bold("In all"));
    cli::print_summary(page, rig, summary, trace.bad_lines());
    page.finish();
    if (table)
        table->commit();
    if (figure)
        figure->write(fmt::format("{} on {}", rig.name, file_name));
    return complaints > 0 ? found_wanting : done;
}

Status check(const std::string& path, cli::Page& page) {
    const rig::RigFile file = rig::load_rig(path);
    if (!file.mistakes.empty()) {
        cli::print_mistakes(path, file.mistakes);
        return found_wanting;
    }
    page.line(page.bold(fmt::format("{}: {}, no mistakes", path, file.rig.name)));
    cli::print_rig(page, file.rig);
    page.finish();
    return done;
}

void write_file(const std::string& path, std::string_view text) {
    rig::OutputFile file(path);
    file.write(text);
    file.commit();
}

Status demo(const std::string& directory, cli::Page& page) {
    std::error_code failed;
    std::filesystem::create_directories(directory, failed);
    if (failed)
        throw rig::InputError(fmt::format("{}: cannot be made: {}", directory, failed.message()));
    const RunOptions files{directory + "/hen_house.toml", directory + "/winter.csv", "",
                           directory + "/winter.png"};
    const rig::RigFile rig = rig::parse_rig(cli::demo_rig);
    write_file(files.rig, cli::demo_rig);
    write_file(files.trace, bench::hen_house_trace(rig.rig));

    for (const char* line : {
             "A hen house in winter, three days, made up. Five sensors switch a heat lamp, a water "
             "valve",
             "and a ventilator. On the second morning somebody leaves the door open, that "
             "afternoon a hen",
             "perches on the water barrel, in the third night the roost sensor's wire is off, and "
             "on the",
             "third afternoon the humidity sensor's plug is loose.",
         })
        page.line(line);
    page.line();
    const Status status = run(files, page);
    page.line();
    page.line(page.bold("Yours to try"));
    page.line(fmt::format("  rig     {}", files.rig));
    page.line(fmt::format("  trace   {}", files.trace));
    page.line(fmt::format("  figure  {}", files.figure));
    page.line();
    page.line(
        "Change \"release\" of [decide.cold] in the rig file to \"4.3 degC\" and see how much more "
        "often it switches:");
    page.line(fmt::format("  zorilla check {}", files.rig));
    page.line(fmt::format("  zorilla run {} --trace {}", files.rig, files.trace));
    page.finish();
    return status;
}

/// What is wrong with the arguments, and what to type instead.
std::string usage_problem(const CLI::App& app, int argc, char** argv,
                          const CLI::ParseError& error) {
    const std::string first = argc > 1 ? argv[1] : "";
    if (first.empty())
        return "zorilla: say what to do: check, run or demo; for example: zorilla demo";
    std::vector<std::string> commands;
    const CLI::App* command = nullptr;
    for (const CLI::App* candidate : app.get_subcommands(nullptr)) {
        commands.push_back(candidate->get_name());
        if (candidate->get_name() == first)
            command = candidate;
    }
    if (command == nullptr && first[0] != '-')
        return fmt::format("zorilla: there is no command \"{}\"{}\nSee zorilla --help.", first,
                           rig::suggestion(first, commands));
    std::vector<std::string> options;
    for (const CLI::Option* option : (command != nullptr ? command : &app)->get_options())
        for (const std::string& name : option->get_lnames())
            options.push_back("--" + name);
    const std::string name = command != nullptr ? "zorilla " + first : "zorilla";
    for (int i = 1; i < argc; ++i) {
        const std::string argument(argv[i], std::strcspn(argv[i], "="));
        if (argument.size() > 2 && argument.compare(0, 2, "--") == 0 &&
            std::find(options.begin(), options.end(), argument) == options.end())
            return fmt::format("{}: there is no option {}{}\nSee {} --help.", name, argument,
                               rig::suggestion(argument, options), name);
    }
    return fmt::format("{}: {}\nSee {} --help.", name, error.what(), name);
}

int command_line(int argc, char** argv) {
    CLI::App app{"Try out, on the desk, what a sensing-and-switching device will do.\n"
                 "Example: zorilla demo"};
    app.name("zorilla");
    app.set_version_flag("--version", "zorilla " ZORILLA_VERSION, "Print the version and stop.");
    app.set_help_flag("-h,--help", "Print this help and stop.");
    app.require_subcommand(1);
    app.footer("Exit status: 0 done, 1 checked and found wanting, 2 bad input or usage.");

    std::string rig_path;
    CLI::App* check_command =
        app.add_subcommand("check", "Check a rig file and say all that is wrong with it.\n"
                                    "Example: zorilla check heat_lamp.toml");
    check_command->add_option("RIG", rig_path, "The rig file.")->required();

    RunOptions options;
    CLI::App* run_command = app.add_subcommand(
        "run", "Play a recorded trace through a rig and tell what it does, when and why.\n"
               "Example: zorilla run heat_lamp.toml --trace winter.csv --figure winter.png");
    run_command->add_option("RIG", options.rig, "The rig file.")->required();
    run_command
        ->add_option("--trace", options.trace,
                     "The recorded samples: CSV with a header such as \"time (s),roost (code)\".")
        ->required()
        ->type_name("FILE.csv");
    run_command
        ->add_option("--csv", options.csv,
                     "Write readings, decisions and outputs of every sample here.")
        ->type_name("FILE.csv");
    run_command
        ->add_option("--figure", options.figure, "Draw readings, thresholds and outputs here.")
        ->type_name("FILE.png|.svg");

    std::string directory = "zorilla-demo";
    CLI::App* demo_command = app.add_subcommand(
        "demo", "Run a made-up hen house through three winter days, and leave its files to play "
                "with.\nExample: zorilla demo");
    demo_command
        ->add_option("--out", directory, "Where to put the rig file, the trace and the figure.")
        ->type_name("DIRECTORY")
        ->capture_default_str();

    try {
        app.parse(argc, argv);
    } catch (const CLI::ParseError& error) {
        if (error.get_exit_code() == 0) {
            app.exit(error);
            return done;
        }
        cli::message(usage_problem(app, argc, argv, error));
        return bad_input;
    }
    cli::Page page;
    if (check_command->parsed())
        return check(rig_path, page);
    if (run_command->parsed())
        return run(options, page);
    return demo(directory, page);
}

} // namespace

int main(int argc, char** argv) {
    // A full disk or a closed pipe is told by the write that fails.
    std::signal(SIGPIPE, SIG_IGN);
    std::signal(SIGXFSZ, SIG_IGN);
    try {
        return command_line(argc, argv);
    } catch (const std::exception& error) {
        cli::message(fmt::format("zorilla: {}", error.what()));
        return bad_input;
    }
}
