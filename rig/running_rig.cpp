// SPDX-License-Identifier: MIT
#include "rig/running_rig.hpp"

#include <array>

namespace zorilla::rig {

RunningRig::RunningRig(const Rig& rig)
    : rig_(rig), stages_(rig.decides.size()), readings_(rig.sources.size()),
      truths_(rig.facts.size(), Truth::unknown), switchings_(rig.drives.size()) {
    for (const rig::Sense& sense : rig.senses) {
        const bool simple = !sense.by_code.empty();
        senses_.push_back({simple ? sense.by_code.data() : nullptr,
                           simple ? nullptr : sense.start(), sense.source, sense.sources});
    }
    for (const Derive& derive : rig.derives)
        derived_.push_back({nullptr, derive.start(), derive.source, 1});
    std::vector<std::vector<size_t>> of_decides(rig.decides.size());
    std::vector<std::vector<size_t>> of_machines(rig.machines.size());
    std::vector<std::vector<size_t>> of_drives(rig.drives.size());
    for (size_t i = 0; i < rig.facts.size(); ++i) {
        const Fact& fact = rig.facts[i];
        switch (fact.kind) {
        case Fact::Kind::switched:
        case Fact::Kind::lost: given_.push_back({i, fact.of, fact.kind == Fact::Kind::lost}); break;
        case Fact::Kind::rises: // once it is known who makes the other fact
        case Fact::Kind::decision: break;
        case Fact::Kind::at_least:
        case Fact::Kind::locked: of_decides[fact.of].push_back(i); break;
        case Fact::Kind::in_state:
        case Fact::Kind::enters:
        case Fact::Kind::leaves: of_machines[fact.of].push_back(i); break;
        case Fact::Kind::is_on: // looked at by nobody who runs
            break;
        case Fact::Kind::warns:
            of_drives[fact.of].push_back(i);
            truths_[i] = Truth::no;
            break;
        }
    }
    for (size_t i = 0; i < rig.decides.size(); ++i) {
        const rig::Decide& decide = rig.decides[i];
        if (decide.part == rig::Decide::Part::threshold && !decide.lasting && decide.times == 0)
            thresholds_.push_back({decide.fact, decide.spec, decide.of, {}});
        else
            decides_.push_back({&decide, i});
    }
    for (Decide& decide : decides_)
        decide.facts = std::move(of_decides[decide.index]);
    for (size_t i = 0; i < rig.facts.size(); ++i) {
        if (rig.facts[i].kind != Fact::Kind::rises)
            continue;
        std::vector<Rise>* where = &rises_;
        for (Decide& decide : decides_)
            if (decide.decide->part != rig::Decide::Part::ladder &&
                decide.decide->fact == rig.facts[i].of)
                where = &decide.rises;
        where->push_back({i, rig.facts[i].of});
    }
    for (size_t i = 0; i < rig.machines.size(); ++i) {
        machines_.push_back(
            {&rig.machines[i], MachineState(rig.machines[i].start), std::move(of_machines[i])});
        for (const size_t fact : machines_.back().facts)
            truths_[fact] = fact_of(machines_.back(), rig.facts[fact]);
    }
    for (const rig::Drive& drive : rig.drives)
        drives_.push_back(
            {drive.spec, drive.claims.data(), static_cast<uint8_t>(drive.claims.size())});
    // Now that they stay where they are.
    for (size_t i = 0; i < drives_.size(); ++i) {
        drives_[i].facts = std::move(of_drives[i]);
        if (rig.drives[i].never_with)
            drives_[i].never_with = &drives_[*rig.drives[i].never_with].state;
    }
}

Truth RunningRig::fact_of(const Machine& machine, const Fact& fact) const {
    const bool moved = machine.state.state() != machine.state.left();
    const bool is_there = machine.state.state() == fact.number;
    switch (fact.kind) {
    case Fact::Kind::enters: return zorilla::truth_of(moved && is_there);
    case Fact::Kind::leaves: return zorilla::truth_of(moved && machine.state.left() == fact.number);
    default: return zorilla::truth_of(is_there);
    }
}

bool RunningRig::run(Machine& machine, Instant now) {
    const RigMachine& spec = *machine.machine;
    size_t asked = 0;
    machine.state.pass(
        static_cast<uint8_t>(spec.moves.size()),
        [&spec, &asked](uint8_t i) {
            asked = i;
            return spec.moves[i];
        },
        now,
        [this, &spec](uint8_t i) { return spec.events[i].condition.evaluate(truths_.data()); });
    bool changed = machine.state.state() != machine.state.left();
    if (changed)
        machine.taken = asked;
    for (const size_t fact : machine.facts)
        changed |= put(fact, fact_of(machine, rig_.facts[fact]));
    return changed;
}

bool RunningRig::run(Decide& running, Instant now) {
    const rig::Decide& decide = *running.decide;
    const auto evaluate = [this](const WrittenCondition& when) {
        return when.given() ? when.condition.evaluate(truths_.data()) : Truth::no;
    };
    Truth truth = Truth::unknown;
    bool changed = false;
    switch (decide.part) {
    case rig::Decide::Part::threshold:
        truth = running.threshold.decide(decide.spec, readings_[decide.of]);
        break;
    case rig::Decide::Part::window:
        truth = running.window.decide(decide.window, readings_[decide.of]);
        break;
    case rig::Decide::Part::condition: truth = evaluate(decide.when); break;
    case rig::Decide::Part::ladder: {
        const Reading<Stage> stage = running.ladder.decide(
            static_cast<uint8_t>(decide.stages.size()),
            [&decide](uint8_t i) { return decide.stages[i]; }, readings_[decide.of]);
        stages_[running.index] = stage.value_or(Stage()).number();
        for (const size_t fact : running.facts)
            changed |= put(fact, at_least(stage, rig_.facts[fact].number));
        return changed;
    }
    case rig::Decide::Part::attempts: {
        const Truth cause = evaluate(decide.when);
        const Attempting doing =
            running.attempts.pass(decide.attempts, now, cause, evaluate(decide.reset));
        for (const size_t fact : running.facts)
            changed |= put(fact, zorilla::truth_of(doing == Attempting::locked));
        return put(decide.fact, acts(doing, cause == Truth::unknown)) || changed;
    }
    }
    if (decide.lasting)
        truth = running.lasting.pass(*decide.lasting, now, truth);
    if (decide.times > 0)
        truth = running.counter.pass(decide.times, truth, evaluate(decide.reset));
    return put(decide.fact, truth) || changed;
}

bool RunningRig::run(Sense& sense, Instant now, Raw raw, AnyReading* reading) {
    std::array<Health, 2> before{};
    for (size_t i = 0; i < sense.sources; ++i)
        before[i] = reading[i].health();
    sense.block->pass(now, raw, readings_.data(), reading);
    bool changed = false;
    for (size_t i = 0; i < sense.sources; ++i)
        changed |= reading[i].health() != before[i];
    return changed;
}

} // namespace zorilla::rig
