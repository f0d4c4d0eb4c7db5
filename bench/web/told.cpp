// SPDX-License-Identifier: MIT
#include "bench/web/told.hpp"

#include "rig/emit/device.hpp"
#include "rig/text/text.hpp"

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <algorithm>
#include <cmath>

namespace zorilla::bench {

using nlohmann::json;

namespace {

constexpr size_t most_events = 200;

std::string text_of(const json& value) {
    return value.dump(-1, ' ', false, json::error_handler_t::replace);
}

/// A value of JSON with as many digits as tell.
std::string number_text(double value) {
    return std::isfinite(value) ? fmt::format("{:.7g}", value) : std::string("null");
}

json source_state(const Watched& watched, size_t index) {
    const Companion& beside = watched.companion();
    const rig::AnyReading reading = beside.running().readings()[index];
    const bool open = beside.is_open_source(index);
    json out = {{"health", open ? std::string_view("open") : rig::to_text(reading.health())}};
    if (reading.ok() && !open)
        out["value"] = reading.value_or({}).thousandths() / 1000.0;
    return out;
}

json decision_state(const Watched& watched, size_t index) {
    const rig::Decide& decide = watched.rig().decides[index];
    const Companion& beside = watched.companion();
    const rig::RunningRig& running = beside.running();
    if (decide.has_truth())
        return {{"is", beside.is_open_fact(decide.fact)
                           ? std::string_view("open")
                           : rig::to_text(running.truths()[decide.fact])}};
    if (decide.gives == rig::Gives::stage && running.stage(index).ok())
        return {{"is", fmt::format("stage {}", running.stage(index).value_or(Stage()).number())}};
    if (decide.gives == rig::Gives::duty && running.duty(index).ok())
        return {{"is", rig::to_text(running.duty(index).value_or(Duty()), rig::ValueKind::duty)}};
    return {{"is", "unknown"}};
}

/// What an output is: as the device says, or else as the desk knows.
struct OutputNow {
    std::string is;
    bool on, known, other;
};
OutputNow output_now(const Watched& watched, size_t index) {
    const Companion& beside = watched.companion();
    const rig::Driven& driven = beside.running().drivens()[index];
    const int64_t said = beside.said(index);
    const bool other = said >= 0 && said != driven.value.bits();
    return {other ? rig::to_text(rig::AnyValue::from_bits(static_cast<uint32_t>(said)),
                                 watched.rig().drives[index].kind())
                  : beside.explainer().what_driven(index),
            other ? said != 0 : driven.is_on, said >= 0 || !beside.is_open_drive(index), other};
}

json output_state(const Watched& watched, size_t index) {
    const rig::Drive& drive = watched.rig().drives[index];
    const Companion& beside = watched.companion();
    const rig::Driven& driven = beside.running().drivens()[index];
    const OutputNow now = output_now(watched, index);
    json out = {{"is", now.is}, {"on", now.on}};
    if (!now.known)
        out["open"] = true;
    if (now.other && beside.differs())
        out["differs"] = rig::to_text(driven.value, drive.kind());
    if (driven.tested) {
        out["by"] = "self-test";
    } else if (driven.cause == Cause::claim) {
        static constexpr const char* names[] = {"rule", "hand", "shutdown", "rest"};
        out["by"] = names[static_cast<size_t>(drive.claims[driven.claim].by)];
        out["claim"] = driven.claim;
    } else {
        out["by"] = driven.cause == Cause::rest   ? "rest"
                    : driven.cause == Cause::safe ? "safe"
                                                  : "guard";
    }
    if (beside.is_open_drive(index))
        out["why"] = "what it did before it was seen still matters";
    else if (const Event* last = watched.last_of(index))
        out["why"] = last->reason;
    if (const auto left = watched.hand_left(index))
        out["left"] = *left / 1000 * 1000;
    return out;
}

} // namespace

Told::Told(const rig::Rig& rig)
    : rig_(rig), id_(short_name(rig.name)), name_(rig.name), about_(about_device(rig)),
      charts_(rig.sources.size() + rig.drives.size()) {
    for (const rig::Source& source : rig.sources)
        metrics_.push_back({source.name, false, 0});
    for (const rig::Drive& drive : rig.drives)
        metrics_.push_back({drive.name, false, 0});
}

void Told::put(const std::string& name, std::string text) {
    const auto found = std::find_if(parts_.begin(), parts_.end(),
                                    [&](const auto& part) { return part.first == name; });
    Part& part = found == parts_.end() ? parts_.emplace_back(name, Part()).second : found->second;
    if (part.text == text)
        return;
    part.text = std::move(text);
    part.version = ++version_;
}

void Told::look(const Watched& watched, const std::string& line, int64_t utc) {
    const Companion& beside = watched.companion();
    const bool new_row = beside.rows() != seen_rows_;
    seen_rows_ = beside.rows();
    rows_ = beside.rows();
    damaged_ = watched.receiver().damaged();
    if (new_row)
        last_row_ = utc;
    static constexpr const char* standings[] = {"waiting for its first row", "seen from its start",
                                                "in part open: not all of it was seen",
                                                "caught up"};
    const bool foreign = watched.is_foreign();
    const bool differs = beside.differs();
    // Told by the second, so that what stands still makes no traffic.
    const int64_t silent = last_row_ == 0 ? 0 : (utc - last_row_) / 1000;
    json state = {{"state", foreign   ? "it was made of another rig file"
                            : differs ? "it does otherwise than the rig file says"
                                      : standings[static_cast<size_t>(beside.standing())]},
                  {"good", !foreign && !differs},
                  {"line", line},
                  {"silent", silent >= 3 ? silent : 0},
                  {"on", beside.any() ? beside.milliseconds() / 1000 : 0},
                  {"damaged", watched.receiver().damaged()},
                  {"missed", beside.missed()}};
    put("device", text_of(state));
    if (!beside.any() || !new_row)
        return;
    for (size_t i = 0; i < rig_.sources.size(); ++i) {
        const json is = source_state(watched, i);
        put("source." + rig_.sources[i].name, text_of(is));
        const bool known = is.contains("value");
        const double value = known ? is["value"].get<double>() : std::nan("");
        charts_[i].add(utc, value);
        metrics_[i].known = known;
        metrics_[i].value = value;
    }
    for (size_t i = 0; i < rig_.decides.size(); ++i)
        put("decision." + rig_.decides[i].name, text_of(decision_state(watched, i)));
    for (size_t i = 0; i < rig_.machines.size(); ++i)
        put("machine." + rig_.machines[i].name,
            text_of({{"is", beside.is_open_machine(i)
                                ? "open"
                                : rig_.machines[i].states[beside.running().state(i)]}}));
    for (size_t i = 0; i < rig_.drives.size(); ++i) {
        put("output." + rig_.drives[i].name, text_of(output_state(watched, i)));
        const OutputNow now = output_now(watched, i);
        const size_t at = rig_.sources.size() + i;
        charts_[at].add(utc, !now.known ? std::nan("") : now.on ? 1.0 : 0.0);
        metrics_[at].known = now.known;
        metrics_[at].value = now.on ? 1 : 0;
    }
}

void Told::add(const Event& event, int64_t utc) {
    json out = {{"n", ++number_},         {"time", utc},
                {"what", event.what},     {"who", event.who},
                {"reason", event.reason}, {"good", event.is_good}};
    events_.push_back({text_of(out), ++version_});
    if (events_.size() > most_events)
        events_.pop_front();
}

void Told::remember(History& history, int64_t utc) {
    for (const KnownDevice& device : history.devices()) {
        if (device.name != rig_.name || device.number != rig::number_of(rig_))
            continue;
        for (size_t i = 0; i < charts_.size(); ++i)
            charts_[i].remember(history, device.id, metrics_[i].name, 0.001, utc);
        for (const auto& [time, event] : history.events(device.id, utc - 86'400'000, utc))
            add(event, time);
    }
}

std::string Told::since(uint64_t version) const {
    std::string parts, events;
    for (const auto& [name, part] : parts_)
        if (part.version > version)
            parts += fmt::format("{}{}:{}", parts.empty() ? "" : ",", text_of(name), part.text);
    for (const Happened& one : events_)
        if (one.version > version)
            events += (events.empty() ? "" : ",") + one.text;
    return fmt::format("{{\"id\":{},\"parts\":{{{}}},\"events\":[{}]}}", text_of(id_), parts,
                       events);
}

std::string Told::chart(std::string_view part, std::string_view span, int64_t utc) const {
    const auto found = std::find_if(metrics_.begin(), metrics_.end(),
                                    [part](const Metric& one) { return one.name == part; });
    for (size_t i = 0; i < std::size(chart_spans) && found != metrics_.end(); ++i) {
        if (chart_spans[i].name != span)
            continue;
        const int64_t piece = chart_spans[i].piece;
        const auto count = static_cast<int64_t>(chart_spans[i].pieces);
        const int64_t first = utc / piece - count + 1;
        std::string means, leasts, mosts;
        auto next = charts_[static_cast<size_t>(found - metrics_.begin())].pieces(i).begin();
        const auto end = charts_[static_cast<size_t>(found - metrics_.begin())].pieces(i).end();
        for (int64_t number = first; number < first + count; ++number) {
            while (next != end && next->number < number)
                ++next;
            const bool any = next != end && next->number == number && next->weight > 0;
            const char* comma = number == first ? "" : ",";
            means += comma + number_text(any ? next->sum / next->weight : std::nan(""));
            leasts += comma + number_text(any ? next->least : std::nan(""));
            mosts += comma + number_text(any ? next->most : std::nan(""));
        }
        return fmt::format("{{\"part\":{},\"from\":{},\"step\":{},\"mean\":[{}],\"least\":[{}],"
                           "\"most\":[{}]}}",
                           text_of(found->name), first * piece, piece, means, leasts, mosts);
    }
    return "";
}

std::optional<Question> Told::question(const rig::Rig& rig, const std::string& part) {
    const auto find = [&](const char* before, const auto& parts,
                          Question::About about) -> std::optional<Question> {
        for (size_t i = 0; i < parts.size(); ++i)
            if (before + parts[i].name == part)
                return Question{about, i, 0};
        return std::nullopt;
    };
    if (auto out = find("output.", rig.drives, Question::About::drive))
        return out;
    if (auto out = find("decision.", rig.decides, Question::About::decide))
        return out;
    if (auto out = find("machine.", rig.machines, Question::About::machine))
        return out;
    return find("source.", rig.sources, Question::About::source);
}

} // namespace zorilla::bench
