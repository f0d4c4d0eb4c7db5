// SPDX-License-Identifier: MIT
/// \file
/// The commands of the tool: each adds itself to the arguments, and says what to do if it is named.
#pragma once

#include "cli/page.hpp"

#include <CLI/CLI.hpp>

#include <functional>
#include <string>

namespace zorilla::cli {

/// The exit status.
enum Status { done = 0, found_wanting = 1, bad_input = 2 };

/// What the command that was named will do.
using Chosen = std::function<Status(Page&)>;

void add_capture(CLI::App& app, Chosen& chosen);
void add_survey(CLI::App& app, Chosen& chosen);
void add_size(CLI::App& app, Chosen& chosen);
void add_fit(CLI::App& app, Chosen& chosen);
void add_check(CLI::App& app, Chosen& chosen);
void add_run(CLI::App& app, Chosen& chosen);
void add_draw(CLI::App& app, Chosen& chosen);
void add_machine(CLI::App& app, Chosen& chosen);
void add_outputs(CLI::App& app, Chosen& chosen);
void add_demo(CLI::App& app, Chosen& chosen);
void add_device(CLI::App& app, Chosen& chosen);

/// Tells of the lines of a file that were not understood: the first few, and how many more.
class Complaints {
  public:
    explicit Complaints(std::string path) : path_(std::move(path)) {}
    void operator()(uint64_t line, const std::string& text);
    /// To be called once all has been read.
    void finish() const;
    bool any() const { return count_ > 0; }

  private:
    static constexpr uint64_t most = 20;
    std::string path_;
    uint64_t count_ = 0;
};

/// A file that `text` is written to as a whole. \throws rig::InputError
void write_file(const std::string& path, std::string_view text);

} // namespace zorilla::cli
