// SPDX-License-Identifier: MIT
#include "bench/live/watched.hpp"

#include "rig/decide/part.hpp"
#include "rig/text/text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <cmath>
#include <set>

namespace zorilla::bench {

Watched::Watched(const rig::Rig& rig, Tells tells)
    : rig_(rig), tells_(std::move(tells)), receiver_(rig),
      companion_(rig, {[this](const Event& event) { add(event); },
                       [this](int64_t milliseconds, const std::string& text, bool is_good) {
                           add({milliseconds, "", text, "", false, is_good});
                       }}),
      trends_(rig.sources.size()), last_(rig.drives.size()), hand_since_(rig.drives.size(), -1),
      moved_(rig.machines.size(), " since power-up"), said_(rig.senses.size(), INT64_MIN),
      raws_(rig.senses.size()) {
    // What the rig looks at lies on the axis from the beginning.
    for (const rig::Decide& decide : rig.decides)
        if (decide.judges)
            for (const rig::DecidePoint& point : rig::points_of(decide))
                widen(trends_[decide.of],
                      std::min(point.at.thousandths(), point.release.thousandths()),
                      std::max(point.at.thousandths(), point.release.thousandths()));
}

void Watched::take(std::string_view bytes) {
    while (!bytes.empty())
        if (const auto kind = receiver_.next(bytes))
            took(*kind);
}

bool Watched::finish() {
    const auto kind = receiver_.finish();
    if (kind)
        took(*kind);
    return kind.has_value() && *kind != Receiver::Kind::damaged;
}

void Watched::took(Receiver::Kind kind) {
    switch (kind) {
    case Receiver::Kind::row:
        foreign_ = false;
        if (!companion_.take(receiver_.row()))
            break;
        std::copy_n(receiver_.row().raws.begin(), raws_.size(), raws_.begin());
        look();
        tells_.row();
        break;
    case Receiver::Kind::header:
        companion_.header(receiver_.header_milliseconds());
        tells_.header();
        break;
    case Receiver::Kind::answer: tells_.answer(receiver_.text()); break;
    case Receiver::Kind::damaged: break;
    case Receiver::Kind::foreign:
        if (!foreign_)
            add({companion_.milliseconds(), "",
                 "the device was made of another rig file, or of another version of this one: its "
                 "rows cannot be told what they mean",
                 "", false, false});
        foreign_ = true;
        break;
    }
}

void Watched::add(const Event& event) {
    constexpr size_t most = 200;
    for (size_t i = 0; i < last_.size(); ++i)
        if (rig_.drives[i].name == event.who)
            last_[i] = event;
    for (size_t i = 0; i < moved_.size(); ++i)
        if (rig_.machines[i].name == event.who)
            moved_[i] =
                fmt::format(" since {}: {}", rig::time_to_text(event.milliseconds), event.reason);
    events_.push_back(event);
    if (events_.size() > most)
        events_.pop_front();
    tells_.event(event);
}

/// A number with one digit, not below this one.
static double round_step(double least) {
    const double ten = std::pow(10, std::floor(std::log10(least)));
    for (const double digit : {1.0, 2.0, 5.0})
        if (digit * ten >= least)
            return digit * ten;
    return 10 * ten;
}

/// Axes end at round numbers, in thousandths of what is counted.
void Watched::widen(Trend& trend, int32_t from, int32_t to) {
    if (trend.from != trend.to && from >= trend.from && to <= trend.to)
        return;
    if (trend.from != trend.to) {
        from = std::min(from, trend.from);
        to = std::max(to, trend.to);
    }
    const double span = std::max(static_cast<double>(to) - from, 1000.0);
    const double step = round_step(span / 5);
    const auto round = [step](double value) {
        return static_cast<int32_t>(std::clamp(value * step, -2e9, 2e9));
    };
    trend.from = round(std::floor(from / step));
    trend.to = std::max(round(std::ceil(to / step)), round(std::floor(from / step) + 1));
}

void Trend::add(int64_t milliseconds, double value) {
    step = milliseconds - last;
    last = milliseconds;
    for (size_t i = 0; i < std::size(lengths); ++i) {
        Level& level = levels[i];
        const int64_t piece = milliseconds / lengths[i];
        // A device that has begun anew goes on where it was.
        if (piece != level.piece && level.piece >= 0) {
            level.means.push_back(level.count > 0 ? level.sum / static_cast<double>(level.count)
                                                  : std::nan(""));
            for (int64_t lost = level.piece + 1; lost < std::min(piece, level.piece + most); ++lost)
                level.means.push_back(std::nan(""));
            while (static_cast<int64_t>(level.means.size()) > most)
                level.means.pop_front();
            level.sum = 0;
            level.count = 0;
        }
        level.piece = piece;
        if (!std::isnan(value)) {
            level.sum += value;
            ++level.count;
        }
    }
}

void Watched::look() {
    const rig::RunningRig& running = companion_.running();
    const int64_t now = companion_.milliseconds();
    for (size_t i = 0; i < trends_.size(); ++i) {
        if (rig_.sources[i].kind == rig::Kind::truth)
            continue;
        const rig::AnyReading reading = running.readings()[i];
        const int32_t value = reading.value_or({}).thousandths();
        if (reading.ok())
            widen(trends_[i], value, value);
        trends_[i].add(now, reading.ok() ? value : std::nan(""));
    }
    // What somebody says is no reading of a part, and news whenever it changes.
    for (size_t i = 0; i < said_.size(); ++i) {
        const rig::Sense& sense = rig_.senses[i];
        if (!sense.pin.empty())
            continue;
        if (said_[i] != INT64_MIN && said_[i] != raws_[i].bits())
            add({now, sense.name,
                 raws_[i].taken()
                     ? rig::to_text(running.readings()[sense.source].value_or({}).thousandths(),
                                    rig_.sources[sense.source].kind)
                     : std::string("nothing"),
                 "said over the line", false, true});
        said_[i] = raws_[i].bits();
    }
    for (size_t i = 0; i < hand_since_.size(); ++i) {
        const auto& hand = rig_.drives[i].hand;
        const bool has = hand && running.truths()[hand->fact] == Truth::yes;
        hand_since_[i] = !has ? -1 : hand_since_[i] < 0 ? now : hand_since_[i];
    }
}

std::optional<int64_t> Watched::hand_left(size_t drive) const {
    if (hand_since_[drive] < 0)
        return std::nullopt;
    const int64_t longest = rig_.drives[drive].hand->longest.thousandths();
    return std::max<int64_t>(hand_since_[drive] + longest - companion_.milliseconds(), 0);
}

std::vector<std::string> Watched::why(Question question) const {
    int64_t since = companion_.so_far().begin;
    if (question.about == Question::About::drive)
        if (const Event* last = last_of(question.index))
            since = last->milliseconds;
    return explain_now(companion_.running(), companion_.explainer(), moved_, question,
                       companion_.milliseconds(), since, raws_.data());
}

std::string short_name(const std::string& name) {
    std::string out;
    for (const char c : name) {
        const auto byte = static_cast<unsigned char>(c);
        const bool stays = std::isalnum(byte) || c == '-' || (c == '.' && !out.empty());
        out += stays ? static_cast<char>(std::tolower(byte)) : '_';
    }
    return out.empty() ? "_" : out;
}

namespace {

/// Goes from an output down to what is said over the line.
class Saids {
  public:
    explicit Saids(const rig::Rig& rig) : rig_(rig) {}

    void condition(const rig::Condition& when) {
        for (const size_t fact : when.facts())
            this->fact(fact);
    }
    void condition(const rig::WrittenCondition& when) {
        if (when.given())
            condition(when.condition);
    }
    void decision(size_t index) {
        const rig::Decide& decide = rig_.decides[index];
        if (decide.judges)
            source(decide.of);
        condition(decide.when);
        condition(decide.reset);
    }
    std::vector<std::string> names;

  private:
    void source(size_t index) {
        const rig::Sense* sense = rig_.sense_of(index);
        if (sense != nullptr && sense->pin.empty() && sense->word != "line_setting" &&
            std::find(names.begin(), names.end(), sense->name) == names.end())
            names.push_back(sense->name);
    }
    void fact(size_t index) {
        if (!seen_.insert(index).second)
            return;
        const rig::Fact& fact = rig_.facts[index];
        switch (rig::from_of(fact.kind)) {
        case rig::FactFrom::source: source(fact.of); break;
        case rig::FactFrom::edge: this->fact(fact.of); break;
        case rig::FactFrom::truth:
        case rig::FactFrom::decision: decision(fact.of); break;
        case rig::FactFrom::machine:
            for (const rig::WrittenCondition& event : rig_.machines[fact.of].events)
                condition(event);
            break;
        case rig::FactFrom::shutdown: condition(rig_.shutdown.when); break;
        case rig::FactFrom::hand:
        case rig::FactFrom::part:
        case rig::FactFrom::nobody: break;
        }
    }

    const rig::Rig& rig_;
    std::set<size_t> seen_;
};

} // namespace

std::vector<std::string> said_about(const rig::Rig& rig, size_t drive) {
    Saids out(rig);
    const rig::Drive& output = rig.drives[drive];
    if (output.hand) {
        out.condition(output.hand->take);
        out.condition(output.hand->back);
    }
    for (const rig::RigClaim& claim : output.claims) {
        if (claim.follows)
            out.decision(*claim.follows);
        if (!claim.always())
            out.condition(claim.when);
    }
    return std::move(out.names);
}

namespace {

std::vector<std::string> switches_of(const rig::Rig& rig, const rig::WrittenCondition& when) {
    Saids out(rig);
    out.condition(when);
    std::vector<std::string> names;
    for (const std::string& name : out.names)
        for (const rig::Sense& sense : rig.senses)
            if (sense.name == name && sense.raw == rig::RawKind::level)
                names.push_back(name);
    return names;
}

} // namespace

std::vector<std::string> said_about_test(const rig::Rig& rig) {
    return switches_of(rig, rig.self_test.when);
}
std::vector<std::string> said_about_shutdown(const rig::Rig& rig) {
    return switches_of(rig, rig.shutdown.when);
}

} // namespace zorilla::bench
