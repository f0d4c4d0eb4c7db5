// SPDX-License-Identifier: MIT
// Hands, shutdown, self-test and outputs as a circuit.
#include "rig/prove/builder.hpp"

#include "rig/text/text.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace zorilla::rig::prove {

void Builder::hand(size_t index) {
    const Drive& drive = rig_.drives[index];
    const Drive::TakeOver& hand = *drive.hand;
    size_t senses = 1;
    for (const RigClaim& claim : drive.claims)
        if (claim.by == RigClaim::By::hand)
            senses = std::max<size_t>(claim.in_turn.size(), 1);
    const Wire pressed = edge(evaluate(hand.take)).yes;
    const Wire back = evaluate(hand.back).yes;
    std::vector<Wire> was;
    Wire taken = never;
    for (size_t i = 0; i < senses; ++i) {
        was.push_back(c_.memory(false));
        taken = either(taken, was.back());
    }
    const size_t timer = clock();
    const Wire is_over =
        both(taken, over(timer, taken, never, hand.longest, "longest of by_hand of " + drive.name));
    const Wire ends = either(back, is_over);
    const Wire goes = both(pressed, opposite(ends));
    out_.clocks[timer] = goes;
    Wire any = never;
    for (size_t i = 0; i < senses; ++i) {
        Wire comes = i == 0 ? opposite(taken) : was[i - 1];
        if (i == 0 && hand.back.given())
            comes = either(comes, was.back());
        const Wire next = both(opposite(ends), choose(goes, comes, was[i]));
        c_.set_next(was[i], next);
        senses_[index].push_back(next);
        any = either(any, next);
    }
    set_fact(hand.fact, any);
}

void Builder::shutdown() {
    const Shutdown& shutdown = rig_.shutdown;
    const Three when = evaluate(shutdown.when);
    const Wire began = c_.memory(false);
    const Wire starts = both(when.yes, opposite(began));
    const Wire runs = both(when.maybe, either(began, when.yes));
    c_.set_next(began, runs);
    const size_t timer = clock();
    out_.clocks[timer] = starts;
    Wire reached = runs;
    for (size_t i = 0; i < shutdown.order.size(); ++i) {
        if (i > 0) {
            const Wire was = c_.memory(false);
            const Wire due = over(
                timer, both(runs, opposite(was)), starts,
                Duration::from_thousandths(static_cast<int32_t>(i) * shutdown.gap.thousandths()),
                fmt::format("the gap of the shutdown before {}",
                            rig_.drives[shutdown.order[i]].name));
            reached = both(reached, either(was, due));
            c_.set_next(was, reached);
        }
        set_fact(shutdown.facts[i], reached);
    }
}

void Builder::self_test() {
    const SelfTest& test = rig_.self_test;
    const Wire pressed = edge(evaluate(test.when)).yes;
    const Wire ran = c_.memory(false);
    const Wire starts = both(pressed, opposite(ran));
    const size_t timer = clock();
    out_.clocks[timer] = starts;
    // Whether it has come to each turn, and to its end.
    Wire come = either(ran, starts);
    std::vector<Wire> begun = {come};
    for (size_t i = 1; i <= rig_.drives.size(); ++i) {
        const Wire was = c_.memory(false);
        const Wire due =
            over(timer, both(come, opposite(was)), starts,
                 Duration::from_thousandths(static_cast<int32_t>(i) * test.each.thousandths()),
                 "the turn of an output in the self-test");
        come = both(come, either(both(was, ran), due));
        begun.push_back(come);
        c_.set_next(was, come);
    }
    tests_ = both(begun.front(), opposite(begun.back()));
    c_.set_next(ran, tests_);
    for (size_t i = 0; i < rig_.drives.size(); ++i)
        turn_.push_back(both(begun[i], opposite(begun[i + 1])));
}

Much Builder::value_of(const Drive& drive, AnyValue value) const {
    return {value.any() ? always : never, value.any() && is_full(drive, value) ? always : never};
}

/// What a claim asks for, if it wins.
Much Builder::asked(size_t index, const RigClaim& claim, Three when) {
    const Drive& drive = rig_.drives[index];
    if (claim.follows) {
        if (rig_.decides[*claim.follows].part == Decide::Part::curve)
            return curves_[*claim.follows];
        const std::vector<Wire>& stages = stages_[*claim.follows];
        return {stages.front(), stages.size() == drive.pins.size() ? stages.back() : never};
    }
    if (!claim.pattern.empty())
        return pattern(index, claim, when);
    if (claim.in_turn.size() < 2)
        return value_of(drive, claim.then);
    Much out = value_of(drive, claim.then);
    for (size_t i = 0; i < claim.in_turn.size(); ++i)
        out = choose(senses_[index][i], value_of(drive, claim.in_turn[i]), out);
    return out;
}

/// The step of a pattern: the first as it begins, then whichever its time allows.
Much Builder::pattern(size_t index, const RigClaim& claim, Three when) {
    const Drive& drive = rig_.drives[index];
    const Wire ran = c_.memory(false);
    c_.set_next(ran, when.yes);
    const Wire begins = both(when.yes, opposite(ran));
    const size_t timer = clock();
    out_.clocks[timer] = begins;
    Much out = value_of(drive, claim.pattern.front().value);
    int64_t from = 0;
    std::vector<Much> seen = {out};
    Wire open = opposite(begins);
    for (const Step<AnyValue>& step : claim.pattern) {
        const Much is = value_of(drive, step.value);
        const bool fresh = std::none_of(seen.begin(), seen.end(), [is](Much other) {
            return other.any == is.any && other.full == is.full;
        });
        if (fresh) {
            const Wire choice = c_.input();
            const Wire here = both(open, choice);
            out_.waits.push_back({timer, both(here, when.yes), begins, choice, from,
                                  from + step.time.thousandths() - 1,
                                  fmt::format("{} is in the step \"{}\" of {}", drive.name,
                                              drive.says(step.value), claim.says)});
            out = choose(here, is, out);
            open = both(open, opposite(choice));
            seen.push_back(is);
        }
        from += step.time.thousandths();
    }
    return out;
}

Builder::Wish Builder::wish(size_t index) {
    const Drive& drive = rig_.drives[index];
    Wish out = {value_of(drive, drive.rest), never};
    const Much safe = value_of(drive, drive.safe);
    for (size_t i = drive.claims.size(); i-- > 0;) {
        const RigClaim& claim = drive.claims[i];
        Three when = claim.always() ? known(always) : evaluate(claim.when);
        const Much then = asked(index, claim, when);
        if (claim.follows) {
            const Wire lost = saying(rig_.decides[*claim.follows].of).lost;
            when.yes = both(when.yes, opposite(lost));
        }
        const Wire unknown = both(when.maybe, opposite(when.yes));
        out.much = choose(when.yes, then, choose(unknown, safe, out.much));
        out.safe = choose(when.yes, never, either(unknown, out.safe));
    }
    return out;
}

/// Whether a relay is on after its guards.
Wire Builder::relay(size_t index, const Wish& wish) {
    const Drive& drive = rig_.drives[index];
    const RelaySpec& spec = drive.spec;
    const Wire on_before = relay_on_[index];
    const Wire wants = wish.much.any;
    const size_t timer = clock();
    const auto guard = [&](Wire asks, Duration time, std::string_view word) {
        return over(timer, asks, first_, time, fmt::format("{} of {}", word, drive.name));
    };
    const Wire served_before = c_.memory(false);
    const Wire served = either(
        served_before,
        choose(
            on_before, guard(both(on_before, opposite(served_before)), spec.min_on(), "min_on"),
            guard(both(opposite(on_before), opposite(served_before)), spec.min_off(), "min_off")));
    Wire too_long = never;
    if (spec.has_longest_on())
        too_long = both(guard(both(on_before, wants), spec.longest_on(), "longest_on"), served);
    Wire blocked = never;
    if (drive.never_with) {
        const Drive& other = rig_.drives[*drive.never_with];
        blocked = other.part == Drive::Part::relay ? relay_on_[*drive.never_with]
                                                   : wanted_[*drive.never_with];
    }
    const Wire stays_on =
        choose(wants, opposite(too_long), both(opposite(served), opposite(wish.safe)));
    const Wire comes_on = both(wants, both(opposite(blocked), served));
    Wire next = choose(on_before, stays_on, comes_on);
    Wire warns = never, warns_off = never;
    if (spec.warns()) {
        const Wire warned = c_.memory(false);
        const Wire wants_change = opposite(c_.same(next, on_before));
        // A safe off and the end of the longest on time do not wait.
        const Wire at_once = both(on_before, either(wish.safe, both(wants, too_long)));
        const Wire on_waits = spec.warn() > Duration{} ? opposite(on_before) : never;
        const Wire off_waits =
            spec.warn_off() > Duration{} ? both(on_before, opposite(at_once)) : never;
        const Wire holds = both(wants_change, either(on_waits, off_waits));
        Wire soon = never;
        if (spec.has_longest_on() && spec.warn_off() > Duration{}) {
            const Wire asks = both(on_before, next);
            soon = both(
                asks, guard(asks, spec.longest_on() - spec.warn_off(), "longest_on less warn_off"));
        }
        const size_t warning = clock();
        const Wire starts = both(either(holds, soon), opposite(warned));
        out_.clocks[warning] = starts;
        const auto warned_for = [&](Wire asks, Duration time, std::string_view word) {
            return over(warning, both(holds, asks), starts, time,
                        fmt::format("{} of {}", word, drive.name));
        };
        const Wire done =
            both(holds, choose(on_before, warned_for(on_before, spec.warn_off(), "warn_off"),
                               warned_for(opposite(on_before), spec.warn(), "warn")));
        const Wire goes_on = both(holds, opposite(done));
        next = choose(goes_on, on_before, next);
        warns = either(goes_on, soon);
        warns_off = both(warns, next);
        c_.set_next(warned, warns);
    }
    const Wire switched = opposite(c_.same(next, on_before));
    out_.clocks[timer] = either(first_, switched);
    c_.set_next(served_before, both(served, opposite(switched)));
    c_.set_next(on_before, next);
    relay_on_[index] = next;
    set_facts(Fact::Kind::warns, index, [warns](const Fact&) { return warns; });
    set_facts(Fact::Kind::warns_off, index, [warns_off](const Fact&) { return warns_off; });
    return next;
}

/// A duty on its way to what is wanted. \param swing  the time from nothing to full; 0: it jumps
/// \param begins  it starts in this pass, from nothing
Much Builder::faded(size_t index, Much before, Much wish, Duration swing, Wire begins) {
    if (swing <= Duration{})
        return wish;
    const Much from = choose(begins, Much{}, before);
    const auto is_some = [this](Much m) { return both(m.any, opposite(m.full)); };
    const Wire alike = both(c_.same(from.any, wish.any), c_.same(from.full, wish.full));
    const Wire settled = both(alike, opposite(is_some(wish)));
    const Wire may_arrive = c_.input(), may_leave = c_.input();
    const Wire moves = both(opposite(settled), opposite(begins));
    const Wire arrives = both(moves, may_arrive);
    const Wire leaves = both(both(moves, opposite(may_arrive)), may_leave);
    const Wire stays = both(both(moves, opposite(may_arrive)), opposite(may_leave));
    // Since it last stood still. Roughly: how far it has to go is not known here.
    const size_t timer = clock();
    out_.clocks[timer] = either(begins, either(settled, arrives));
    const int64_t span = swing.thousandths();
    const std::string fade = rig_.drives[index].name + " fades";
    out_.waits.push_back(
        {timer, arrives, begins, may_arrive, span + span / 16, std::nullopt, fade});
    out_.waits.push_back({timer, leaves, begins, may_leave, span / 100 + 1, std::nullopt, fade});
    out_.waits.push_back(
        {timer, stays, begins, may_leave, std::nullopt, span / 256, std::string()});
    return choose(either(arrives, settled), wish, choose(leaves, Much{always, never}, from));
}

Much Builder::motor(size_t index, Much wish) {
    const Drive& drive = rig_.drives[index];
    const FanSpec& spec = drive.motor;
    const Much before = {c_.memory(false), c_.memory(false)};
    const Wire drove = c_.memory(false), kicked = c_.memory(false), rested = c_.memory(false);
    Wire stands = never, stalls = never, failed = never, rests = never;
    const size_t rest_timer = clock(), kick_timer = clock();
    if (drive.turns) {
        const Wire turns = those(*drive.turns, [](AnyQuantity q) { return q > AnyQuantity{}; });
        const Wire reset = edge(evaluate(drive.reset)).yes;
        const Count count = count_to(spec.tries());
        const Wire had_failed = both(count.reached.back(), opposite(reset));
        rests = both(rested, opposite(over(rest_timer, rested, never, spec.stall_rest(),
                                           "rest_when_stalled of " + drive.name)));
        const Wire runs = both(both(wish.any, opposite(had_failed)), opposite(rests));
        const size_t seen_timer = clock();
        const Wire starts = both(runs, opposite(drove));
        const Wire looks = both(runs, opposite(turns));
        out_.clocks[seen_timer] = both(runs, either(starts, turns));
        stalls = both(looks, over(seen_timer, looks, starts, spec.stall_after(),
                                  "stall_after of " + drive.name));
        failed = advance(count, either(reset, both(runs, turns)), stalls);
        stands = either(either(had_failed, rests), stalls);
        out_.clocks[rest_timer] = stalls;
        c_.set_next(rested, either(rests, stalls));
        const Wire stalled = either(stands, failed);
        set_facts(Fact::Kind::stalled, index, [stalled](const Fact&) { return stalled; });
    }
    const Wire runs = both(wish.any, opposite(stands));
    const Wire starts = both(runs, opposite(drove));
    c_.set_next(drove, runs);
    Much next = faded(index, before, wish, spec.ramp(), starts);
    if (spec.kick_time() > Duration{}) {
        out_.clocks[kick_timer] = starts;
        const Wire was_kicked = either(starts, kicked);
        const Wire ends = both(was_kicked, over(kick_timer, was_kicked, starts, spec.kick_time(),
                                                "kick_for of " + drive.name));
        const Wire kicks = both(both(runs, was_kicked), opposite(ends));
        c_.set_next(kicked, kicks);
        const Much kick = value_of(drive, spec.kick());
        // Without a ramp it is the larger of both.
        const Much larger = {either(kick.any, wish.any), either(kick.full, wish.full)};
        next = choose(kicks, spec.ramp() == Duration{} ? larger : kick, next);
    }
    next = choose(runs, next, Much{});
    c_.set_next(before.any, next.any);
    c_.set_next(before.full, next.full);
    return next;
}

void Builder::drive(size_t index) {
    const Drive& drive = rig_.drives[index];
    const Wish wanted = wish(index);
    Much next = wanted.much;
    if (drive.part == Drive::Part::relay) {
        const Wire is_on = relay(index, wanted);
        next = {is_on, is_on};
    } else if (drive.is_motor()) {
        next = motor(index, wanted.much);
    } else if (drive.fade > Duration{}) {
        const Much before = {c_.memory(false), c_.memory(false)};
        next = faded(index, before, wanted.much, drive.fade, first_);
        c_.set_next(before.any, next.any);
        c_.set_next(before.full, next.full);
    }
    c_.set_next(wanted_[index], next.any);
    wanted_[index] = next.any;
    if (!turn_.empty()) {
        const Much tested = choose(turn_[index], value_of(drive, drive.full()), Much{});
        next = choose(tests_, tested, next);
    }
    const Wire was = out_.any[index];
    c_.set_next(was, next.any);
    out_.any[index] = next.any;
    out_.full[index] = next.full;
    out_.changes.push_back({next.any, was, drive.name + " goes on"});
    out_.changes.push_back({opposite(next.any), opposite(was), drive.name + " goes off"});
    set_facts(Fact::Kind::is_on, index, [next](const Fact&) { return next.any; });
    set_facts(Fact::Kind::at_full, index, [next](const Fact&) { return next.full; });
}

} // namespace zorilla::rig::prove
