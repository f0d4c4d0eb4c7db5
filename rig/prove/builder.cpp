// SPDX-License-Identifier: MIT
#include "rig/prove/builder.hpp"

#include "rig/decide/part.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>

namespace zorilla::rig::prove {

bool is_full(const Drive& drive, AnyValue value) {
    return drive.kind() == ValueKind::stage ? value == drive.full() : value.is_full(drive.kind());
}

Model model_of(const Rig& rig, bool with_self_test) { return Builder(rig, with_self_test).build(); }

Model Builder::build() {
    model.facts.resize(rig.facts.size());
    model.any.resize(rig.drives.size());
    model.full.resize(rig.drives.size());
    decides.resize(rig.decides.size());
    fact_memory_.assign(rig.facts.size(), never);
    hand_senses.resize(rig.drives.size());
    for (size_t i = 0; i < rig.facts.size(); ++i) {
        const Fact& fact = rig.facts[i];
        if (!is_said_late(from_of(fact.kind)))
            continue; // said before anybody looks
        const bool starts =
            fact.kind == Fact::Kind::in_state && rig.machines[fact.of].start == fact.number;
        fact_memory_[i] = memory(starts);
        model.facts[i] = known(fact_memory_[i]);
    }
    for (size_t i = 0; i < rig.drives.size(); ++i) {
        model.any[i] = memory();
        wanted.push_back(memory());
    }
    for (size_t i = 0; i < rig.sources.size(); ++i)
        source(i);
    given_facts();
    for (size_t i = 0; i < rig.decides.size(); ++i)
        decide(i);
    for (size_t i = 0; i < rig.machines.size(); ++i)
        machine(i);
    for (size_t i = 0; i < rig.drives.size(); ++i)
        if (rig.drives[i].hand)
            hand(i);
    if (!rig.shutdown.order.empty())
        shutdown();
    if (with_self_test_ && rig.self_test.when.given())
        self_test();
    for (size_t i = 0; i < rig.drives.size(); ++i)
        drive(i);
    set_next(first, never);
    for (const WrittenCondition& line : rig.nevers)
        model.bad.push_back(evaluate(line));
    return std::move(model);
}

void Builder::decide(size_t index) {
    const Decide& decide = rig.decides[index];
    decides[index] = decide.part->prove(decide, *this);
    const DecideWires& is = decides[index];
    const Wire locked = is.locked;
    set_facts(Fact::Kind::locked, index, [locked](const Fact&) { return locked; });
    for (size_t i = 0; i < rig.facts.size(); ++i)
        if (rig.facts[i].kind == Fact::Kind::at_least && rig.facts[i].of == index)
            model.facts[i] = unless(lost(decide.of), is.stages[rig.facts[i].number - 1U]);
    if (!decide.has_truth())
        return;
    Three truth = is.truth;
    if (decide.lasting)
        truth = last(decide, truth);
    if (decide.times > 0) {
        const Wire clear = edge(evaluate(decide.reset)).yes;
        truth = known(advance(count_to(decide.times), clear, edge(truth).yes));
    }
    model.facts[decide.fact] = truth;
    edges_of(decide.fact);
}

Three Builder::last(const Decide& decide, Three truth) {
    const Wire open = unknown(truth);
    const Wire holds = memory(), waits = memory();
    const Wire differs = both(opposite(open), opposite(same(truth.yes, holds)));
    const Wire begins = both(differs, opposite(waits));
    const size_t timer = clock();
    starts(timer, begins);
    const auto served = [&](Wire towards, Duration time, std::string_view word) {
        return over(timer, both(differs, towards), begins, time,
                    fmt::format("{} of {}", word, decide.name));
    };
    const Wire turns =
        both(differs, choose(truth.yes, served(truth.yes, decide.lasting->yes_for, "for_at_least"),
                             served(opposite(truth.yes), decide.lasting->no_for, "gone_for")));
    const Wire next = choose(turns, truth.yes, holds);
    set_next(holds, next);
    set_next(waits, both(differs, opposite(turns)));
    const Wire yes = both(next, opposite(open));
    return {yes, either(yes, open)};
}

void Builder::machine(size_t index) {
    const RigMachine& machine = rig.machines[index];
    std::vector<Wire> in, next(machine.states.size(), never);
    for (size_t s = 0; s < machine.states.size(); ++s)
        in.push_back(memory(s == machine.start));
    const size_t timer = clock();
    // Of several times, a longer one is over only if a shorter is.
    std::map<uint32_t, Wire> lasted = {{0, always}};
    std::map<uint32_t, Wire> asks;
    const auto in_from = [&in, this](const MachineMove& move) {
        Wire any = never;
        for (size_t s = 0; s < in.size(); ++s)
            if (move.leaves(static_cast<uint8_t>(s)))
                any = either(any, in[s]);
        return any;
    };
    for (const MachineMove& move : machine.moves)
        asks[move.after] = either(asks[move.after], in_from(move));
    Wire shorter = always;
    for (const auto& [after, asked] : asks)
        if (after > 0) {
            shorter = both(shorter, over(timer, asked, first,
                                         Duration::from_thousandths(static_cast<int32_t>(after)),
                                         fmt::format("\"after\" of {}", machine.name)));
            lasted[after] = shorter;
        }
    Wire moved = never;
    for (const MachineMove& move : machine.moves) {
        Wire takes = both(both(in_from(move), lasted[move.after]), opposite(moved));
        if (move.has_event())
            takes = both(takes, evaluate(machine.events[move.when]).yes);
        next[move.to] = either(next[move.to], takes);
        moved = either(moved, takes);
    }
    starts(timer, either(first, moved));
    for (size_t s = 0; s < in.size(); ++s) {
        next[s] = either(next[s], both(in[s], opposite(moved)));
        set_next(in[s], next[s]);
        model.changes.push_back(
            {next[s], in[s], fmt::format("{} goes to {}", machine.name, machine.states[s])});
    }
    set_facts(Fact::Kind::in_state, index, [&](const Fact& fact) { return next[fact.number]; });
    set_facts(Fact::Kind::enters, index,
              [&](const Fact& fact) { return both(moved, next[fact.number]); });
    set_facts(Fact::Kind::leaves, index,
              [&](const Fact& fact) { return both(moved, in[fact.number]); });
}

} // namespace zorilla::rig::prove
