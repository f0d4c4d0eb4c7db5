// SPDX-License-Identifier: MIT
// Decisions and machines as a circuit.
#include "rig/prove/builder.hpp"

#include "rig/text/text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>

namespace zorilla::rig::prove {

void Builder::decide(size_t index) {
    const Decide& decide = rig_.decides[index];
    Three truth;
    switch (decide.part) {
    case Decide::Part::threshold:
    case Decide::Part::window: truth = judge(index); break;
    case Decide::Part::condition: truth = evaluate(decide.when); break;
    case Decide::Part::ladder: return ladder(index);
    case Decide::Part::curve: return curve(index);
    case Decide::Part::attempts: return attempts(index);
    }
    if (decide.lasting)
        truth = last(index, truth);
    if (decide.times > 0)
        truth = count(index, truth);
    out_.facts[decide.fact] = truth;
    edges_of(decide.fact);
}

Three Builder::judge(size_t index) {
    const Decide& decide = rig_.decides[index];
    const bool is_window = decide.part == Decide::Part::window;
    const Wire reached = those(decide.of, [&](AnyQuantity q) {
        return is_window ? decide.window.reached_by(q) : decide.spec.reached_by(q);
    });
    const Wire released = those(decide.of, [&](AnyQuantity q) {
        return is_window ? decide.window.released_by(q) : decide.spec.released_by(q);
    });
    const Wire holds = c_.memory(false);
    const Wire lost = saying(decide.of).lost;
    const Wire next = choose(lost, holds, choose(holds, opposite(released), reached));
    c_.set_next(holds, next);
    const Wire yes = both(next, opposite(lost));
    return {yes, either(yes, lost)};
}

void Builder::ladder(size_t index) {
    const Decide& decide = rig_.decides[index];
    const Wire lost = saying(decide.of).lost;
    std::vector<Wire>& stages = stages_[index];
    for (size_t i = 0; i < decide.stages.size(); ++i) {
        const auto at_least = [&decide, i](AnyQuantity q, bool held) {
            const auto count =
                std::count_if(decide.stages.begin(), decide.stages.end(), [q, held](const auto& s) {
                    return held ? !s.released_by(q) : s.reached_by(q);
                });
            return static_cast<size_t>(count) > i;
        };
        const Wire begun = those(decide.of, [&](AnyQuantity q) { return at_least(q, false); });
        const Wire held = those(decide.of, [&](AnyQuantity q) { return at_least(q, true); });
        const Wire was = c_.memory(false);
        stages.push_back(choose(lost, was, both(either(was, begun), held)));
        c_.set_next(was, stages.back());
    }
    for (size_t i = 0; i < rig_.facts.size(); ++i)
        if (rig_.facts[i].kind == Fact::Kind::at_least && rig_.facts[i].of == index) {
            const Wire yes = both(stages[rig_.facts[i].number - 1U], opposite(lost));
            out_.facts[i] = {yes, either(yes, lost)};
        }
}

void Builder::curve(size_t index) {
    const Decide& decide = rig_.decides[index];
    const Much now = {
        those(decide.of, [&](AnyQuantity q) { return duty_at(decide, q) != Duty{}; }),
        those(decide.of, [&](AnyQuantity q) { return duty_at(decide, q).of_255() == 255; })};
    curves_[index] = now;
    if (decide.dead_band == Duty{})
        return;
    // Within the band it may stay as it was; at an end of the curve, and after a fault, it does
    // not.
    const Wire at_end = those(decide.of, [&](AnyQuantity q) {
        return q <= decide.points.front().at || q >= decide.points.back().at;
    });
    const Much was = {c_.memory(false), c_.memory(false)};
    const Wire settled = c_.memory(false);
    c_.set_next(settled, opposite(saying(decide.of).lost));
    const Wire stays = both(both(c_.input(), settled), opposite(at_end));
    curves_[index] = choose(stays, was, now);
    // What lay between may have moved on while it was lost; the duty itself is kept.
    const Wire lost = saying(decide.of).lost;
    c_.set_next(was.any, choose(lost, was.any, curves_[index].any));
    c_.set_next(was.full, choose(lost, was.full, curves_[index].full));
}

Three Builder::last(size_t index, Three truth) {
    const Decide& decide = rig_.decides[index];
    const Wire unknown = both(truth.maybe, opposite(truth.yes));
    const Wire holds = c_.memory(false), waits = c_.memory(false);
    const Wire differs = both(opposite(unknown), opposite(c_.same(truth.yes, holds)));
    const Wire starts = both(differs, opposite(waits));
    const size_t timer = clock();
    out_.clocks[timer] = starts;
    const auto served = [&](Wire towards, Duration time, std::string_view word) {
        return over(timer, both(differs, towards), starts, time,
                    fmt::format("{} of {}", word, decide.name));
    };
    const Wire turns =
        both(differs, choose(truth.yes, served(truth.yes, decide.lasting->yes_for, "for_at_least"),
                             served(opposite(truth.yes), decide.lasting->no_for, "gone_for")));
    const Wire next = choose(turns, truth.yes, holds);
    c_.set_next(holds, next);
    c_.set_next(waits, both(differs, opposite(turns)));
    const Wire yes = both(next, opposite(unknown));
    return {yes, either(yes, unknown)};
}

Three Builder::count(size_t index, Three truth) {
    const Decide& decide = rig_.decides[index];
    const Wire clear = edge(evaluate(decide.reset)).yes;
    return known(advance(count_to(decide.times), clear, edge(truth).yes));
}

void Builder::attempts(size_t index) {
    const Decide& decide = rig_.decides[index];
    const AttemptsSpec& spec = decide.attempts;
    const Three cause = evaluate(decide.when);
    const Wire unknown = both(cause.maybe, opposite(cause.yes));
    const Wire reset = edge(evaluate(decide.reset)).yes;
    const Wire acting = c_.memory(false), resting = c_.memory(false), locked = c_.memory(false);
    const Wire acts = both(acting, opposite(reset)), rests = both(resting, opposite(reset));
    const Wire is_locked = both(locked, opposite(reset));
    const Wire idles = opposite(either(acts, either(rests, is_locked)));
    const size_t timer = clock();
    const auto served = [&](Wire asks, Duration time, std::string_view word) {
        // It was started in an earlier pass, whenever it is asked.
        return over(timer, asks, never, time, fmt::format("{} of {}", word, decide.name));
    };
    const Wire ends = both(acts, either(unknown, served(acts, spec.act(), "act_for")));
    const Wire looks = both(both(rests, served(rests, spec.rest(), "rest_for")), opposite(unknown));
    const Wire again = both(looks, cause.yes), calm = both(looks, opposite(cause.yes));
    Wire gives_up = never;
    if (spec.tries() > 0)
        gives_up = advance(count_to(spec.tries()), either(reset, calm), ends);
    if (spec.longest_total() > Duration{}) {
        // How long it has acted in all is left open; once, there is room for it.
        const Count once = count_to(1);
        const Wire any = advance(once, either(reset, calm), ends);
        gives_up = either(gives_up, both(any, c_.input()));
    }
    const Wire locks = both(again, gives_up);
    const Wire begins = either(both(idles, cause.yes), both(again, opposite(locks)));
    out_.clocks[timer] = either(begins, ends);
    const Wire next_acting = either(begins, both(acts, opposite(ends)));
    const Wire next_locked = either(is_locked, locks);
    c_.set_next(acting, next_acting);
    c_.set_next(resting, either(ends, both(rests, opposite(looks))));
    c_.set_next(locked, next_locked);
    const Wire known_cause = both(opposite(next_locked), opposite(unknown));
    const Wire yes = both(known_cause, next_acting);
    out_.facts[decide.fact] = {yes, either(yes, both(unknown, opposite(next_locked)))};
    set_facts(Fact::Kind::locked, index, [next_locked](const Fact&) { return next_locked; });
    edges_of(decide.fact);
}

void Builder::machine(size_t index) {
    const RigMachine& machine = rig_.machines[index];
    std::vector<Wire> in, next(machine.states.size(), never);
    for (size_t s = 0; s < machine.states.size(); ++s)
        in.push_back(c_.memory(s == machine.start));
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
            shorter = both(shorter, over(timer, asked, first_,
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
    out_.clocks[timer] = either(first_, moved);
    for (size_t s = 0; s < in.size(); ++s) {
        next[s] = either(next[s], both(in[s], opposite(moved)));
        c_.set_next(in[s], next[s]);
        out_.changes.push_back(
            {next[s], in[s], fmt::format("{} goes to {}", machine.name, machine.states[s])});
    }
    set_facts(Fact::Kind::in_state, index, [&](const Fact& fact) { return next[fact.number]; });
    set_facts(Fact::Kind::enters, index,
              [&](const Fact& fact) { return both(moved, next[fact.number]); });
    set_facts(Fact::Kind::leaves, index,
              [&](const Fact& fact) { return both(moved, in[fact.number]); });
}

} // namespace zorilla::rig::prove
