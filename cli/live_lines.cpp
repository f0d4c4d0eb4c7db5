// SPDX-License-Identifier: MIT
// The lines of a running device's screen.
#include "cli/live_view.hpp"
#include "cli/page.hpp"
#include "rig/text/text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace zorilla::cli {

namespace {

constexpr size_t ends_width = 24; ///< of the text of an axis

std::string padded(const std::string& text, size_t width) {
    const size_t is = screen_width(text);
    return text + std::string(width > is ? width - is : 0, ' ');
}

size_t name_width(const rig::Rig& rig) {
    size_t out = 6;
    for (const rig::Source& source : rig.sources)
        out = std::max(out, source.name.size());
    for (const rig::Drive& drive : rig.drives)
        out = std::max(out, drive.name.size());
    return std::min<size_t>(out, 20);
}

/// A time span to be read at a glance: its two largest parts.
std::string glance(int64_t milliseconds) {
    const int64_t unit = milliseconds >= 86'400'000  ? 3'600'000
                         : milliseconds >= 3'600'000 ? 60'000
                                                     : 1000;
    return rig::span_to_text(milliseconds / unit * unit);
}

} // namespace

std::string LiveView::title(const bench::Watched& watched, size_t width,
                            const std::string& place) const {
    const bench::Companion& beside = watched.companion();
    const std::string name =
        fit(shown_text(watched.rig().name) + (place.empty() ? "" : ", " + place), width / 2);
    std::string text, bad;
    if (watched.is_foreign())
        bad = "it was made of another rig file";
    else if (!beside.any())
        text = watched.receiver().damaged() > 0 ? "no row yet; lines come that nobody understands"
                                                : "waiting for its first row";
    else if (beside.differs())
        bad = "it does otherwise than the rig file says";
    if (beside.any() && bad.empty())
        switch (beside.standing()) {
        case bench::Standing::waiting: break;
        case bench::Standing::whole: text = "seen from its start"; break;
        case bench::Standing::open: text = "in part open: not all of it was seen"; break;
        case bench::Standing::caught: text = "caught up"; break;
        }
    const std::string on =
        beside.any() ? fmt::format("on for {}, ", glance(beside.milliseconds())) : "";
    const size_t rest = width - std::min(width, screen_width(name) + 2);
    return terminal_.bold(name) + "  " +
           (bad.empty() ? fit(on + text, rest) : terminal_.warning(fit(on + bad, rest)));
}

size_t LiveView::level_of(const bench::Trend& trend, size_t width) const {
    if (zoom_ > 0)
        return zoom_ - 1;
    // The finest that shows all there is, and has a row in each piece.
    size_t level = 0;
    while (level + 1 < std::size(bench::Trend::lengths) &&
           (trend.levels[level].means.size() >= std::min(width, size_t{bench::Trend::most}) ||
            bench::Trend::lengths[level] < trend.step))
        ++level;
    return level;
}

std::string LiveView::trend(const bench::Trend& trend, size_t width) const {
    static constexpr const char* blocks[] = {"▁", "▂", "▃", "▄", "▅", "▆", "▇", "█"};
    static constexpr const char* signs[] = {"_", ".", ".", "-", "-", "+", "*", "#"};
    const auto& means = trend.levels[level_of(trend, width)].means;
    const size_t count = std::min(width, means.size());
    std::string out(width - count, ' ');
    const double span = std::max(1.0, static_cast<double>(trend.to) - trend.from);
    for (size_t i = means.size() - count; i < means.size(); ++i) {
        if (std::isnan(means[i])) {
            out += ' ';
            continue;
        }
        const double height = (means[i] - trend.from) / span * 8;
        const auto level = static_cast<size_t>(std::clamp(std::floor(height), 0.0, 7.0));
        out += (terminal_.blocks() ? blocks : signs)[level];
    }
    return out;
}

size_t LiveView::trend_width(const rig::Rig& rig, size_t width) const {
    const size_t used = 2 + name_width(rig) + 1 + 14 + 2;
    const size_t ends = width >= used + 20 + ends_width ? ends_width + 2 : 0;
    return width < used + 10 ? 0 : std::min(width - used - ends, size_t{bench::Trend::most});
}

std::string LiveView::trends_over(const bench::Watched& watched, size_t width) const {
    const size_t room = trend_width(watched.rig(), width);
    for (size_t i = 0; i < watched.rig().sources.size() && room > 0; ++i) {
        const bench::Trend& trend = watched.trend(i);
        const size_t level = level_of(trend, room);
        const size_t count = std::min(room, trend.levels[level].means.size());
        if (trend.from != trend.to && count > 0)
            return fmt::format("   trends over {}",
                               glance(static_cast<int64_t>(count) * bench::Trend::lengths[level]));
    }
    return "";
}

std::string LiveView::reading(const bench::Watched& watched, size_t index, size_t width) const {
    const rig::Rig& rig = watched.rig();
    const rig::Source& source = rig.sources[index];
    const bench::Companion& beside = watched.companion();
    const size_t names = name_width(rig);
    const std::string name = padded(fit(source.name, names), names);
    if (!beside.any())
        return "  " + name;
    const rig::AnyReading reading = beside.running().readings()[index];
    const bool is_truth = source.kind == rig::Kind::truth;
    const int32_t value = reading.value_or({}).thousandths();
    std::string text = !reading.ok() ? std::string(rig::to_text(reading.health()))
                       : is_truth    ? std::string(value != 0 ? "yes" : "no")
                                     : rig::reading_text(value, source.kind);
    if (beside.is_open_source(index))
        text = "open";
    text = fmt::format("{:>14}", text);
    std::string out = "  " + name + " " +
                      (reading.ok() || text == "          open" ? text : terminal_.warning(text));
    if (is_truth)
        return out;
    const bench::Trend& trend = watched.trend(index);
    if (trend.from == trend.to)
        return out;
    const std::string ends = fmt::format("{} to {}", rig::to_text(trend.from, source.kind),
                                         rig::to_text(trend.to, source.kind));
    const size_t room = trend_width(rig, width);
    if (room == 0)
        return out;
    const bool with_ends = width >= 2 + names + 1 + 14 + 2 + 20 + ends_width;
    return out + "  " + this->trend(trend, room) +
           (with_ends ? "  " + terminal_.faint(fit(ends, ends_width)) : "");
}

LiveView::Lines LiveView::decisions(const bench::Watched& watched, size_t width) const {
    const rig::Rig& rig = watched.rig();
    const bench::Companion& beside = watched.companion();
    Lines out;
    if (!beside.any())
        return out;
    const rig::RunningRig& running = beside.running();
    std::string line = "  ";
    size_t used = 2;
    const auto add = [&](const std::string& name, const std::string& is, bool warns) {
        const size_t wide = screen_width(name) + 1 + screen_width(is);
        if (used > 2 && used + wide + 3 > width) {
            out.push_back(line);
            line = "  ";
            used = 2;
        }
        if (used > 2)
            line += "   ";
        line += terminal_.faint(name) + " " + (warns ? terminal_.warning(is) : is);
        used += wide + (used > 2 ? 3 : 0);
    };
    for (size_t i = 0; i < rig.decides.size(); ++i) {
        const rig::Decide& decide = rig.decides[i];
        std::string is = "unknown";
        bool open = false;
        if (decide.has_truth()) {
            is = rig::to_text(running.truths()[decide.fact]);
            open = beside.is_open_fact(decide.fact);
        } else if (decide.gives == rig::Gives::stage) {
            if (running.stage(i).ok())
                is = fmt::format("stage {}", running.stage(i).value_or(Stage()).number());
        } else if (running.duty(i).ok()) {
            is = rig::to_text(running.duty(i).value_or(Duty()), rig::ValueKind::duty);
        }
        add(decide.name, open ? "open" : is, is == "unknown" && !open);
    }
    for (size_t i = 0; i < rig.machines.size(); ++i)
        add(rig.machines[i].name,
            beside.is_open_machine(i) ? "open" : rig.machines[i].states[running.state(i)], false);
    if (used > 2)
        out.push_back(line);
    return out;
}

std::string LiveView::output(const bench::Watched& watched, size_t index, size_t width) const {
    const rig::Rig& rig = watched.rig();
    const rig::Drive& drive = rig.drives[index];
    const bench::Companion& beside = watched.companion();
    const size_t names = name_width(rig);
    const bool chosen = index == selected_ && keyboard() >= 0;
    const std::string name = padded(fit(drive.name, names), names);
    std::string out = (chosen ? "> " : "  ") + (chosen ? terminal_.bold(name) : name) + " ";
    if (!beside.any())
        return out;
    const rig::Driven& driven = beside.running().drivens()[index];
    const int64_t said = beside.said(index);
    const bool other = said >= 0 && said != driven.value.bits();
    const std::string is =
        other ? rig::to_text(rig::AnyValue::from_bits(static_cast<uint32_t>(said)), drive.kind())
              : beside.explainer().what_driven(index);
    std::string why;
    if (const auto left = watched.hand_left(index))
        why = fmt::format("by hand, at most {} left; ", glance(*left));
    if (beside.differs() && other)
        why +=
            fmt::format("the rig file would have it {}", rig::to_text(driven.value, drive.kind()));
    else if (beside.is_open_drive(index))
        why += "open: what it did before it was seen still matters";
    else if (const bench::Event* last = watched.last_of(index))
        why += last->reason.substr(last->reason.rfind("by hand: ", 0) == 0 ? 9 : 0);
    const std::string value = fmt::format("{:<14}", fit(is, 14));
    const size_t used = 2 + names + 1 + 14 + 2;
    return out + (driven.is_on ? terminal_.bold(value) : value) + "  " +
           fit(shown_text(why), width - std::min(width, used));
}

std::string LiveView::event(const bench::Event& event, size_t width) const {
    const std::string time = rig::time_to_text(event.milliseconds / 1000 * 1000);
    const std::string text =
        event.who.empty() ? event.what : event.who + " " + event.what + ": " + event.reason;
    const std::string cut = fit(shown_text(text), width - std::min(width, time.size() + 4));
    return "  " + terminal_.faint(time) + "  " + (event.is_good ? cut : terminal_.warning(cut));
}

} // namespace zorilla::cli
