// SPDX-License-Identifier: MIT
// capture: takes down what a program prints.
#include "bench/capture.hpp"
#include "bench/conversation.hpp"
#include "bench/port.hpp"
#include "cli/capture_view.hpp"
#include "cli/command.hpp"
#include "cli/listening.hpp"
#include "cli/signals.hpp"
#include "rig/text/files.hpp"
#include "rig/text/text.hpp"

#include <fmt/format.h>
#include <unistd.h>

#include <algorithm>
#include <optional>
#include <utility>

namespace zorilla::cli {

namespace {

using rig::InputError;

struct CaptureOptions {
    std::string port;
    bench::Capture::Options capture;
    int baud = 38'400;
    std::string duration;
    std::string rig;
    std::vector<std::string> say; ///< commands for the device
};

/// Names and units as a rig has them, for lines that tell neither.
void as_in_rig(CaptureOptions& options) {
    if (options.rig.empty())
        return;
    const rig::Rig rig = usable_rig(options.rig);
    const bool named = !options.capture.names.empty();
    for (const rig::Sense& sense : rig.senses) {
        options.capture.units[sense.name] = rig::unit_of(sense.raw);
        if (!named)
            options.capture.names.push_back(sense.name);
    }
}

/// Reads until somebody or something ends it.
class Session {
  public:
    Session(const CaptureOptions& options, bench::Port& port, bench::Capture& capture)
        : options_(options), port_(port), capture_(capture), live_(port.is_standard_input()),
          listening_(port, live_.keyboard(),
                     {[this](std::string_view bytes) {
                          capture_.take(bytes, now());
                          if (std::exchange(silent_, false) && told_silence_)
                              state_.clear();
                      },
                      [this] {
                          capture_.interrupted();
                          capture_.flush();
                      },
                      [this](const std::string& state) { say(state); }}),
          conversation_(options.say) {}

    void run() {
        if (!options_.duration.empty())
            end_ = time_option("--for", options_.duration, "10 s");
        while (!asked_to_end() && !over_ && !listening_.over() && !capture_.full() &&
               (!end_ || now() < *end_)) {
            if (listening_.wait(std::min(next_draw_, end_.value_or(INT64_MAX))))
                take_keys();
            converse();
            tell_silence();
            if (now() >= next_draw_) {
                capture_.flush();
                live_.draw(capture_, state_, now());
                next_draw_ = now() + 200;
            }
        }
        if (listening_.over())
            capture_.ended(now());
        capture_.settle();
        capture_.flush();
        live_.draw(capture_, state_, now());
    }
    int64_t now() const { return listening_.now(); }
    uint64_t losses() const { return listening_.losses(); }
    /// Whether the device has done all that it was told.
    bool obeyed() const {
        for (const std::string& command : conversation_.pending())
            message(fmt::format("{}: the capture ended before it was answered", command));
        return conversation_.obeyed() && conversation_.pending().empty();
    }

  private:
    void say(const std::string& state) {
        state_ = state.empty() ? "" : "the port " + state;
        if (!live_.shows())
            message(fmt::format("{}: {}", options_.port, state.empty() ? "is back" : state));
    }
    /// Once: who waits for nothing is to know it.
    void tell_silence() {
        constexpr int64_t patience = 5000;
        if (!silent_ || told_silence_ || now() < patience || port_.is_standard_input())
            return;
        told_silence_ = true;
        state_ = fmt::format("nothing has come yet; is it {} baud?", options_.baud);
        if (!live_.shows())
            message(fmt::format("{}: nothing has come yet; does the program print, and at {} baud? "
                                "Waiting for it; Ctrl-C ends",
                                options_.port, options_.baud));
    }
    void take_keys() {
        const CaptureView::Keys keys = live_.read_keys();
        over_ = over_ || keys.end;
        if (keys.named && keys.name.front() == '>') {
            conversation_.say(keys.name.substr(1));
        } else if (keys.named) {
            capture_.set_condition(keys.name);
            next_draw_ = 0;
        }
    }
    /// The first command once rows come, since opening the port may have restarted the device.
    void converse() {
        if (capture_.answers() != heard_)
            conversation_.hear(capture_.answer());
        heard_ = capture_.answers();
        if (!port_.is_open() || capture_.rows() == 0)
            return;
        conversation_.step(port_, now(),
                           [this](const std::string& command, const std::string& answer) {
                               state_ = fmt::format("{}: {}", command, answer);
                               if (!live_.shows())
                                   message(state_);
                               next_draw_ = 0;
                           });
    }

    const CaptureOptions& options_;
    bench::Port& port_;
    bench::Capture& capture_;
    CaptureView live_;
    Listening listening_;
    std::string state_;
    std::optional<int64_t> end_;
    int64_t next_draw_ = 0;
    bool over_ = false, silent_ = true, told_silence_ = false;
    bench::Conversation conversation_;
    uint64_t heard_ = 0; ///< answers
};

} // namespace

void open_or_explain(bench::Port& port, const std::string& name) {
    std::string reason;
    if (port.open(reason))
        return;
    throw InputError(bench::cannot_be_opened(name, reason));
}

namespace {

Status capture(CaptureOptions options, Page& page) {
    as_in_rig(options);
    if (!options.say.empty() && options.port == "-")
        throw InputError("--say: standard input brings lines, and takes none; give the port");
    bench::Port port(options.port, options.baud, !options.say.empty() || isatty(STDIN_FILENO) != 0);
    open_or_explain(port, options.port);
    options.capture.may_begin_torn = port.begins_anywhere();
    bench::Capture capture(options.capture);
    end_on_signals();
    uint64_t losses = 0;
    bool obeyed = true;
    {
        Session session(options, port, capture);
        session.run();
        losses = session.losses();
        obeyed = session.obeyed();
    }
    if (capture.nonsense() > 0)
        message(fmt::format(
            "{} {} not understood; the last: {}", rig::count_to_text(capture.nonsense()),
            capture.nonsense() == 1 ? "line was" : "lines were", capture.last_problem()));
    if (capture.first_was_torn())
        message("the first line may have begun in its middle, and was left out");
    if (capture.begun_anew() > 0)
        message(fmt::format("the device has begun anew {}, and its rows go on from before; "
                            "zorilla live --save keeps that it has",
                            how_often(capture.begun_anew())));
    if (losses > 0)
        message(
            fmt::format("the port vanished {}; lines of that time are missing", how_often(losses)));
    if (capture.rows() == 0)
        throw InputError(fmt::format("{}: no row of numbers came, and nothing was saved; does the "
                                     "program print numbers, and "
                                     "at {} baud?",
                                     options.port, options.baud));
    page.line(fmt::format("{} rows in {}{}, saved in {}", rig::count_to_text(capture.rows()),
                          rig::span_to_text(std::llround(capture.span_milliseconds() / 100) * 100),
                          capture.has_device_clock() ? " of the device's clock" : "",
                          options.capture.path));
    if (capture.condition().empty() && options.rig.empty())
        page.line("No condition was named; zorilla survey tells more with two of them: --condition "
                  "\"covered\", then --append --condition \"lamp on\"");
    page.finish();
    return capture.nonsense() > 0 || !obeyed ? found_wanting : done;
}

} // namespace

void add_capture(Command& app, Chosen& chosen) {
    auto options = std::make_shared<CaptureOptions>();
    options->capture.path = "capture.csv";
    Command* command = app.add_subcommand(
        "capture", "Take down what a program prints on a serial line, and show it live.\n"
                   "Example: zorilla capture /dev/ttyUSB0 --condition covered --out light.csv");
    command
        ->add_option("PORT", options->port,
                     "The serial port, or - for standard input. Lines may be numbers with commas "
                     "or blanks between, or name=value, or name: value.")
        ->required();
    command->add_option("--out", options->capture.path, "Save the rows here.")
        ->type_name("FILE.csv")
        ->capture_default_str();
    command->add_flag("--append", options->capture.append, "Add to that file.");
    command
        ->add_option("--condition", options->capture.condition,
                     "What holds at present, such as \"covered\"; on a terminal, type another one "
                     "and Enter while it runs.")
        ->type_name("NAME");
    command
        ->add_option("--names", options->capture.names,
                     "Names for numbers that come without, such as light,temp.")
        ->delimiter(',')
        ->type_name("NAME,...");
    command
        ->add_option("--rig", options->rig,
                     "A rig file whose sensors these are: their names, in its order, where numbers "
                     "come without, and their units.")
        ->type_name("RIG");
    command
        ->add_option("--baud", options->baud,
                     "The speed of the line. Default: 38400, at which zorilla's own programs send.")
        ->between(300, 4'000'000)
        ->capture_default_str();
    command
        ->add_option("--say", options->say,
                     "A command for the device, such as \"set boost 40 for 10 min\"; several one "
                     "after the other. On a terminal, type > and a command while it runs.")
        ->repeatable()
        ->type_name("COMMAND");
    command->add_option("--for", options->duration, "End after this time.")->type_name("DURATION");
    command->add_option("--lines", options->capture.most_rows, "End after so many rows.")
        ->above_zero()
        ->type_name("N")
        ->default_str("");
    command->callback(
        [options, &chosen] { chosen = [options](Page& page) { return capture(*options, page); }; });
}

} // namespace zorilla::cli
