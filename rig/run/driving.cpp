// SPDX-License-Identifier: MIT
// What the outputs of a rig at work do: their claims, and their guards.
#include "rig/run/running_rig.hpp"

#include <algorithm>

namespace zorilla::rig {

bool RunningRig::drive(Instant now) {
    const bool tests = rig_->self_test.when.given() &&
                       test_.pass(rig_->self_test.each, static_cast<uint8_t>(drives_.size()), now,
                                  rig_->self_test.when.condition.evaluate(truths_.data()));
    if (!tests && are_at_rest(now))
        return false;
    bool changed = false;
    for (size_t i = 0; i < drives_.size(); ++i) {
        Drive& drive = drives_[i];
        Driven& driven = drivens_[i];
        if (!tests && !driven.tested && is_at_rest(drive, now))
            continue;
        Driven next;
        run(drive, now, next);
        next.is_wanted = next.value.any();
        if (tests)
            next = tested(next, drive);
        for (const size_t fact : drive.facts)
            changed |= put(fact, fact_of(next, rig_->facts[fact].kind));
        changed |= next.is_on != driven.is_on || next.cause != driven.cause ||
                   next.claim != driven.claim || next.tested != driven.tested ||
                   (drive.in_turn && next.asked != driven.asked);
        moved_ = moved_ || next.value != driven.value;
        driven = next;
    }
    look_for_rest(now);
    return changed;
}

void RunningRig::look_for_rest(Instant now) {
    drives_at_ = 0;
    Duration least{};
    for (size_t i = 0; i < drives_.size(); ++i) {
        const Drive& drive = drives_[i];
        if (drivens_[i].tested || !is_at_rest(drive, now))
            return;
        if (drive.rests_for == Duration{})
            continue;
        const Duration left = drive.rests_for - (now - drive.since);
        if (least == Duration{} || left < least)
            least = left;
    }
    drives_at_ = turns_;
    drives_since_ = now;
    drives_for_ = least;
}

ClaimOf<AnyValue> RunningRig::claim_of(Drive& running, uint8_t i, Instant now) {
    const RigClaim& claim = running.drive->claims[i];
    const Truth when = claim.always() ? Truth::yes : evaluate(claim.when, running.known[i]);
    const auto followed = [when](auto reading) -> ClaimOf<AnyValue> {
        const auto asked = follow_when(when, reading);
        return {asked.when, asked.then};
    };
    if (claim.follows)
        return rig_->decides[*claim.follows].gives == Gives::stage
                   ? followed(stages_[*claim.follows])
                   : followed(duties_[*claim.follows]);
    if (claim.in_turn.size() > 1) {
        const HandState& hand = hands_[running.hand].state;
        return {when, when == Truth::yes ? claim.in_turn[hand.sense()] : claim.then};
    }
    if (claim.pattern.empty())
        return {when, claim.then};
    const uint8_t due = running.patterns[i].pass(
        now, when, static_cast<uint8_t>(claim.pattern.size()),
        [&claim](uint8_t step) { return claim.pattern[step].time; }, claim.pattern_time);
    return {when, claim.pattern[due].value};
}

/// Until a truth changes, a claim that asks for one value goes on asking for it. The others are
/// looked at in each pass, as in C++: a pattern begins when its own condition does.
const WishOf<AnyValue>& RunningRig::wish_of(Drive& running, Instant now) {
    const rig::Drive& drive = *running.drive;
    const auto count = static_cast<uint8_t>(drive.claims.size());
    const auto may_ask = [&running, &drive](uint8_t i) {
        return drive.claims[i].always() || running.known[i].truth != Truth::no;
    };
    if (running.at != turns_) {
        for (uint8_t i = 0; i < count; ++i)
            running.claims[i] = claim_of(running, i, now);
        running.at = turns_;
        running.moves = std::any_of(running.moving.begin(), running.moving.end(), may_ask);
    } else if (running.moves) {
        for (const uint8_t i : running.moving)
            if (may_ask(i))
                running.claims[i] = claim_of(running, i, now);
    } else {
        return running.wish;
    }
    return running.wish = settle(
               drive.safe, drive.rest, [&running](uint8_t i) { return running.claims[i]; }, count);
}

void RunningRig::run_relay(Drive& running, Instant now, Driven& out) const {
    const RelaySpec& spec = *running.relay;
    const WishOf<AnyValue>& wish = running.wish;
    const OnOff before = running.state.value();
    const Switching next = running.state.pass(
        spec, now, {wish.value.on_off(), wish.cause, wish.claim}, is_blocked(*running.drive));
    out.value = out.asked = next.value;
    out.cause = next.cause;
    out.claim = next.claim;
    out.is_on = next.value == on;
    out.warns = running.state.is_warning();
    out.warns_off = running.state.is_warning_off();
    const bool switched = next.value != before || !running.runs;
    running.runs = true;
    if (switched)
        running.since = now;
    const bool as_asked = next.value == wish.value.on_off();
    if (switched || spec.warns()) {
        running.rests = false; // the next pass has another cause
    } else if (running.state.is_free()) {
        running.rests = as_asked;
        running.rests_for = out.is_on ? spec.longest_on() : Duration{};
    } else {
        // Who waits to switch on may be blocked meanwhile.
        running.rests_for = out.is_on ? spec.min_on() : spec.min_off();
        running.rests = running.rests_for > Duration{} && (as_asked || !running.drive->never_with);
    }
}

void RunningRig::run(Drive& running, Instant now, Driven& out) {
    const rig::Drive& drive = *running.drive;
    const WishOf<AnyValue>& wish = wish_of(running, now);
    if (running.relay != nullptr)
        return run_relay(running, now, out);
    const bool in_pattern = wish.cause == Cause::claim && !drive.claims[wish.claim].pattern.empty();
    out.value = out.asked = wish.value;
    out.cause = wish.cause;
    out.claim = wish.claim;
    out.is_on = wish.value.any() || in_pattern;
    running.rests = !running.work && !running.moves;
    if (!running.work)
        return;
    if (running.worked + 1 != passes_) { // it rested, and knows when its last pass was
        Driven same;
        running.last.now = before_;
        running.work->pass(running.last, same);
    }
    running.worked = passes_;
    DriveInput in{now, wish, in_pattern};
    if (drive.turns)
        in.turns = zorilla::truth_of(readings_[*drive.turns].value_or({}).thousandths() > 0);
    in.reset = evaluate(drive.reset, running.reset);
    in.blocked = is_blocked(drive);
    running.work->pass(in, out);
    running.rests =
        !running.moves && !drive.turns && !drive.never_with && running.work->rests(in, out);
    if (running.rests)
        running.last = in;
}

} // namespace zorilla::rig
