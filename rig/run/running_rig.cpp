// SPDX-License-Identifier: MIT
#include "rig/run/running_rig.hpp"

#include <algorithm>

namespace zorilla::rig {

/// How many values a person's presses go through.
static size_t senses_of(const Drive& drive) {
    for (const RigClaim& claim : drive.claims)
        if (claim.by == RigClaim::By::hand)
            return std::max<size_t>(claim.in_turn.size(), 1);
    return 1;
}

RunningRig::RunningRig(const Rig& rig)
    : rig_(&rig), stages_(rig.decides.size()), duties_(rig.decides.size()),
      readings_(rig.sources.size()), truths_(rig.facts.size(), Truth::unknown),
      drivens_(rig.drives.size()) {
    for (const rig::Sense& sense : rig.senses) {
        const bool simple = !sense.by_code.empty();
        senses_.push_back({simple ? sense.by_code.data() : nullptr,
                           simple ? nullptr : sense.part->start(), sense.source, sense.sources});
    }
    for (const Derive& derive : rig.derives)
        derived_.push_back({nullptr, derive.part->start(), derive.source, 1});
    std::vector<std::vector<size_t>> of_decides(rig.decides.size());
    std::vector<std::vector<size_t>> of_machines(rig.machines.size());
    std::vector<std::vector<size_t>> of_drives(rig.drives.size());
    for (size_t i = 0; i < rig.facts.size(); ++i) {
        const Fact& fact = rig.facts[i];
        const FactFrom from = from_of(fact.kind);
        if (is_said_late(from))
            truths_[i] = Truth::no;
        if (from == FactFrom::source)
            (fact.kind == Fact::Kind::lost ? lost_ : given_).push_back({i, fact.of});
        else if (from == FactFrom::decision)
            of_decides[fact.of].push_back(i);
        else if (from == FactFrom::machine)
            of_machines[fact.of].push_back(i);
        else if (from == FactFrom::part)
            of_drives[fact.of].push_back(i);
    }
    for (size_t i = 0; i < rig.decides.size(); ++i) {
        const rig::Decide& decide = rig.decides[i];
        const auto* plain = decide.part->plain();
        if (plain != nullptr && !decide.lasting && decide.times == 0)
            thresholds_.push_back({decide.fact, *plain, decide.of, {}});
        else
            decides_.push_back({&decide, i, decide.part->start()});
    }
    for (Decide& decide : decides_)
        decide.facts = std::move(of_decides[decide.index]);
    for (size_t i = 0; i < rig.facts.size(); ++i) {
        const bool falls = rig.facts[i].kind == Fact::Kind::falls;
        if (!falls && rig.facts[i].kind != Fact::Kind::rises)
            continue;
        std::vector<Rise>* where = &rises_;
        for (Decide& decide : decides_)
            if (decide.decide->has_truth() && decide.decide->fact == rig.facts[i].of)
                where = &decide.rises;
        where->push_back({i, rig.facts[i].of, falls});
    }
    for (size_t i = 0; i < rig.machines.size(); ++i) {
        machines_.push_back(
            {&rig.machines[i], MachineState(rig.machines[i].start), std::move(of_machines[i])});
        machines_.back().known.resize(rig.machines[i].events.size());
        machines_.back().timed.resize(rig.machines[i].states.size());
        for (size_t state = 0; state < rig.machines[i].states.size(); ++state)
            for (const MachineMove& move : rig.machines[i].moves)
                if (move.after != 0 && move.leaves(static_cast<uint8_t>(state)))
                    machines_.back().timed[state] = true;
        for (const size_t fact : machines_.back().facts)
            truths_[fact] = fact_of(machines_.back(), rig.facts[fact]);
    }
    for (const rig::Drive& drive : rig.drives) {
        drives_.push_back({&drive, drive.part->relay(), drive.part->start()});
        for (size_t i = 0; i < drive.claims.size(); ++i)
            if (!drive.claims[i].is_steady())
                drives_.back().moving.push_back(static_cast<uint8_t>(i));
        if (!drives_.back().moving.empty())
            drives_.back().relay = nullptr;
        drives_.back().patterns.resize(drive.claims.size());
        drives_.back().claims.resize(drive.claims.size());
        drives_.back().known.resize(drive.claims.size());
        drives_.back().hand = hands_.size();
        if (drive.hand)
            hands_.push_back({&*drive.hand, static_cast<uint8_t>(senses_of(drive))});
        drives_.back().in_turn = senses_of(drive) > 1;
    }
    for (size_t i = 0; i < drives_.size(); ++i)
        drives_[i].facts = std::move(of_drives[i]);
}

bool RunningRig::pass(Instant now, const Raw* raws) {
    bool changed = !begun_;
    ++passes_;
    before_ = now_;
    now_ = now;
    for (Sense& sense : senses_) {
        const Raw raw = *raws++;
        if (sense.by_code != nullptr) {
            // No code above full scale reaches this: it is refused where samples are read.
            const AnyReading next = raw.bits() >= 0 ? sense.by_code[raw.bits()] : AnyReading();
            AnyReading& reading = readings_[sense.source];
            changed |= next.health() != reading.health();
            reading = next;
        } else if (!sense.rests || raw.bits() != sense.seen.bits()) {
            changed |= run(sense, now, raw);
        }
    }
    for (Sense& derived : derived_)
        changed |= run(derived, now, Raw());
    moved_ = !begun_;
    if (changed || !is_quiet())
        changed = decide_all(now, changed);
    for (Machine& machine : machines_)
        if (!is_at_rest(machine))
            changed |= run(machine, now);
    for (Hand& hand : hands_)
        if (!is_at_rest(hand))
            changed |= run(hand, now);
    if (!rig_->shutdown.order.empty())
        changed |= shut_down(now);
    changed |= drive(now);
    return changed_ = changed;
}

/// All that is made of readings. \param changed  whether a health has
bool RunningRig::decide_all(Instant now, bool changed) {
    // What is lost is a matter of health alone.
    if (changed || !begun_)
        for (const Given& lost : lost_)
            changed |= put(lost.fact, zorilla::truth_of(!readings_[lost.source].ok()));
    begun_ = true;
    for (const Given& given : given_)
        changed |= put(given.fact, truth_of(readings_[given.source]));
    for (Threshold& threshold : thresholds_)
        changed |=
            put(threshold.fact, threshold.state.decide(threshold.spec, readings_[threshold.of]));
    if (rises_at_ != turns_) {
        rises_at_ = turns_;
        for (Rise& rise : rises_)
            changed |= put(rise.fact, rise.pass(truths_[rise.of]));
    }
    for (Decide& decide : decides_) {
        if (is_at_rest(decide))
            continue;
        changed |= run(decide, now);
        for (Rise& rise : decide.rises)
            changed |= put(rise.fact, rise.pass(truths_[rise.of]));
    }
    quiet_at_ = 0;
    if (!changed)
        look_for_quiet();
    return changed;
}

void RunningRig::look_for_quiet() {
    if (rises_at_ != turns_)
        return;
    for (const Decide& decide : decides_)
        if (!is_at_rest(decide))
            return;
    quiet_.clear();
    const auto keep = [this](size_t source, Span span) {
        if (!readings_[source].ok())
            return; // another health would be a change
        for (Quiet& quiet : quiet_)
            if (quiet.source == source) {
                quiet.span.lowest = std::max(quiet.span.lowest, span.lowest);
                quiet.span.highest = std::min(quiet.span.highest, span.highest);
                return;
            }
        quiet_.push_back({source, span});
    };
    for (const Given& given : given_) {
        const int32_t is = readings_[given.source].value_or({}).thousandths();
        keep(given.source, {is, is});
    }
    for (const Threshold& threshold : thresholds_)
        keep(threshold.of, threshold.rests(truths_[threshold.fact] == Truth::yes));
    for (const Decide& decide : decides_)
        if (decide.decide->judges)
            keep(decide.decide->of, *decide.rests);
    quiet_at_ = turns_;
}

Truth RunningRig::fact_of(const Machine& machine, const Fact& fact) const {
    const bool moved = machine.state.state() != machine.state.left();
    const bool is_there = machine.state.state() == fact.number;
    if (fact.kind == Fact::Kind::enters)
        return zorilla::truth_of(moved && is_there);
    if (fact.kind == Fact::Kind::leaves)
        return zorilla::truth_of(moved && machine.state.left() == fact.number);
    return zorilla::truth_of(is_there);
}

bool RunningRig::run(Machine& machine, Instant now) {
    machine.at = turns_;
    const RigMachine& spec = *machine.machine;
    size_t asked = 0;
    machine.state.pass(
        static_cast<uint8_t>(spec.moves.size()),
        [&spec, &asked](uint8_t i) {
            asked = i;
            return spec.moves[i];
        },
        now,
        [this, &spec, &machine](uint8_t i) {
            return evaluate(spec.events[i].condition, machine.known[i]);
        });
    bool changed = machine.state.state() != machine.state.left();
    if (changed)
        machine.taken = asked;
    // Who has come, or left, has done so for this pass alone.
    if (changed || machine.moved)
        for (const size_t fact : machine.facts)
            changed |= put(fact, fact_of(machine, rig_->facts[fact]));
    machine.moved = machine.state.state() != machine.state.left();
    return changed;
}

bool RunningRig::run(Hand& running, Instant now) {
    running.at = turns_;
    const rig::Drive::TakeOver& hand = *running.hand;
    const Truth take = evaluate(hand.take, running.take);
    return put(hand.fact,
               hand.back.given()
                   ? running.state.pass(hand.longest, now, take, evaluate(hand.back, running.back),
                                        running.senses)
                   : running.state.pass(hand.longest, now, take, running.senses));
}

bool RunningRig::shut_down(Instant now) {
    const Shutdown& shutdown = rig_->shutdown;
    shutdown_.pass(shutdown.gap, static_cast<uint8_t>(shutdown.order.size()), now,
                   shutdown.when.condition.evaluate(truths_.data()));
    bool changed = false;
    for (uint8_t i = 0; i < shutdown.order.size(); ++i)
        changed |= put(shutdown.facts[i], shutdown_.of(i));
    return changed;
}

bool RunningRig::run(Decide& running, Instant now) {
    const rig::Decide& decide = *running.decide;
    const DecideInput in{now, decide.judges ? readings_[decide.of] : AnyReading(),
                         evaluate(decide.when, running.when),
                         evaluate(decide.reset, running.reset)};
    DecideOutput out;
    running.deciding->pass(in, out);
    if (decide.gives != Gives::duty) {
        const bool changed = take(running, in, out);
        look_for_rest(running, changed);
        return changed;
    }
    // No truth is made of it.
    look_for_rest(running, duties_[running.index].value_or({}) != out.duty.value_or({}));
    duties_[running.index] = out.duty;
    return false;
}

/// Once it has made the same of a few readings, it is worth to ask which others it would make the
/// same of.
void RunningRig::look_for_rest(Decide& running, bool changed) {
    constexpr uint8_t enough = 4;
    running.rests.reset();
    running.quiet = changed || running.waits ? 0 : static_cast<uint8_t>(running.quiet + 1);
    if (running.quiet < enough)
        return;
    running.quiet = 0;
    const AnyReading reading =
        running.decide->judges ? readings_[running.decide->of] : AnyReading();
    if (running.decide->judges && !reading.ok())
        return;
    running.rests = running.deciding->rests(reading.value_or({}));
    running.at = turns_;
}

bool RunningRig::take(Decide& running, const DecideInput& in, DecideOutput& out) {
    const rig::Decide& decide = *running.decide;
    bool changed = false;
    if (decide.gives == Gives::stage) {
        Reading<Stage>& stage = stages_[running.index];
        changed = out.stage.health() != stage.health() ||
                  out.stage.value_or(Stage()).number() != stage.value_or(Stage()).number();
        stage = out.stage;
    }
    for (const size_t fact : running.facts)
        changed |= put(fact, rig_->facts[fact].kind == Fact::Kind::locked
                                 ? zorilla::truth_of(out.locked)
                                 : at_least(out.stage, rig_->facts[fact].number));
    if (!decide.has_truth())
        return changed;
    if (decide.lasting) {
        const Truth judged = out.truth;
        out.truth = running.lasting.pass(*decide.lasting, in.now, judged);
        running.waits = out.truth != judged;
    }
    if (decide.times > 0)
        out.truth = running.counter.pass(decide.times, out.truth, in.reset);
    return put(decide.fact, out.truth) || changed;
}

} // namespace zorilla::rig
