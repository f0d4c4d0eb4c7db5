// SPDX-License-Identifier: MIT
// Hands, shutdown, self-test, claims and outputs as a circuit.
#include "rig/prove/builder.hpp"

#include "rig/drive/fading.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace zorilla::rig::prove {

void Builder::hand(size_t index) {
    const Drive& drive = rig.drives[index];
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
        was.push_back(memory());
        taken = either(taken, was.back());
    }
    const size_t timer = clock();
    const Wire is_over =
        both(taken, over(timer, taken, never, hand.longest, "longest of by_hand of " + drive.name));
    const Wire ends = either(back, is_over);
    const Wire goes = both(pressed, opposite(ends));
    starts(timer, goes);
    Wire any = never;
    for (size_t i = 0; i < senses; ++i) {
        Wire comes = i == 0 ? opposite(taken) : was[i - 1];
        if (i == 0 && hand.back.given())
            comes = either(comes, was.back());
        const Wire next = both(opposite(ends), choose(goes, comes, was[i]));
        set_next(was[i], next);
        hand_senses[index].push_back(next);
        any = either(any, next);
    }
    set_fact(hand.fact, any);
}

void Builder::shutdown() {
    const Shutdown& shutdown = rig.shutdown;
    const Three when = evaluate(shutdown.when);
    const Wire began = memory();
    const Wire begins = both(when.yes, opposite(began));
    const Wire runs = both(when.maybe, either(began, when.yes));
    set_next(began, runs);
    const size_t timer = clock();
    starts(timer, begins);
    Wire reached = runs;
    for (size_t i = 0; i < shutdown.order.size(); ++i) {
        if (i > 0) {
            const Wire was = memory();
            const Wire due = over(
                timer, both(runs, opposite(was)), begins,
                Duration::from_thousandths(static_cast<int32_t>(i) * shutdown.gap.thousandths()),
                fmt::format("the gap of the shutdown before {}",
                            rig.drives[shutdown.order[i]].name));
            reached = both(reached, either(was, due));
            set_next(was, reached);
        }
        set_fact(shutdown.facts[i], reached);
    }
}

void Builder::self_test() {
    const SelfTest& test = rig.self_test;
    const Wire pressed = edge(evaluate(test.when)).yes;
    const Wire ran = memory();
    const Wire begins = both(pressed, opposite(ran));
    const size_t timer = clock();
    starts(timer, begins);
    // Whether it has come to each turn, and to its end.
    Wire come = either(ran, begins);
    std::vector<Wire> begun = {come};
    for (size_t i = 1; i <= rig.drives.size(); ++i) {
        const Wire was = memory();
        const Wire due =
            over(timer, both(come, opposite(was)), begins,
                 Duration::from_thousandths(static_cast<int32_t>(i) * test.each.thousandths()),
                 "the turn of an output in the self-test");
        come = both(come, either(both(was, ran), due));
        begun.push_back(come);
        set_next(was, come);
    }
    tests_ = both(begun.front(), opposite(begun.back()));
    set_next(ran, tests_);
    for (size_t i = 0; i < rig.drives.size(); ++i)
        turn_.push_back(both(begun[i], opposite(begun[i + 1])));
}

/// What a claim asks for, if it wins.
Much Builder::asked(size_t index, const RigClaim& claim, Three when) {
    const Drive& drive = rig.drives[index];
    if (claim.follows) {
        const DecideWires& followed = decides[*claim.follows];
        if (rig.decides[*claim.follows].gives == Gives::duty)
            return followed.duty;
        return {followed.stages.front(),
                followed.stages.size() == drive.pins.size() ? followed.stages.back() : never};
    }
    if (!claim.pattern.empty())
        return pattern(index, claim, when);
    if (claim.in_turn.size() < 2)
        return much_of(drive, claim.then);
    Much out = much_of(drive, claim.then);
    for (size_t i = 0; i < claim.in_turn.size(); ++i)
        out = choose(hand_senses[index][i], much_of(drive, claim.in_turn[i]), out);
    return out;
}

/// The step of a pattern: the first as it begins, then whichever its time allows.
Much Builder::pattern(size_t index, const RigClaim& claim, Three when) {
    const Drive& drive = rig.drives[index];
    const Wire ran = memory();
    set_next(ran, when.yes);
    const Wire begins = both(when.yes, opposite(ran));
    const size_t timer = clock();
    starts(timer, begins);
    Much out = much_of(drive, claim.pattern.front().value);
    int64_t from = 0;
    std::vector<Much> seen = {out};
    Wire open = opposite(begins);
    for (const Step<AnyValue>& step : claim.pattern) {
        const Much is = much_of(drive, step.value);
        const bool fresh = std::none_of(seen.begin(), seen.end(), [is](Much other) {
            return other.any == is.any && other.full == is.full;
        });
        if (fresh) {
            const Wire choice = input();
            const Wire here = both(open, choice);
            model.waits.push_back({timer, both(here, when.yes), begins, choice, from,
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

WishWires Builder::wish(size_t index) {
    const Drive& drive = rig.drives[index];
    WishWires out = {much_of(drive, drive.rest), never};
    const Much safe = much_of(drive, drive.safe);
    for (size_t i = drive.claims.size(); i-- > 0;) {
        const RigClaim& claim = drive.claims[i];
        Three when = claim.always() ? known(always) : evaluate(claim.when);
        const Much then = asked(index, claim, when);
        if (claim.follows) {
            const Wire is_lost = lost(rig.decides[*claim.follows].of);
            when.yes = both(when.yes, opposite(is_lost));
        }
        const Wire open = unknown(when);
        out.much = choose(when.yes, then, choose(open, safe, out.much));
        out.safe = choose(when.yes, never, either(open, out.safe));
    }
    return out;
}

void Builder::drive(size_t index) {
    const Drive& drive = rig.drives[index];
    const WishWires wanted_now = wish(index);
    Much next = drive.part->prove(drive, index, wanted_now, *this);
    set_next(wanted[index], next.any);
    wanted[index] = next.any;
    if (!turn_.empty()) {
        const Much tested = choose(turn_[index], much_of(drive, drive.full()), Much{});
        next = choose(tests_, tested, next);
    }
    const Wire was = model.any[index];
    set_next(was, next.any);
    model.any[index] = next.any;
    model.full[index] = next.full;
    model.changes.push_back({next.any, was, drive.name + " goes on"});
    model.changes.push_back({opposite(next.any), opposite(was), drive.name + " goes off"});
    set_facts(Fact::Kind::is_on, index, [next](const Fact&) { return next.any; });
    set_facts(Fact::Kind::at_full, index, [next](const Fact&) { return next.full; });
}

} // namespace zorilla::rig::prove
