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
        : running_(rig), explainer_(running_), on_event_(on_event),
          health_(rig.senses.size(), Health::ok), unhealthy_since_(rig.senses.size()),
          value_(rig.drives.size(), off), on_since_(rig.drives.size()) {
        summary_.senses.resize(rig.senses.size());
        summary_.drives.resize(rig.drives.size());
    }

    const rig::RunningRig& running() const { return running_; }

    void pass(int64_t now, const Sample* samples) {
        if (summary_.rows == 0)
            summary_.begin = now;
        else
            step(now - summary_.end);
        const bool first = summary_.rows == 0;
        const Instant clock(static_cast<uint32_t>(now - summary_.begin));
        const bool changed = running_.pass(clock, samples);
        const Reading<Temperature>* reading = running_.readings().data();
        for (SenseSummary& sense : summary_.senses)
            follow_value(sense, *reading++);
        if (changed || first)
            follow_changes(now, samples, first);
        summary_.end = now;
        ++summary_.rows;
    }

    Summary finish() {
        const int64_t now = summary_.end;
        for (size_t i = 0; i < health_.size(); ++i)
            if (health_[i] != Health::ok)
                summary_.senses[i].unhealthy += now - unhealthy_since_[i];
        for (size_t i = 0; i < value_.size(); ++i) {
            DriveSummary& drive = summary_.drives[i];
            drive.held_back = explainer_.times_held_back(i);
            drive.on_at_end = value_[i] == on;
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

    static void follow_value(SenseSummary& sense, Reading<Temperature> reading) {
        if (!reading.ok())
            return;
        const Temperature value = reading.value_or({});
        if (!sense.any)
            sense.lowest = sense.highest = value;
        sense.any = true;
        if (value < sense.lowest)
            sense.lowest = value;
        if (value > sense.highest)
            sense.highest = value;
    }

    void follow_changes(int64_t now, const Sample* samples, bool first) {
        explainer_.follow(now);
        for (size_t i = 0; i < health_.size(); ++i)
            follow_sense(i, now, samples[i], first);
        for (size_t i = 0; i < value_.size(); ++i) {
            const OnOff value = running_.switchings()[i].value;
            if (value != value_[i] || first)
                switched(i, now, value);
        }
    }

    void follow_sense(size_t i, int64_t now, Sample sample, bool first) {
        const Reading<Temperature> reading = running_.readings()[i];
        SenseSummary& sense = summary_.senses[i];
        if (reading.health() == health_[i] && !first)
            return;
        if (health_[i] == Health::ok)
            unhealthy_since_[i] = now;
        else if (reading.ok())
            sense.unhealthy += now - unhealthy_since_[i];
        health_[i] = reading.health();
        on_event_({now, running_.rig().senses[i].name, std::string(rig::to_text(reading.health())),
                   explainer_.why_health(i, sample), false, reading.ok()});
    }

    void switched(size_t i, int64_t now, OnOff value) {
        DriveSummary& drive = summary_.drives[i];
        if (value == on) {
            ++drive.times_on;
            on_since_[i] = now;
        } else if (value_[i] == on) {
            const int64_t time = now - on_since_[i];
            drive.on_time += time;
            drive.longest_on = std::max(drive.longest_on, time);
            drive.shortest_on = drive.shortest_on == 0 ? time : std::min(drive.shortest_on, time);
        }
        value_[i] = value;
        const Cause cause = running_.switchings()[i].cause;
        on_event_({now, running_.rig().drives[i].name, std::string(rig::to_text(value)),
                   explainer_.why_switched(i, now), true,
                   cause != Cause::safe && cause != Cause::longest_on});
    }

    rig::RunningRig running_;
    Explainer explainer_;
    const std::function<void(const Event&)>& on_event_;
    Summary summary_;
    std::vector<Health> health_;
    std::vector<int64_t> unhealthy_since_;
    std::vector<OnOff> value_;
    std::vector<int64_t> on_since_;
};

} // namespace

std::vector<WantedColumn> columns_of(const rig::Rig& rig) {
    std::vector<WantedColumn> out;
    for (const rig::Sense& sense : rig.senses)
        out.push_back({sense.name, sense.full_scale()});
    return out;
}

Summary replay(const rig::Rig& rig, TraceReader& trace,
               const std::function<void(const Event&)>& on_event,
               const std::function<void(int64_t, const rig::RunningRig&)>& on_row) {
    Replay state(rig, on_event);
    while (trace.next()) {
        state.pass(trace.milliseconds(), trace.samples());
        if (on_row)
            on_row(trace.milliseconds(), state.running());
    }
    return state.finish();
}

} // namespace zorilla::bench
