// SPDX-License-Identifier: MIT
#include "bench/replay.hpp"

#include "bench/explain.hpp"
#include "rig/text.hpp"

#include <algorithm>

namespace zorilla::bench {

namespace {

/// What one replay knows while it goes on.
class Replay {
  public:
    Replay(const rig::Rig& rig, const std::function<void(const Event&)>& on_event)
        : running_(rig), explainer_(running_), on_event_(on_event), states_(rig.sources.size()),
          told_(rig.senses.size(), Health::ok), was_(rig.drives.size()),
          on_since_(rig.drives.size()), in_since_(rig.machines.size()) {
        summary_.sources.resize(rig.sources.size());
        for (const rig::RigMachine& machine : rig.machines)
            summary_.machines.push_back({0, std::vector<int64_t>(machine.states.size())});
        summary_.drives.resize(rig.drives.size());
    }

    const rig::RunningRig& running() const { return running_; }

    void pass(int64_t now, const rig::Raw* raws) {
        if (summary_.rows == 0)
            summary_.begin = now;
        else
            step(now - summary_.end);
        const bool first = summary_.rows == 0;
        const Instant clock(static_cast<uint32_t>(now - summary_.begin));
        const bool changed = running_.pass(clock, raws);
        const rig::AnyReading* reading = running_.readings().data();
        for (SourceSummary& source : summary_.sources)
            follow_value(source, *reading++);
        if (changed || first)
            follow_changes(now, raws, first);
        summary_.end = now;
        ++summary_.rows;
    }

    Summary finish() {
        const int64_t now = summary_.end;
        for (size_t i = 0; i < states_.size(); ++i)
            close(i, now);
        for (size_t i = 0; i < in_since_.size(); ++i)
            summary_.machines[i].time_in[running_.state(i)] += now - in_since_[i];
        for (size_t i = 0; i < was_.size(); ++i) {
            DriveSummary& drive = summary_.drives[i];
            drive.held_back = explainer_.times_held_back(i);
            drive.on_at_end = was_[i].is_on;
            if (drive.on_at_end) {
                drive.on_time += now - on_since_[i];
                drive.longest_on = std::max(drive.longest_on, now - on_since_[i]);
            }
        }
        return std::move(summary_);
    }

  private:
    void step(int64_t by) {
        if (summary_.rows == 1 || by < summary_.shortest_step)
            summary_.shortest_step = by;
        if (by > summary_.longest_step)
            summary_.longest_step = by;
    }

    static void follow_value(SourceSummary& source, rig::AnyReading reading) {
        if (!reading.ok())
            return;
        const int32_t value = reading.value_or({}).thousandths();
        if (!source.any)
            source.lowest = source.highest = value;
        source.any = true;
        source.lowest = std::min(source.lowest, value);
        source.highest = std::max(source.highest, value);
    }

    void follow_changes(int64_t now, const rig::Raw* raws, bool first) {
        explainer_.follow(now);
        for (size_t i = 0; i < states_.size(); ++i)
            follow_source(i, now, first);
        for (size_t i = 0; i < told_.size(); ++i)
            tell_sense(i, now, raws[i], first);
        for (size_t i = 0; i < in_since_.size(); ++i)
            if (running_.state(i) != running_.left_state(i))
                moved(i, now);
            else if (first)
                in_since_[i] = now;
        for (size_t i = 0; i < was_.size(); ++i)
            if (first || is_news(i))
                driven(i, now);
    }

    /// Adds the time since a source was last looked at to what it was then.
    void close(size_t i, int64_t now) {
        SourceSummary& source = summary_.sources[i];
        const State& state = states_[i];
        if (state.health != Health::ok)
            source.unhealthy += now - state.since;
        else if (state.yes)
            source.yes += now - state.since;
    }
    void follow_source(size_t i, int64_t now, bool first) {
        if (!first)
            close(i, now);
        const rig::AnyReading reading = running_.readings()[i];
        states_[i] = {reading.health(), reading.value_or({}).thousandths() != 0, now};
    }

    void tell_sense(size_t i, int64_t now, rig::Raw raw, bool first) {
        const rig::Sense& sense = running_.rig().senses[i];
        const Health health = running_.readings()[sense.source].health();
        if (health == told_[i] && !first)
            return;
        told_[i] = health;
        on_event_({now, sense.name, std::string(rig::to_text(health)),
                   explainer_.why_health(i, raw), false, health == Health::ok});
    }

    void moved(size_t i, int64_t now) {
        const rig::RigMachine& machine = running_.rig().machines[i];
        MachineSummary& summary = summary_.machines[i];
        ++summary.moves;
        if (summary_.rows > 0)
            summary.time_in[running_.left_state(i)] += now - in_since_[i];
        in_since_[i] = now;
        on_event_({now, machine.name, machine.states[running_.state(i)], explainer_.why_moved(i),
                   true, true});
    }

    /// Whether an output does something else now, or for somebody else. Which claim asks for it is
    /// told of outputs that can be more than on or off, while they are on.
    bool is_news(size_t i) const {
        const rig::Drive& drive = running_.rig().drives[i];
        const rig::Driven& now = running_.drivens()[i];
        const rig::Driven& was = was_[i];
        const auto by = [&drive](const rig::Driven& driven) {
            return driven.cause == Cause::claim ? drive.claims[driven.claim].by
                                                : rig::RigClaim::By::rule;
        };
        if (now.is_on != was.is_on || now.tested != was.tested || by(now) != by(was))
            return true;
        const bool other = now.cause != was.cause || now.claim != was.claim;
        return drive.part != rig::Drive::Part::relay && now.is_on && other;
    }

    void driven(size_t i, int64_t now) {
        DriveSummary& drive = summary_.drives[i];
        const rig::Driven& is = running_.drivens()[i];
        if (is.is_on && !was_[i].is_on) {
            ++drive.times_on;
            on_since_[i] = now;
        } else if (was_[i].is_on && !is.is_on) {
            const int64_t time = now - on_since_[i];
            drive.on_time += time;
            drive.longest_on = std::max(drive.longest_on, time);
            drive.shortest_on = drive.shortest_on == 0 ? time : std::min(drive.shortest_on, time);
        }
        was_[i] = is;
        on_event_({now, running_.rig().drives[i].name, explainer_.what_driven(i),
                   explainer_.why_driven(i, now), true,
                   is.cause != Cause::safe && is.cause != Cause::longest_on &&
                       is.cause != Cause::stalled && is.cause != Cause::failed});
    }

    rig::RunningRig running_;
    Explainer explainer_;
    const std::function<void(const Event&)>& on_event_;
    Summary summary_;
    struct State {
        Health health = Health::ok;
        bool yes = false;
        int64_t since = 0;
    };
    std::vector<State> states_; ///< of each source, since it last changed
    std::vector<Health> told_;  ///< of each sensor
    std::vector<rig::Driven> was_;
    std::vector<int64_t> on_since_;
    std::vector<int64_t> in_since_; ///< of each machine's state
};

} // namespace

std::vector<WantedColumn> columns_of(const rig::Rig& rig) {
    std::vector<WantedColumn> out;
    for (const rig::Sense& sense : rig.senses)
        out.push_back({sense.name, sense.raw, sense.largest_raw});
    return out;
}

Summary replay(const rig::Rig& rig, TraceReader& trace,
               const std::function<void(const Event&)>& on_event,
               const std::function<void(int64_t, const rig::RunningRig&)>& on_row) {
    Replay state(rig, on_event);
    while (trace.next()) {
        state.pass(trace.milliseconds(), trace.raws());
        if (on_row)
            on_row(trace.milliseconds(), state.running());
    }
    return state.finish();
}

} // namespace zorilla::bench
