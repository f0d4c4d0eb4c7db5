// SPDX-License-Identifier: MIT
#include "cli/live_device.hpp"

#include "cli/command.hpp"
#include "rig/text/files.hpp"
#include "rig/text/text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <filesystem>

namespace zorilla::cli {

namespace {

bench::BrokerPlan broker_plan(const WatchPlan& plan) {
    bench::BrokerPlan out = bench::broker_plan(plan.broker);
    out.user = plan.broker_user;
    out.ca = plan.broker_ca;
    out.lets_command = plan.let_broker_command;
    // Not among the arguments, which everybody on this machine can see.
    if (!plan.broker_password.empty())
        out.password = first_line(plan.broker_password);
    return out;
}

std::optional<bench::Utc> began_of(const WatchPlan& plan) {
    if (plan.began.empty())
        return std::nullopt;
    const auto at = bench::utc_of(plan.began);
    if (!at)
        throw rig::InputError(fmt::format("--began: \"{}\" is no time; write it as \"2026-11-20\" "
                                          "or \"2026-11-20 06:30\", in UTC",
                                          plan.began));
    return at;
}

std::unique_ptr<bench::Paced> paced(const WatchPlan& plan, const WatchPlan::Place& place) {
    if (!plan.pace)
        return nullptr;
    std::error_code ignored;
    if (std::filesystem::exists(place.port, ignored) &&
        !std::filesystem::is_regular_file(place.port, ignored))
        throw rig::InputError(place.port + ": --pace is for a recorded file; what a device sends "
                                           "comes when it comes");
    return std::make_unique<bench::Paced>(place.port, *plan.pace);
}

} // namespace

bench::Utc utc_now() {
    return std::chrono::duration_cast<std::chrono::milliseconds>(
               std::chrono::system_clock::now().time_since_epoch())
        .count();
}

std::string first_line(const std::string& path) {
    std::string out = rig::read_file(path);
    out.erase(std::min(out.find_first_of("\r\n"), out.size()));
    return out;
}

LiveDevice::LiveDevice(const WatchPlan& plan, const WatchPlan::Place& place, rig::Rig rig,
                       const std::shared_ptr<bench::HistoryFile>& history, Tells tells)
    : place_(place), baud_(plan.baud), text_(rig::read_file(place.rig)), rig_(std::move(rig)),
      tells_(std::move(tells)), paced_(paced(plan, place)),
      port_(paced_ ? paced_->path() : place.port, plan.baud, true), conversation_(plan.say) {
    const rig::ShownUnits units(rig_.show);
    open_or_explain(port_, place.port);
    watched_ = std::make_unique<bench::Watched>(
        rig_,
        bench::Watched::Tells{[this](const bench::Event& event) {
                                  if (recorder_)
                                      recorder_->event(event, utc_now());
                                  tells_.event(event);
                              },
                              [this](const std::string& answer) { conversation_.hear(answer); },
                              [this] {
                                  if (recorder_)
                                      recorder_->row(*watched_, utc_now());
                                  tells_.row();
                              },
                              [this] { conversation_.hear_header(); }});
    if (port_.begins_anywhere())
        watched_->begins_anywhere();
    listening_ = std::make_unique<Listening>(
        port_, -1,
        Listening::Tells{[this](std::string_view bytes) { take(bytes); },
                         [this] { watched_->begins_anywhere(); },
                         [this](const std::string& state) {
                             line_ = state;
                             tells_.say(fmt::format("{}: {}", place_.port,
                                                    state.empty() ? "is back" : state));
                         }});
    if (history)
        recorder_.emplace(history, rig_, text_, began_of(plan), tells_.say);
    if (!plan.broker.empty())
        broker_.emplace(broker_plan(plan), rig_, tells_.say);
    if (!plan.save.empty())
        kept_.emplace(rig_, plan.save);
}

void LiveDevice::take(std::string_view bytes) {
    const rig::ShownUnits units(rig_.show);
    if (kept_)
        kept_->take(bytes);
    watched_->take(bytes);
}

void LiveDevice::say(const std::string& command, std::function<void(const std::string&)> answered) {
    conversation_.say(command);
    if (answered)
        waiting_.push_back({command, std::move(answered)});
}

void LiveDevice::converse() {
    if (!is_there())
        return;
    conversation_.step(
        port_, Listening::now(), [this](const std::string& command, const std::string& answer) {
            const auto asked =
                std::find_if(waiting_.begin(), waiting_.end(),
                             [&](const Answered& one) { return one.command == command; });
            if (asked != waiting_.end()) {
                const auto tell = std::move(asked->tell);
                waiting_.erase(asked);
                tell(answer);
            }
            tells_.say(fmt::format("{}: {}", command, answer));
        });
}

void LiveDevice::tell_broker() {
    broker_->step(*watched_, utc_now(), Listening::now());
    // What comes faster than a device answers waits there, and there is little room.
    if (!conversation_.pending().empty())
        return;
    for (std::string& command : broker_->take_commands())
        conversation_.say(std::move(command));
}

/// Once: who waits in vain is to know it, also where there is room for one short line only.
void LiveDevice::tell_silence() {
    const int64_t patience = std::max<int64_t>(5000, 2 * int64_t{rig_.report.thousandths()});
    const bool any = watched_->companion().any();
    if (any && told_silence_ && !std::exchange(told_rows_, true))
        tells_.say(fmt::format("{}: rows come", place_.port));
    if (any || watched_->is_foreign() || Listening::now() < patience ||
        std::exchange(told_silence_, true))
        return;
    const bench::Receiver& receiver = watched_->receiver();
    tells_.say(receiver.damaged() > 0
                   ? fmt::format("{}: no row yet at {} baud; not understood: {}", place_.port,
                                 baud_, receiver.problem())
                   : fmt::format("{}: no row yet at {} baud; was the device built with --send?",
                                 place_.port, baud_));
}

void LiveDevice::step() {
    const rig::ShownUnits units(rig_.show);
    if (kept_)
        kept_->flush();
    tell_silence();
    if (recorder_)
        recorder_->step(utc_now());
    if (broker_)
        tell_broker();
}

void LiveDevice::finish() {
    const rig::ShownUnits units(rig_.show);
    const bool whole = watched_->finish();
    if (kept_)
        kept_->finish(whole);
    if (recorder_)
        recorder_->finish();
}

} // namespace zorilla::cli
