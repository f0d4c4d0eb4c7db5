// SPDX-License-Identifier: MIT
// The command-line tool: arguments in, text out. All work is done in bench/ and rig/.
#include "cli/command.hpp"
#include "rig/text/files.hpp"
#include "rig/text/moments.hpp"
#include "rig/text/text.hpp"

#include <fmt/format.h>

#include <csignal>
#include <cstdio>
#include <fcntl.h>
#include <unistd.h>

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

int64_t time_option(const std::string& option, const std::string& text,
                    const std::string& example) {
    if (const auto moment = rig::moment_of(text); moment && *moment > 0)
        return *moment;
    const rig::QuantityText read = rig::parse_quantity(text, rig::Kind::duration, example);
    throw rig::InputError(
        read.problem.empty()
            ? fmt::format("{}: \"{}\" must be above 0, such as \"{}\"", option, text, example)
            : fmt::format("{}: {}", option, read.problem));
}

void write_file(const std::string& path, std::string_view text) {
    rig::OutputFile file(path);
    file.write(text);
    file.commit();
}

namespace {

int command_line(int argc, char** argv) {
    Arguments arguments("Try out, on the desk, what a sensing-and-switching device will do.\n"
                        "Example: zorilla demo",
                        "zorilla " ZORILLA_VERSION);
    Chosen chosen;
    // In the order in which they are needed.
    for (const auto add :
         {add_look,    add_capture, add_survey,  add_size,     add_fit,  add_check,
          add_outputs, add_run,     add_world,   add_try,      add_tune, add_yield,
          add_faults,  add_draw,    add_machine, add_firmware, add_move, add_rehearse,
          add_upload,  add_live,    add_setting, add_history,  add_demo, add_device})
        add(arguments.commands(), chosen);
    // For the build, which installs both.
    const std::string only = argc == 2 ? argv[1] : "";
    Page page;
    if (only == "--print-man-page" || only == "--print-completion") {
        page.line(only == "--print-completion" ? arguments.completion() : arguments.man_page());
        page.finish();
        return done;
    }
    if (const auto ended = arguments.parse(argc, argv))
        return *ended;
    return chosen(page);
}

} // namespace

} // namespace zorilla::cli

/// Makes sure that no file takes the place of a standard stream that is closed.
static void keep_standard_streams() {
    for (int stream = 0; stream <= 2; ++stream)
        if (fcntl(stream, F_GETFD) == -1 &&
            open("/dev/null", stream == 2 ? O_WRONLY : O_RDONLY) < 0)
            _exit(zorilla::cli::bad_input);
}

int main(int argc, char** argv) {
    keep_standard_streams();
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
