// SPDX-License-Identifier: MIT
#include "bench/judge.hpp"

#include "rig/prove/replay.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace zorilla::bench {

using rig::Promise;

namespace {

constexpr int64_t day = 86'400'000;

} // namespace

Judge::Judge(const rig::Rig& rig, bool in_full)
    : rig_(&rig), promises_(rig.promises.size()), nevers_(rig.nevers.size()), in_full_(in_full) {
    for (size_t i = 0; i < promises_.size(); ++i)
        promises_[i].verdict.says = rig.promises[i].says;
    for (size_t i = 0; i < nevers_.size(); ++i) {
        nevers_[i].verdict.says = "never " + rig.nevers[i].text;
        nevers_[i].verdict.judged = true;
    }
    for (const Promise& promise : rig.promises)
        asks_for_faults_ = asks_for_faults_ || promise.is == Promise::Is::told;
}

void Judge::breaks(State& state, int64_t now, std::string how) {
    if (!state.verdict.broken) {
        state.verdict.first = now;
        state.verdict.how = std::move(how);
    }
    state.verdict.broken = true;
    ++state.verdict.times;
}

void Judge::begin(int64_t now) {
    if (!begun_)
        last_ = now;
    begun_ = true;
}

void Judge::pass_dark(int64_t now, const Truly& truly) {
    begin(now);
    for (size_t i = 0; i < promises_.size(); ++i) {
        const Promise& promise = rig_->promises[i];
        if (promise.is == Promise::Is::range) {
            const auto real = truly(promise.of);
            range(promise, promises_[i], now, real ? std::optional(*real * 1000) : std::nullopt);
        } else if (promise.is == Promise::Is::times_a_day || promise.is == Promise::Is::on_a_day) {
            switched(promise, promises_[i], now, false);
        }
    }
    last_ = now;
}

void Judge::look(int64_t now, const rig::RunningRig& running, const Truly& truly, uint64_t faults) {
    begin(now);
    if (!truly && asks_for_faults_)
        for (size_t i = 0; i < rig_->senses.size(); ++i)
            for (size_t k = 0; k < rig_->senses[i].sources; ++k)
                if (!running.readings()[rig_->senses[i].source + k].ok())
                    faults |= fault_of_sense(i);
    rig::prove::all_truths(running, truths_);
    for (size_t i = 0; i < promises_.size(); ++i)
        judge(rig_->promises[i], promises_[i], now, running, truly, faults);
    for (size_t i = 0; i < nevers_.size(); ++i) {
        State& state = nevers_[i];
        const Truth truth = rig_->nevers[i].condition.evaluate(truths_.data());
        const bool is = truth != Truth::no; // what is unknown may be, as for a proof
        if (is && !state.is) {
            state.verdict.maybe = !state.verdict.broken;
            breaks(state, now, "");
        }
        state.verdict.maybe = state.verdict.maybe && truth != Truth::yes;
        state.is = is;
    }
    faults_before_ = faults;
}

/// Until when, and between which values, nothing can become of any promise.
void Judge::calm_down() {
    constexpr int64_t for_ever = INT64_MAX;
    look_again_ = for_ever;
    calm_.clear();
    for (size_t i = 0; i < promises_.size(); ++i) {
        const Promise& promise = rig_->promises[i];
        const State& state = promises_[i];
        switch (promise.is) {
        case Promise::Is::range:
            if (state.is)
                look_again_ = 0;
            calm_.push_back({i, promise.of, state.least, state.most_seen});
            break;
        case Promise::Is::on_a_day:
            if (state.was_on)
                look_again_ = 0;
            break;
        case Promise::Is::times_a_day: break;
        case Promise::Is::answered:
        case Promise::Is::told:
            if (state.answer == State::Answer::awaited)
                look_again_ = std::min(look_again_, state.since + promise.time + 1);
            break;
        }
    }
}

void Judge::judge(const Promise& promise, State& state, int64_t now, const rig::RunningRig& running,
                  const Truly& truly, uint64_t faults) {
    const auto is_so = [&](const rig::WrittenCondition& when) {
        return when.condition.evaluate(truths_.data()) == Truth::yes;
    };
    switch (promise.is) {
    case Promise::Is::range: {
        const auto real = truly ? truly(promise.of) : std::nullopt;
        const rig::AnyReading reading = running.readings()[promise.of];
        return range(promise, state, now,
                     real           ? std::optional(*real * 1000)
                     : reading.ok() ? std::optional<double>(reading.value_or({}).thousandths())
                                    : std::nullopt);
    }
    case Promise::Is::times_a_day:
    case Promise::Is::on_a_day:
        return switched(promise, state, now, running.drivens()[promise.of].is_on);
    case Promise::Is::answered:
        return wait(promise, state, now, is_so(promise.when), false, is_so(promise.then));
    case Promise::Is::told: {
        uint64_t whose = promise.senses.empty() ? ~uint64_t{0} : 0;
        for (const size_t sense : promise.senses)
            whose |= fault_of_sense(sense);
        return wait(promise, state, now, (faults & whose) != 0,
                    (faults & whose & ~faults_before_) != 0, is_so(promise.then));
    }
    }
}

double Judge::beyond(const Promise& promise, double value) {
    const double below = promise.at_least ? *promise.at_least - value : -1e300;
    const double above = promise.at_most ? value - *promise.at_most : -1e300;
    return std::max(below, above);
}

void Judge::see(State& state, double value, double beyond) {
    if (!state.any || beyond > state.verdict.furthest) {
        state.verdict.furthest = beyond;
        state.furthest = value;
    }
    state.any = true;
    if (beyond <= 0) {
        state.least = std::min(state.least, value);
        state.most_seen = std::max(state.most_seen, value);
    }
}

bool Judge::widen(Calm& calm, double value) {
    const double by = beyond(rig_->promises[calm.promise], value);
    if (by > 0)
        return false;
    State& state = promises_[calm.promise];
    see(state, value, by);
    calm.lowest = state.least;
    calm.highest = state.most_seen;
    return true;
}

void Judge::range(const Promise& promise, State& state, int64_t now, std::optional<double> known) {
    if (!known) {
        state.is = false;
        state.unknown_since = state.unknown_since.value_or(now);
        return;
    }
    const double value = *known;
    Verdict& verdict = state.verdict;
    verdict.judged = true;
    if (state.unknown_since)
        verdict.unknown += now - *state.unknown_since;
    state.unknown_since.reset();
    const double by = beyond(promise, value);
    see(state, value, by);
    if (state.is)
        verdict.outside += now - last_;
    const bool outside = by > 0;
    if (outside && !state.is) {
        state.since = now;
        state.done = false;
    }
    state.is = outside;
    if (outside && !state.done && now - state.since >= promise.time) {
        state.done = true;
        breaks(state, state.since, "");
    }
}

void Judge::switched(const Promise& promise, State& state, int64_t now, bool is_on) {
    state.verdict.judged = true;
    if (!is_on && !state.was_on)
        return; // it only gets less
    if (is_on && !state.was_on)
        state.on.emplace_back(now, now);
    state.on.back().second = now;
    const bool goes_on = is_on && state.was_on;
    state.was_on = is_on;
    if (goes_on && promise.is == Promise::Is::times_a_day)
        return; // it only becomes more when it is switched on
    while (state.on.front().second <= now - day)
        state.on.pop_front();
    int64_t is = 0;
    const bool times = promise.is == Promise::Is::times_a_day;
    for (const auto& stretch : state.on)
        is += times ? (stretch.first > now - day ? 1 : 0)
                    : stretch.second - std::max(stretch.first, now - day);
    state.most = std::max(state.most, is);
    const bool too_much = is > (times ? promise.most_times : promise.time);
    if (too_much && !state.is)
        breaks(state, now, "");
    state.is = too_much;
}

void Judge::wait(const Promise& promise, State& state, int64_t now, bool asks, bool afresh,
                 bool answers) {
    using Answer = State::Answer;
    if (!asks) {
        state.answer = Answer::none_needed;
        return;
    }
    if (state.answer == Answer::none_needed || (afresh && state.answer == Answer::came)) {
        state.answer = Answer::awaited;
        state.since = now;
    }
    if (state.answer == Answer::awaited && answers) {
        state.answer = Answer::came;
        state.verdict.judged = true;
        state.most = std::max(state.most, now - state.since);
    } else if (state.answer == Answer::awaited && now - state.since > promise.time) {
        state.answer = Answer::late;
        state.verdict.judged = true;
        breaks(state, state.since, "it did not come");
    }
}

/// How close it came, or how far it went.
std::string Judge::closest(const Promise& promise, const State& state) const {
    switch (promise.is) {
    case Promise::Is::range:
        return state.any ? fmt::format(
                               "it came to {}",
                               rig::reading_text(static_cast<int32_t>(std::lround(state.furthest)),
                                                 rig_->sources[promise.of].kind))
                         : "";
    case Promise::Is::times_a_day: return fmt::format("at most {} times", state.most);
    case Promise::Is::on_a_day: return fmt::format("at most {}", rig::span_to_text(state.most));
    case Promise::Is::answered:
    case Promise::Is::told: return fmt::format("it took {} at most", rig::span_to_text(state.most));
    }
    return {};
}

std::vector<Verdict> Judge::verdicts() const {
    std::vector<Verdict> out;
    for (size_t i = 0; i < promises_.size(); ++i) {
        out.push_back(promises_[i].verdict);
        if (promises_[i].unknown_since)
            out.back().unknown += last_ - *promises_[i].unknown_since;
        const bool says_itself = out.back().broken && !out.back().how.empty();
        if (out.back().judged && !(says_itself && rig_->promises[i].is != Promise::Is::range))
            out.back().how = closest(rig_->promises[i], promises_[i]);
    }
    for (const State& state : nevers_)
        out.push_back(state.verdict);
    return out;
}

bool Judge::all_kept() const {
    const auto kept = [](const State& state) { return !state.verdict.broken; };
    return std::all_of(promises_.begin(), promises_.end(), kept) &&
           std::all_of(nevers_.begin(), nevers_.end(), kept);
}

} // namespace zorilla::bench
