// SPDX-License-Identifier: MIT
#include "cli/arguments.hpp"

#include "cli/page.hpp"
#include "rig/text/files.hpp"
#include "rig/text/text.hpp"

#include <CLI/CLI.hpp>
#include <fmt/format.h>

#include <algorithm>
#include <cstring>
#include <iostream>

namespace zorilla::cli {

Option* Option::required() {
    option_->required();
    return this;
}
Option* Option::type_name(const std::string& name) {
    option_->type_name(name);
    return this;
}
Option* Option::repeatable() {
    option_->allow_extra_args(false);
    return this;
}
Option* Option::expected(int count) {
    option_->expected(count);
    return this;
}
Option* Option::delimiter(char by) {
    option_->delimiter(by);
    return this;
}
Option* Option::one_of(const std::vector<std::string>& words) {
    option_->check(CLI::IsMember(words));
    return this;
}
Option* Option::between(double least, double most) {
    option_->check(CLI::Range(least, most, fmt::format("{} to {}", least, most)));
    return this;
}
Option* Option::above_zero() {
    option_->check(CLI::PositiveNumber);
    return this;
}
Option* Option::capture_default_str() {
    option_->capture_default_str();
    return this;
}
Option* Option::default_str(const std::string& text) {
    option_->default_str(text);
    return this;
}

Command* Command::add_subcommand(const std::string& name, const std::string& words) {
    return &commands_.emplace_back(app_->add_subcommand(name, words));
}
void Command::require_subcommand() { app_->require_subcommand(1); }
void Command::callback(std::function<void()> named) { app_->callback(std::move(named)); }

template <class Into>
Option* Command::add(const std::string& name, Into& into, const std::string& help) {
    return &options_.emplace_back(app_->add_option(name, into, help));
}
Option* Command::add_option(const std::string& name, std::string& into, const std::string& help) {
    return add(name, into, help);
}
Option* Command::add_option(const std::string& name, std::vector<std::string>& into,
                            const std::string& help) {
    return add(name, into, help);
}
Option* Command::add_option(const std::string& name, std::vector<double>& into,
                            const std::string& help) {
    return add(name, into, help);
}
Option* Command::add_option(const std::string& name, int& into, const std::string& help) {
    return add(name, into, help);
}
Option* Command::add_option(const std::string& name, std::optional<int>& into,
                            const std::string& help) {
    return add(name, into, help);
}
Option* Command::add_option(const std::string& name, std::optional<double>& into,
                            const std::string& help) {
    return add(name, into, help);
}
Option* Command::add_option(const std::string& name, uint64_t& into, const std::string& help) {
    return add(name, into, help);
}
Option* Command::add_option(const std::string& name, double& into, const std::string& help) {
    return add(name, into, help);
}
Option* Command::add_flag(const std::string& name, bool& into, const std::string& help) {
    return &options_.emplace_back(app_->add_flag(name, into, help));
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

/// A command and all below it, with its whole name.
struct Named {
    std::string name;
    const CLI::App* app;
};
void collect(const CLI::App& app, const std::string& name, std::vector<Named>& out) {
    out.push_back({name, &app});
    for (const CLI::App* below : app.get_subcommands(nullptr))
        collect(*below, name + " " + below->get_name(), out);
}

/// As troff reads it.
std::string plain(const std::string& text) {
    std::string out;
    for (const char c : text) {
        if (c == '\\' || c == '-')
            out += c == '-' ? "\\-" : "\\e";
        else
            out += c;
        if (c == '\n')
            out += ".br\n";
    }
    return !out.empty() && (out[0] == '.' || out[0] == '\'') ? "\\&" + out : out;
}

std::string option_line(const CLI::Option& option) {
    std::string out =
        option.get_positional() ? option.get_name(true) : option.get_name(false, true);
    std::replace(out.begin(), out.end(), ',', ' ');
    const std::string type = option.get_type_name();
    if (option.get_expected_max() > 0 && !option.get_positional() && !type.empty())
        out += " " + type;
    if (!option.get_default_str().empty())
        out += fmt::format(" [{}]", option.get_default_str());
    return out;
}

} // namespace

Arguments::Arguments(const std::string& words, const std::string& version)
    : app_(std::make_unique<CLI::App>(words)), top_(app_.get()) {
    app_->name("zorilla");
    app_->set_version_flag("--version", version, "Print the version and stop.");
    app_->set_help_flag("-h,--help", "Print this help and stop.");
    app_->require_subcommand(1);
    app_->footer("Exit status: 0 done, 1 checked and found wanting, 2 bad input or usage.");
}
Arguments::~Arguments() = default;

std::optional<Status> Arguments::parse(int argc, char** argv) {
    try {
        app_->parse(argc, argv);
    } catch (const CLI::ParseError& error) {
        if (error.get_exit_code() == 0) {
            app_->exit(error);
            std::cout.flush();
            if (!std::cout)
                throw rig::InputError("standard output: cannot be written");
            Page().finish();
            return done;
        }
        message(usage_problem(*app_, argc, argv, error));
        return bad_input;
    }
    return std::nullopt;
}

std::string Arguments::man_page() const {
    std::string out = ".TH ZORILLA 1\n.SH NAME\nzorilla \\- try out, on the desk, what a "
                      "sensing-and-switching device will do\n.SH SYNOPSIS\n.B zorilla\nCOMMAND "
                      "[OPTION...]\n.SH COMMANDS\n";
    std::vector<Named> all;
    collect(*app_, "zorilla", all);
    for (const Named& one : all) {
        if (one.app != app_.get())
            out += fmt::format(".SS {}\n{}\n", plain(one.name), plain(one.app->get_description()));
        for (const CLI::Option* option : one.app->get_options())
            if (one.app == app_.get() || option->get_name() != "--help")
                out += fmt::format(".TP\n.B {}\n{}\n", plain(option_line(*option)),
                                   plain(option->get_description()));
    }
    return out + ".SH EXIT STATUS\n0 done, 1 checked and found wanting, 2 bad input or usage.\n"
                 ".SH ENVIRONMENT\n.TP\n.B NO_COLOR\nIf it is set, nothing is coloured.\n";
}

std::string Arguments::completion() const {
    // By the command so far, the words that may follow; elsewhere names of files.
    std::string out = "# Completes zorilla's commands and options in bash.\n_zorilla() {\n"
                      "    local word=${COMP_WORDS[COMP_CWORD]} path=zorilla i words=\n"
                      "    for ((i = 1; i < COMP_CWORD; i++)); do\n"
                      "        case \"$path ${COMP_WORDS[i]}\" in\n";
    std::vector<Named> all;
    collect(*app_, "zorilla", all);
    std::string names;
    for (size_t i = 1; i < all.size(); ++i)
        names += fmt::format("{}\"{}\"", i == 1 ? "" : " | ", all[i].name);
    out += fmt::format("        {}) path=\"$path ${{COMP_WORDS[i]}}\" ;;\n        esac\n    done\n"
                       "    case \"$path\" in\n",
                       names);
    for (const Named& one : all) {
        std::string words;
        for (const CLI::App* below : one.app->get_subcommands(nullptr))
            words += " " + below->get_name();
        for (const CLI::Option* option : one.app->get_options())
            for (const std::string& long_name : option->get_lnames())
                words += " --" + long_name;
        out += fmt::format("    \"{}\") words=\"{}\" ;;\n", one.name, words.substr(1));
    }
    return out + "    esac\n    COMPREPLY=($(compgen -W \"$words\" -- \"$word\"))\n"
                 "    [[ ${#COMPREPLY[@]} -gt 0 || $word == -* ]] || COMPREPLY=($(compgen -f -- "
                 "\"$word\"))\n}\ncomplete -o filenames -F _zorilla zorilla\n";
}

} // namespace zorilla::cli
