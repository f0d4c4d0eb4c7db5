// SPDX-License-Identifier: MIT
#include "cli/watching.hpp"

#include "bench/web/web_page.hpp"
#include "cli/command.hpp"
#include "cli/live_view.hpp"
#include "cli/page_phrase.hpp"
#include "cli/signals.hpp"
#include "rig/text/files.hpp"
#include "rig/text/text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <set>

namespace zorilla::cli {

namespace {

class Watching {
  public:
    Watching(const WatchPlan& plan, Page& page)
        : plan_(plan), page_(page), view_(plan.devices.front().port == "-") {
        if (!plan.page.empty())
            web_.emplace(bench::web_plan(plan.page, page_phrase(plan.page, plan.page_phrase)));
        if (!plan.history.empty())
            history_ = std::make_shared<bench::HistoryFile>(plan.history,
                                                            int64_t{plan.keep_days} * 86'400'000);
        std::set<std::string> names;
        for (const WatchPlan::Place& place : plan.devices) {
            const size_t i = devices_.size();
            rig::Rig rig = usable_rig(place.rig);
            if (rig.report != Duration{})
                throw rig::InputError(fmt::format(
                    "{}: to say why it does what it does, a row of each pass is needed, and this "
                    "device reports each {}; drop \"report\" in [board] and build it anew, or keep "
                    "its rows with: zorilla capture {} --out rows.csv",
                    place.rig, rig::span_to_text(rig.report.thousandths()), place.port));
            if (!names.insert(bench::short_name(rig.name)).second)
                throw rig::InputError(
                    fmt::format("{}: there is a \"{}\" already among the devices that are watched; "
                                "give it a name of its own in [rig], and build it anew",
                                place.rig, rig.name));
            devices_.push_back(std::make_unique<LiveDevice>(
                plan, place, std::move(rig), history_,
                LiveDevice::Tells{[this, i](const std::string& text) { say(i, text); },
                                  [this, i](const bench::Event& event) { tell(i, event); },
                                  [this, i] { dirty_.insert(i); }}));
            if (web_)
                web_->add(devices_.back()->rig());
        }
        if (web_ && history_)
            remember();
        if (web_) {
            web_->open();
            message(fmt::format("The page: {}", web_->address()));
        }
        states_.resize(devices_.size(), web_ ? "page: " + web_->address() : std::string());
        if (!plan.duration.empty())
            end_ = Listening::now() + time_option("--for", plan.duration, "10 s");
    }

    void run() {
        std::vector<Listening*> listening;
        for (const auto& device : devices_)
            listening.push_back(&device->listening());
        const auto over = [&listening] {
            return std::all_of(listening.begin(), listening.end(),
                               [](const Listening* one) { return one->over(); });
        };
        const std::vector<int> others = {view_.keyboard(), web_ ? web_->descriptor() : -1};
        while (!asked_to_end() && !over_ && !over() && (!end_ || Listening::now() < *end_)) {
            const auto came =
                Listening::wait(listening, others, std::min(next_draw_, end_.value_or(INT64_MAX)));
            if (came.front())
                take_keys();
            if (web_) {
                answer_page();
                for (const size_t i : dirty_)
                    show(i);
            }
            dirty_.clear();
            for (const auto& device : devices_)
                device->converse();
            if (Listening::now() >= next_draw_)
                draw();
        }
        for (const auto& device : devices_)
            device->finish();
        view_.end();
    }
    const std::vector<std::unique_ptr<LiveDevice>>& devices() const { return devices_; }

  private:
    LiveDevice& chosen() { return *devices_[chosen_]; }
    void show(size_t i) {
        const rig::ShownUnits units(devices_[i]->rig().show);
        web_->show(i, devices_[i]->watched(), devices_[i]->line(), utc_now());
    }
    void draw() {
        page_.flush();
        for (const auto& device : devices_)
            device->step();
        // What changes without a row: the port, for how long nothing has come.
        for (size_t i = 0; i < devices_.size() && web_; ++i)
            show(i);
        const rig::ShownUnits units(chosen().rig().show);
        view_.draw(chosen().watched(), states_[chosen_],
                   devices_.size() < 2 ? std::string()
                                       : fmt::format("{} of {}", chosen_ + 1, devices_.size()));
        next_draw_ = Listening::now() + 200;
    }
    void say(size_t i, const std::string& text) {
        if (i < states_.size())
            states_[i] = text;
        if (!view_.shows())
            message(devices_.size() < 2 ? text : devices_[i]->rig().name + ": " + text);
        dirty_.insert(i);
        next_draw_ = 0;
    }
    void tell(size_t i, const bench::Event& event) {
        if (web_)
            web_->event(i, event, utc_now());
        if (view_.shows())
            return;
        const std::string before =
            devices_.size() < 2 ? std::string() : devices_[i]->rig().name + "  ";
        print_event(page_, devices_[i]->rig(), event, before);
    }
    void take_keys() {
        const LiveView::Asked asked = view_.read_keys(chosen().watched());
        over_ = over_ || asked.end;
        for (const std::string& command : asked.commands) {
            chosen().say(command);
            states_[chosen_] = command + " ...";
        }
        chosen_ = (chosen_ + asked.next) % devices_.size();
        next_draw_ = 0;
    }
    /// What somebody has asked for from the page.
    void answer_page() {
        for (bench::WebPage::Asked& asked : web_->take()) {
            LiveDevice& device = *devices_[asked.device];
            const rig::ShownUnits units(device.rig().show);
            // What cannot be said now is not said in an hour, when nobody thinks of it any more.
            if (!device.is_there())
                asked.answer("the device is not there; try again once it is");
            else if (asked.why)
                asked.answer(fmt::format("{}", fmt::join(device.watched().why(*asked.why), "\n")));
            else
                device.say(asked.command, std::move(asked.answer));
        }
    }
    /// The page's charts begin with what the history has.
    void remember() {
        bench::History history(plan_.history);
        const bench::Utc now = utc_now();
        for (size_t i = 0; i < devices_.size(); ++i)
            web_->remember(i, history, now);
    }

    const WatchPlan& plan_;
    Page& page_;
    LiveView view_;
    std::optional<bench::WebPage> web_;
    std::shared_ptr<bench::HistoryFile> history_;
    std::vector<std::unique_ptr<LiveDevice>> devices_;
    std::vector<std::string> states_; ///< of each, what was last said of it
    std::set<size_t> dirty_;          ///< of which something new is to be shown
    size_t chosen_ = 0;
    std::optional<int64_t> end_;
    int64_t next_draw_ = 0;
    bool over_ = false;
};

std::string counted(uint64_t count, const char* one, const char* many) {
    return fmt::format("{} {}", rig::count_to_text(count), count == 1 ? one : many);
}

/// \return  whether it did as it should
bool summarise(LiveDevice& device, const WatchPlan& plan, Page& page) {
    const rig::ShownUnits units(device.rig().show);
    bench::Watched& watched = device.watched();
    const bench::Companion& beside = watched.companion();
    if (!beside.any())
        throw rig::InputError(fmt::format(
            "{}: no row came that this rig file explains; {}", device.port(),
            watched.is_foreign() ? "the device was made of another one"
            : watched.receiver().damaged() > 0
                ? "the last line was not understood: " + watched.receiver().problem()
                : fmt::format("does the device send, as after zorilla firmware {} --send, and at "
                              "{} baud?",
                              device.rig_path(), plan.baud)));
    page.line();
    page.line(page.bold(plan.devices.size() < 2 ? std::string("In all")
                                                : fmt::format("{} in all", device.rig().name)));
    print_summary(page, device.rig(), watched.companion().finish(), 0);
    page.line();
    page.line(fmt::format("  {} came; {} damaged; of {} no row came",
                          counted(beside.rows(), "row", "rows"),
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
    for (const std::string& command : device.conversation().pending())
        message(fmt::format("{}: it ended before that was answered", command));
    return !beside.differs() && device.conversation().obeyed() &&
           device.conversation().pending().empty();
}

} // namespace

Status watch(const WatchPlan& plan, Page& page) {
    end_on_signals();
    Watching watching(plan, page);
    watching.run();
    bool fine = true;
    for (const auto& device : watching.devices())
        fine = summarise(*device, plan, page) && fine;
    page.finish();
    return fine ? done : found_wanting;
}

} // namespace zorilla::cli
