// SPDX-License-Identifier: MIT
/// \file
/// The arguments of the tool as its commands describe them: what there is, in sentences. All that
/// is made of those (parsing, --help, the man page, bash's completion) stands in arguments.cpp, the
/// one file that knows the library behind it.
#pragma once

#include <cstdint>
#include <deque>
#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace CLI {
class App;
class Option;
} // namespace CLI

namespace zorilla::cli {

class Page;

/// The exit status.
enum Status { done = 0, found_wanting = 1, bad_input = 2 };

/// What the command that was named will do.
using Chosen = std::function<Status(Page&)>;

/// One option, or an argument without a name of its own. Each method says more of it.
class Option {
  public:
    explicit Option(CLI::Option* option) : option_(option) {}
    Option* required();
    /// What stands for its value in --help: "FILE.csv".
    Option* type_name(const std::string& name);
    /// How many values it takes.
    Option* expected(int count);
    /// One value each time, and as many times as wanted.
    Option* repeatable();
    /// Between values given at once.
    Option* delimiter(char by);
    Option* one_of(const std::vector<std::string>& words);
    Option* between(double least, double most);
    Option* above_zero();
    /// Shows what it is without being given; `text` where that is not what the variable holds.
    Option* capture_default_str();
    Option* default_str(const std::string& text);

  private:
    CLI::Option* option_;
};

/// A command, which may have commands of its own.
class Command {
  public:
    explicit Command(CLI::App* app) : app_(app) {}
    /// \param words  a sentence that says what it does, and a line "Example: ..."
    Command* add_subcommand(const std::string& name, const std::string& words);
    void require_subcommand();
    /// Variables must live until the command has run.
    Option* add_option(const std::string& name, std::string& into, const std::string& help);
    Option* add_option(const std::string& name, std::vector<std::string>& into,
                       const std::string& help);
    Option* add_option(const std::string& name, std::vector<double>& into, const std::string& help);
    Option* add_option(const std::string& name, int& into, const std::string& help);
    Option* add_option(const std::string& name, std::optional<int>& into, const std::string& help);
    Option* add_option(const std::string& name, std::optional<double>& into,
                       const std::string& help);
    Option* add_option(const std::string& name, uint64_t& into, const std::string& help);
    Option* add_option(const std::string& name, double& into, const std::string& help);
    Option* add_flag(const std::string& name, bool& into, const std::string& help);
    /// What is noted when the command is named.
    void callback(std::function<void()> named);

  private:
    template <class Into> Option* add(const std::string& name, Into& into, const std::string& help);

    CLI::App* app_;
    std::deque<Option> options_;
    std::deque<Command> commands_;
};

/// The whole of the tool.
class Arguments {
  public:
    /// \param words  as of a command
    Arguments(const std::string& words, const std::string& version);
    ~Arguments();
    Command& commands() { return top_; }
    /// Parses; empty if all went well, else the status to end with, after all was said.
    std::optional<Status> parse(int argc, char** argv);
    /// The man page, and what bash completes words with; of the very words of --help.
    std::string man_page() const;
    std::string completion() const;

  private:
    std::unique_ptr<CLI::App> app_;
    Command top_;
};

} // namespace zorilla::cli
