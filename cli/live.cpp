// SPDX-License-Identifier: MIT
// live: watches a running device with its reasons.
#include "bench/broker/broker.hpp"
#include "bench/conversation.hpp"
#include "bench/history/recorder.hpp"
#include "bench/live/watched.hpp"
#include "bench/port.hpp"
#include "cli/command.hpp"
#include "cli/listening.hpp"
#include "cli/live_view.hpp"
#include "cli/signals.hpp"
#include "rig/text/files.hpp"
#include "rig/text/text.hpp"

#include <fmt/format.h>

#include <chrono>
#include <optional>

namespace zorilla::cli {

namespace {

struct LiveOptions {
    std::string rig;
    std::string port;
    int baud = 38'400;
    std::string duration;
    std::string save;
    std::string history, began;
    int keep_days = 30;
    std::string broker, broker_user, broker_password, broker_ca;
    bool let_broker_command = false;
    std::vector<std::string> say;
};

/// Reads until somebody or something ends it.
class Watching {
  public:
    Watching(const LiveOptions& options, const rig::Rig& rig, bench::Port& port, Page& page)
        : options_(options), port_(port), page_(page), view_(port.is_standard_input()),
          listening_(
              port, options.port, view_.keyboard(),
              {[this](std::string_view bytes) { take(bytes); }, [this] { watched_.interrupted(); },
               [this](const std::string& state) {
                   say(fmt::format("{}: {}", options_.port, state.empty() ? "is back" : state));
               }}),
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
        if (!options.broker.empty())
            broker_.emplace(plan_of(options), rig, [this](const std::string& text) { say(text); });
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
        while (!asked_to_end() && !over_ && !listening_.over() && (!end_ || now() < *end_)) {
            if (listening_.wait(std::min(next_draw_, end_.value_or(INT64_MAX))))
                take_keys();
            if (port_.is_open() && watched_.companion().any())
                conversation_.step(port_, now(),
                                   [this](const std::string& command, const std::string& answer) {
                                       say(fmt::format("{}: {}", command, answer));
                                   });
            if (now() >= next_draw_) {
                page_.flush();
                flush();
                if (recorder_)
                    recorder_->step(utc());
                if (broker_)
                    tell_broker();
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
    bench::Watched& watched() { return watched_; }
    const bench::Conversation& conversation() const { return conversation_; }

  private:
    int64_t now() const { return listening_.now(); }
    static bench::BrokerPlan plan_of(const LiveOptions& options) {
        bench::BrokerPlan out = bench::broker_plan(options.broker);
        out.user = options.broker_user;
        out.ca = options.broker_ca;
        out.lets_command = options.let_broker_command;
        // Not among the arguments, which everybody on this machine can see.
        if (!options.broker_password.empty()) {
            out.password = rig::read_file(options.broker_password);
            out.password.erase(std::min(out.password.find_first_of("\r\n"), out.password.size()));
        }
        return out;
    }
    void tell_broker() {
        broker_->step(watched_, utc(), now());
        // What comes faster than a device answers waits there, and there is little room.
        if (!conversation_.pending().empty())
            return;
        for (std::string& command : broker_->take_commands())
            conversation_.say(std::move(command));
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
    void take_keys() {
        const LiveView::Asked asked = view_.read_keys(watched_);
        over_ = over_ || asked.end;
        for (const std::string& command : asked.commands) {
            conversation_.say(command);
            state_ = command + " ...";
        }
        next_draw_ = 0;
    }
    void take(std::string_view bytes) {
        if (save_ != nullptr && std::fwrite(bytes.data(), 1, bytes.size(), save_) != bytes.size())
            throw rig::InputError(
                fmt::format("{}: cannot be written: {}", options_.save, std::strerror(errno)));
        watched_.take(bytes);
    }

    const LiveOptions& options_;
    bench::Port& port_;
    Page& page_;
    LiveView view_;
    Listening listening_;
    bench::Conversation conversation_;
    std::optional<bench::Recorder> recorder_;
    std::optional<bench::Broker> broker_;
    bench::Watched watched_;
    std::FILE* save_ = nullptr;
    std::string state_;
    std::optional<int64_t> end_;
    int64_t next_draw_ = 0;
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
        ->add_option("--broker", options->broker,
                     "Tell an MQTT broker each reading, decision and output as it changes.")
        ->type_name("HOST[:PORT]");
    command->add_option("--broker-user", options->broker_user, "Who we are there.")
        ->type_name("NAME");
    command
        ->add_option("--broker-password", options->broker_password,
                     "A file whose first line is the password.")
        ->type_name("FILE");
    command
        ->add_option("--broker-ca", options->broker_ca,
                     "Go there by TLS, and check its certificate by those in this file.")
        ->type_name("FILE");
    command->add_flag("--let-broker-command", options->let_broker_command,
                      "Take commands from there, on topics that end with /set.");
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
