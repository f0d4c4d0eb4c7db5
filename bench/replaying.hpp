// SPDX-License-Identifier: MIT
/// \file
/// A replay while it goes on: row by row, from a file or from a device.
#pragma once

#include "bench/explain/explain.hpp"
#include "bench/replay.hpp"
#include "rig/text/text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <functional>
#include <optional>
#include <utility>
#include <vector>

namespace zorilla::bench {

/// What one replay knows while it goes on.
class Replaying {
  public:
    Replaying(const rig::Rig& rig, const std::function<void(const Event&)>& on_event)
        : running_(rig), explainer_(std::in_place, running_), on_event_(on_event),
          states_(rig.sources.size()), reaches_(rig.sources.size()),
          told_(rig.senses.size(), Health::ok), was_(rig.drives.size()),
          on_since_(rig.drives.size()), in_since_(rig.machines.size()) {
        summary_.sources.resize(rig.sources.size());
        for (const rig::RigMachine& machine : rig.machines)
            summary_.machines.push_back({0, std::vector<int64_t>(machine.states.size())});
        summary_.drives.resize(rig.drives.size());
        for (size_t i = 0; i < rig.drives.size(); ++i)
            summary_.drives[i].by_claim.resize(rig.drives[i].claims.size() + 3);
        summary_.ladders.resize(rig.decides.size());
        for (size_t i = 0; i < rig.decides.size(); ++i)
            if (rig.decides[i].gives == rig::Gives::stage)
                summary_.ladders[i].time_at.resize(rig.decides[i].stages + size_t{1});
        stages_.resize(rig.decides.size());
        decided_since_.resize(rig.drives.size());
        decided_by_.resize(rig.drives.size());
        for (size_t i = 0; i < rig.senses.size(); ++i)
            if (running_.may_hold(i))
                may_hold_.push_back(i);
        holds_.resize(rig.senses.size());
        for (size_t i = 0; i < rig.senses.size(); ++i)
            if (rig.senses[i].extra_bits != 0)
                finer_.push_back(i);
    }

    const rig::RunningRig& running() const { return running_; }
    const Explainer& explainer() const { return *explainer_; }
    const Summary& so_far() const { return summary_; }
    /// Goes on as another one, which has come the same way and remembers something else.
    void go_on_as(const rig::RunningRig& other) { running_ = other; }

    /// The device was off, and begins anew with the next pass.
    void begin_anew(int64_t now) {
        for (size_t i = 0; i < in_since_.size(); ++i)
            summary_.machines[i].time_in[running_.state(i)] +=
                now - std::exchange(in_since_[i], now);
        for (size_t i = 0; i < was_.size(); ++i)
            summary_.drives[i].held_back += explainer_->times_held_back(i);
        running_ = rig::RunningRig(running_.rig());
        explainer_.emplace(running_);
        ++summary_.begun_anew;
        on_event_({now, "", "the device has begun anew", "", false, false});
    }

    void pass(int64_t now, const rig::Raw* raws) {
        if (summary_.rows == 0)
            summary_.begin = now;
        else
            step(now - summary_.end);
        for (const size_t i : may_hold_)
            if (running_.held(i) > Duration{})
                summary_.sources[running_.rig().senses[i].source].held += now - summary_.end;
        for (const size_t i : finer_) {
            int64_t& highest = summary_.sources[running_.rig().senses[i].source].highest_code;
            highest = std::max(highest, raws[i].bits());
        }
        const bool first = summary_.rows == 0;
        const Instant clock(static_cast<uint32_t>(now - summary_.begin));
        const bool changed = running_.pass(clock, raws);
        follow_values();
        for (const size_t i : may_hold_)
            tell_hold(i, now, raws[i]);
        if (changed || first)
            follow_changes(now, raws, first);
        summary_.end = now;
        ++summary_.rows;
    }

    /// \param said  what the device has said of each output in this pass
    void compare(const rig::Raw* said) {
        Beside& device = summary_.device;
        bool told = false, different = false;
        for (size_t i = 0; i < was_.size(); ++i) {
            if (said[i].bits() < 0)
                continue;
            told = true;
            const rig::AnyValue says = running_.drivens()[i].value;
            if (different || said[i].bits() == says.bits())
                continue;
            different = true;
            if (device.different == 0)
                device = {device.passes,
                          0,
                          summary_.end,
                          i,
                          rig::AnyValue::from_bits(static_cast<uint32_t>(said[i].bits())),
                          says};
        }
        device.passes += told ? 1 : 0;
        device.different += different ? 1 : 0;
    }

    Summary finish() {
        const int64_t now = summary_.end;
        for (size_t i = 0; i < states_.size(); ++i)
            close(i, now);
        for (size_t i = 0; i < in_since_.size(); ++i)
            summary_.machines[i].time_in[running_.state(i)] += now - in_since_[i];
        for (size_t i = 0; i < stages_.size(); ++i)
            if (!summary_.ladders[i].time_at.empty())
                close_stage(i, now);
        for (size_t i = 0; i < was_.size(); ++i) {
            DriveSummary& drive = summary_.drives[i];
            drive.by_claim[decided_by_[i]] += now - decided_since_[i];
            drive.held_back += explainer_->times_held_back(i);
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

    /// Mostly a value lies where others of its source have been.
    void follow_values() {
        const rig::AnyReading* reading = running_.readings().data();
        for (Reach& reach : reaches_) {
            const int32_t value = reading->value_or({}).thousandths();
            if ((value < reach.lowest || value > reach.highest) && reading->ok())
                widen(static_cast<size_t>(&reach - reaches_.data()), value);
            ++reading;
        }
    }
    void widen(size_t i, int32_t value) {
        Reach& reach = reaches_[i];
        reach = {std::min(reach.lowest, value), std::max(reach.highest, value)};
        SourceSummary& source = summary_.sources[i];
        source.any = true;
        source.lowest = reach.lowest;
        source.highest = reach.highest;
    }

    void follow_changes(int64_t now, const rig::Raw* raws, bool first) {
        explainer_->follow(now);
        for (size_t i = 0; i < states_.size(); ++i)
            follow_source(i, now, first);
        for (size_t i = 0; i < told_.size(); ++i)
            tell_sense(i, now, raws[i], first);
        for (size_t i = 0; i < stages_.size(); ++i)
            if (!summary_.ladders[i].time_at.empty())
                follow_ladder(i, now, first);
        for (size_t i = 0; i < decided_by_.size(); ++i) {
            const size_t by = decided_by(i);
            if (!first && by == decided_by_[i])
                continue;
            if (!first)
                summary_.drives[i].by_claim[decided_by_[i]] += now - decided_since_[i];
            decided_by_[i] = by;
            decided_since_[i] = now;
        }
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

    /// Who has an output, as a place in `DriveSummary::by_claim`.
    size_t decided_by(size_t i) const {
        const rig::Driven& is = running_.drivens()[i];
        const size_t claims = running_.rig().drives[i].claims.size();
        if (is.tested)
            return claims + 2;
        return is.cause == Cause::claim  ? is.claim
               : is.cause == Cause::rest ? claims
               : is.cause == Cause::safe ? claims + 1
                                         : claims + 2;
    }

    void close_stage(size_t i, int64_t now) {
        const StageTime& stage = stages_[i];
        if (stage.stage.ok())
            summary_.ladders[i].time_at[stage.stage.value_or(Stage()).number()] +=
                now - stage.since;
    }
    void follow_ladder(size_t i, int64_t now, bool first) {
        const Reading<Stage> is = running_.stage(i);
        const Reading<Stage> was = stages_[i].stage;
        const uint8_t number = is.value_or(Stage()).number();
        if (!first && is.health() == was.health() && number == was.value_or(Stage()).number())
            return;
        if (!first) {
            close_stage(i, now);
            ++summary_.ladders[i].moves;
        }
        stages_[i] = {is, now};
        const rig::Decide& decide = running_.rig().decides[i];
        on_event_({now, decide.name, is.ok() ? fmt::format("stage {}", number) : "unknown",
                   explainer_->about_source(decide.of), false, is.ok()});
    }

    void tell_sense(size_t i, int64_t now, rig::Raw raw, bool first) {
        const rig::Sense& sense = running_.rig().senses[i];
        const Health health = running_.readings()[sense.source].health();
        if (health == told_[i] && !first)
            return;
        told_[i] = health;
        on_event_({now, sense.name, std::string(rig::to_text(health)),
                   explainer_->why_health(i, raw), false, health == Health::ok});
    }

    /// A value that begins to stand in for one that was missed, and one that is read again.
    void tell_hold(size_t i, int64_t now, rig::Raw raw) {
        const rig::Sense& sense = running_.rig().senses[i];
        const bool held = running_.held(i) > Duration{};
        if (held == (holds_[i] != 0))
            return;
        holds_[i] = held ? 1 : 0;
        if (held)
            on_event_({now, sense.name, "held",
                       "the last good read stands in: there is " + came_text(sense, raw), false,
                       false});
        else if (running_.readings()[sense.source].ok())
            on_event_({now, sense.name, "read again", explainer_->why_health(i, raw), false, true});
    }

    void moved(size_t i, int64_t now) {
        const rig::RigMachine& machine = running_.rig().machines[i];
        MachineSummary& summary = summary_.machines[i];
        ++summary.moves;
        if (summary_.rows > 0)
            summary.time_in[running_.left_state(i)] += now - in_since_[i];
        in_since_[i] = now;
        on_event_({now, machine.name, machine.states[running_.state(i)], explainer_->why_moved(i),
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
        if (by(now) == rig::RigClaim::By::hand && now.asked != was.asked && now.is_on)
            return true;
        const bool other = now.cause != was.cause || now.claim != was.claim;
        return drive.kind() != rig::ValueKind::on_off && now.is_on && other;
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
        on_event_({now, running_.rig().drives[i].name, explainer_->what_driven(i),
                   explainer_->why_driven(i, now), true,
                   is.cause != Cause::safe && is.cause != Cause::longest_on &&
                       is.cause != Cause::stalled && is.cause != Cause::failed});
    }

    rig::RunningRig running_;
    std::optional<Explainer> explainer_;
    const std::function<void(const Event&)>& on_event_;
    Summary summary_;
    struct State {
        Health health = Health::ok;
        bool yes = false;
        int64_t since = 0;
    };
    struct StageTime {
        Reading<Stage> stage;
        int64_t since = 0;
    };
    std::vector<StageTime> stages_; ///< of each ladder, by its decision
    std::vector<size_t> decided_by_;
    std::vector<int64_t> decided_since_;
    std::vector<size_t> may_hold_; ///< sensors
    std::vector<char> holds_;      ///< of each sensor, whether an earlier read stands in
    std::vector<size_t> finer_;    ///< sensors whose converter adds up
    std::vector<State> states_;    ///< of each source, since it last changed
    /// The least and the most that a source has been, in thousandths.
    struct Reach {
        int32_t lowest = INT32_MAX, highest = INT32_MIN;
    };
    std::vector<Reach> reaches_;
    std::vector<Health> told_; ///< of each sensor
    std::vector<rig::Driven> was_;
    std::vector<int64_t> on_since_;
    std::vector<int64_t> in_since_; ///< of each machine's state
};

} // namespace zorilla::bench
