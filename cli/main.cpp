// SPDX-License-Identifier: MIT
// The command-line tool: arguments in, text out. All work is done in bench/ and rig/.
#include "cli/command.hpp"
#include "rig/files.hpp"
#include "rig/text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <csignal>
#include <cstring>

namespace zorilla::cli {

void Complaints::operator()(uint64_t line, const std::string& text) {
    if (++count_ <= most)
        message(fmt::format("{}:{}: {}", path_, line, text));
}

void Complaints::finish() const {
    if (count_ > most)
        message(fmt::format("{}: and {} more lines that were not understood", path_,
                            rig::count_to_text(count_ - most)));
}

void write_file(const std::string& path, std::string_view text) {
    rig::OutputFile file(path);
    file.write(text);
    file.commit();
}

namespace {

/// What is wrong with the arguments, and what to type instead.
std::string usage_problem(const CLI::App& app, int argc, char** argv,
                          const CLI::ParseError& error) {
    // The innermost command that was named, and the word behind it.
    const CLI::App* command = &app;
    std::string name = "zorilla";
    int next = 1;
    const auto names_of = [](const CLI::App* of) {
        std::vector<std::string> out;
        for (const CLI::App* candidate : of->get_subcommands(nullptr))
            out.push_back(candidate->get_name());
        return out;
    };
    for (bool deeper = true; deeper && next < argc;) {
        deeper = false;
        for (const CLI::App* candidate : command->get_subcommands(nullptr))
            if (candidate->get_name() == argv[next]) {
                command = candidate;
                name += std::string(" ") + argv[next];
                ++next;
                deeper = true;
                break;
            }
    }
    const std::vector<std::string> commands = names_of(command);
    const std::string word = next < argc ? argv[next] : "";
    if (!commands.empty() && (word.empty() || word[0] != '-')) {
        std::string listed;
        for (size_t i = 0; i < commands.size(); ++i)
            listed += (i == 0 ? "" : i + 1 == commands.size() ? " or " : ", ") + commands[i];
        if (word.empty())
            return fmt::format("{}: say what to do: {}; for example: {}", name, listed,
                               command == &app ? "zorilla demo" : name + " --help");
        return fmt::format("{}: there is no command \"{}\"{}\nSee {} --help.", name, word,
                           rig::suggestion(word, commands), name);
    }
    std::vector<std::string> options;
    for (const CLI::Option* option : command->get_options())
        for (const std::string& long_name : option->get_lnames())
            options.push_back("--" + long_name);
    for (int i = next; i < argc; ++i) {
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
    Chosen chosen;
    // In the order in which they are needed.
    for (const auto add : {add_capture, add_survey, add_size, add_fit, add_check, add_outputs,
                           add_run, add_draw, add_machine, add_demo, add_device})
        add(app, chosen);
    try {
        app.parse(argc, argv);
    } catch (const CLI::ParseError& error) {
        if (error.get_exit_code() == 0) {
            app.exit(error);
            return done;
        }
        message(usage_problem(app, argc, argv, error));
        return bad_input;
    }
    Page page;
    return chosen(page);
}

} // namespace

} // namespace zorilla::cli

int main(int argc, char** argv) {
    // A full disk or a closed pipe is told by the write that fails.
    std::signal(SIGPIPE, SIG_IGN);
    std::signal(SIGXFSZ, SIG_IGN);
    try {
        return zorilla::cli::command_line(argc, argv);
    } catch (const std::exception& error) {
        zorilla::cli::message(fmt::format("zorilla: {}", error.what()));
        return zorilla::cli::bad_input;
    }
}
