// SPDX-License-Identifier: MIT
// live: watches a running device with its reasons.
#include "bench/conversation.hpp"
#include "bench/history/recorder.hpp"
#include "bench/live/watched.hpp"
#include "bench/port.hpp"
#include "cli/command.hpp"
#include "cli/live_view.hpp"
#include "cli/signals.hpp"
#include "rig/text/files.hpp"
#include "rig/text/text.hpp"

#include <fmt/format.h>
#include <poll.h>
#include <unistd.h>

#include <chrono>
#include <optional>

namespace zorilla::cli {

namespace {

using Clock = std::chrono::steady_clock;

struct LiveOptions {
    std::string rig;
    std::string port;
    int baud = 38'400;
    std::string duration;
    std::string save;
    std::string history, began;
    int keep_days = 30;
    std::vector<std::string> say;
};

/// Reads until somebody or something ends it.
class Watching {
  public:
    Watching(const LiveOptions& options, const rig::Rig& rig, bench::Port& port, Page& page)
        : options_(options), port_(port), page_(page), view_(port.is_standard_input()),
          conversation_(options.say),
          watched_(rig, {[this](const bench::Event& event) { tell(event); },
                         [this](const std::string& answer) { conversation_.hear(answer); },
                         [this] {
                             if (recorder_)
                                 recorder_->row(watched_, utc());
                         }}) {
        if (!options.history.empty())
            recorder_.emplace(options.history, rig, rig::read_file(options.rig),
                              int64_t{options.keep_days} * 86'400'000, began_of(options),
                              [this](const std::string& text) { say(text); });
        if (!options.save.empty()) {
            save_ = std::fopen(options.save.c_str(), "wbx");
            if (save_ == nullptr)
                throw rig::InputError(fmt::format("{}: cannot be written: {}", options.save,
                                                  errno == EEXIST
                                                      ? "it is there already; choose another name"
                                                      : std::strerror(errno)));
        }
        if (!options.duration.empty())
            end_ = time_option("--for", options.duration, "10 s");
    }
    ~Watching() {
        if (save_ != nullptr)
            std::fclose(save_);
    }
    Watching(const Watching&) = delete;
    Watching& operator=(const Watching&) = delete;

    void run() {
        while (!asked_to_end() && !over_ && (!end_ || now() < *end_)) {
            wait();
            if (port_.is_open() && watched_.companion().any())
                conversation_.step(port_, now(),
                                   [this](const std::string& command, const std::string& answer) {
                                       say(fmt::format("{}: {}", command, answer));
                                   });
            if (!port_.is_open() && now() >= try_again_)
                reopen();
            if (now() >= next_draw_) {
                page_.flush();
                flush();
                if (recorder_)
                    recorder_->step(utc());
                view_.draw(watched_, state_);
                next_draw_ = now() + 200;
            }
        }
        flush();
        watched_.finish();
        if (recorder_)
            recorder_->finish();
        view_.end();
    }
    bool shows() const { return view_.shows(); }
    bench::Watched& watched() { return watched_; }
    const bench::Conversation& conversation() const { return conversation_; }

  private:
    int64_t now() const {
        return std::chrono::duration_cast<std::chrono::milliseconds>(Clock::now() - begin_).count();
    }
    void flush() const {
        if (save_ != nullptr && std::fflush(save_) != 0)
            throw rig::InputError(
                fmt::format("{}: cannot be written: {}", options_.save, std::strerror(errno)));
    }
    void say(const std::string& text) {
        state_ = text;
        if (!view_.shows())
            message(text);
        next_draw_ = 0;
    }
    static bench::Utc utc() {
        return std::chrono::duration_cast<std::chrono::milliseconds>(
                   std::chrono::system_clock::now().time_since_epoch())
            .count();
    }
    static std::optional<bench::Utc> began_of(const LiveOptions& options) {
        if (options.began.empty())
            return std::nullopt;
        const auto at = bench::utc_of(options.began);
        if (!at)
            throw rig::InputError(
                fmt::format("--began: \"{}\" is no time; write it as \"2026-11-20\" "
                            "or \"2026-11-20 06:30\", in UTC",
                            options.began));
        return at;
    }
    void tell(const bench::Event& event) {
        if (recorder_)
            recorder_->event(event, utc());
        if (view_.shows())
            return;
        if (!event.who.empty())
            print_event(page_, watched_.rig(), event);
        else
            page_.line(fmt::format("{}  {}", page_.clock(rig::time_to_text(event.milliseconds)),
                                   event.is_good ? event.what : page_.warning(event.what)));
    }
    void wait() {
        pollfd waiting[2] = {{port_.descriptor(), POLLIN, 0}, {view_.keyboard(), POLLIN, 0}};
        const int64_t until = std::min(next_draw_, end_.value_or(INT64_MAX));
        const auto rest = static_cast<int>(std::clamp<int64_t>(until - now(), 0, 200));
        if (poll(waiting, 2, rest) <= 0)
            return;
        if (port_.is_open() && waiting[0].revents != 0)
            take();
        if (waiting[1].revents != 0) {
            const LiveView::Asked asked = view_.read_keys(watched_);
            over_ = over_ || asked.end;
            for (const std::string& command : asked.commands) {
                conversation_.say(command);
                state_ = command + " ...";
            }
            next_draw_ = 0;
        }
    }
    void take() {
        switch (port_.read(buffer_)) {
        case bench::Port::Got::bytes:
            if (save_ != nullptr &&
                std::fwrite(buffer_.data(), 1, buffer_.size(), save_) != buffer_.size())
                throw rig::InputError(
                    fmt::format("{}: cannot be written: {}", options_.save, std::strerror(errno)));
            watched_.take({buffer_.data(), buffer_.size()});
            break;
        case bench::Port::Got::nothing: break;
        case bench::Port::Got::ended: over_ = true; break;
        case bench::Port::Got::gone:
            port_.close();
            watched_.interrupted();
            say(fmt::format("{}: has vanished; waiting for it to come back", options_.port));
            try_again_ = now() + 200;
            break;
        }
    }
    void reopen() {
        std::string reason;
        if (port_.open(reason))
            say(fmt::format("{}: is back", options_.port));
        try_again_ = now() + 200;
    }

    const LiveOptions& options_;
    bench::Port& port_;
    Page& page_;
    LiveView view_;
    bench::Conversation conversation_;
    std::optional<bench::Recorder> recorder_;
    bench::Watched watched_;
    const Clock::time_point begin_ = Clock::now();
    std::vector<char> buffer_;
    std::FILE* save_ = nullptr;
    std::string state_;
    std::optional<int64_t> end_;
    int64_t next_draw_ = 0, try_again_ = 0;
    bool over_ = false;
};

std::string counted(uint64_t count, const char* one, const char* many) {
    return fmt::format("{} {}", rig::count_to_text(count), count == 1 ? one : many);
}

Status live(const LiveOptions& options, Page& page) {
    const rig::Rig rig = usable_rig(options.rig);
    const rig::ShownUnits units(rig.show);
    if (!options.say.empty() && options.port == "-")
        throw rig::InputError("--say: standard input brings lines, and takes none; give the port");
    bench::Port port(options.port, options.baud, true);
    open_or_explain(port, options.port);
    end_on_signals();
    Watching watching(options, rig, port, page);
    watching.run();
    const bench::Watched& watched = watching.watched();
    const bench::Companion& beside = watched.companion();
    if (!beside.any())
        throw rig::InputError(fmt::format(
            "{}: no row came that this rig file explains; {}", options.port,
            watched.is_foreign() ? "the device was made of another one"
            : watched.receiver().damaged() > 0
                ? "the last line was not understood: " + watched.receiver().problem()
                : fmt::format("does the device send, as after zorilla firmware {} --send, and at "
                              "{} baud?",
                              options.rig, options.baud)));
    page.line();
    page.line(page.bold("In all"));
    print_summary(page, rig, watching.watched().companion().finish(), 0);
    page.line();
    page.line(fmt::format("  {} rows came; {} damaged; of {} no row came",
                          rig::count_to_text(beside.rows()),
                          counted(watched.receiver().damaged(), "line was", "lines were"),
                          counted(beside.missed(), "pass", "passes")));
    if (beside.compared() > 0)
        page.line(
            beside.different() == 0
                ? fmt::format("  The device told its outputs in {} passes: they are the rig's",
                              rig::count_to_text(beside.compared()))
                : page.warning(fmt::format(
                      "  In {} of {} passes the device's outputs were not what the desk knew",
                      rig::count_to_text(beside.different()),
                      rig::count_to_text(beside.compared()))));
    page.finish();
    for (const std::string& command : watching.conversation().pending())
        message(fmt::format("{}: it ended before that was answered", command));
    const bool obeyed =
        watching.conversation().obeyed() && watching.conversation().pending().empty();
    return beside.differs() || !obeyed ? found_wanting : done;
}

} // namespace

void add_live(Command& app, Chosen& chosen) {
    auto options = std::make_shared<LiveOptions>();
    Command* command = app.add_subcommand(
        "live", "Watch a running device: its readings, decisions and outputs, with reasons, since "
                "the same rig runs beside it.\n"
                "Example: zorilla live hen_house.toml /dev/ttyUSB0");
    command->add_option("RIG", options->rig, "The rig file that the device was made of.")
        ->required();
    command
        ->add_option("PORT", options->port,
                     "The serial port, the stand-in of zorilla device, or - for standard input.")
        ->required();
    command->add_option("--baud", options->baud, "The speed of the line.")
        ->between(300, 4'000'000)
        ->capture_default_str();
    command->add_option("--save", options->save, "Save what the device sends here, as it comes.")
        ->type_name("FILE.csv");
    command
        ->add_option("--history", options->history,
                     "Keep all of it here, for zorilla history; several devices may share a file, "
                     "one after the other.")
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
        ->add_option("--say", options->say,
                     "A command for the device, such as \"set boost 40 for 10 min\"; several one "
                     "after the other.")
        ->repeatable()
        ->type_name("COMMAND");
    command->add_option("--for", options->duration, "End after this time.")->type_name("DURATION");
    command->callback(
        [options, &chosen] { chosen = [options](Page& page) { return live(*options, page); }; });
}

} // namespace zorilla::cli
