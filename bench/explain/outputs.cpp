// SPDX-License-Identifier: MIT
// Outputs and their claims.
#include "bench/explain/explain.hpp"

#include "rig/text/text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <iterator>

namespace zorilla::bench {

using rig::to_text;

Explainer::Explainer(const rig::RunningRig& running)
    : running_(running), before_(running.truths().size()), let_go_(running.truths().size()),
      waits_(running.rig().drives.size()), switched_before_(running.rig().drives.size()),
      hands_(running.rig().drives.size()), resets_(running.rig().decides.size()) {}

void Explainer::follow(int64_t now) {
    const auto& truths = running_.truths();
    for (size_t i = 0; i < truths.size(); ++i) {
        const rig::Fact& fact = running_.rig().facts[i];
        if (fact.kind == rig::Fact::Kind::by_hand && truths[i] != before_[i])
            (truths[i] == Truth::yes ? hands_[fact.of].begin : hands_[fact.of].end) = now;
        let_go_[i] = truths[i] == Truth::no && before_[i] == Truth::yes;
        before_[i] = truths[i];
    }
    for (size_t i = 0; i < resets_.size(); ++i) {
        const rig::WrittenCondition& reset = running_.rig().decides[i].reset;
        if (!reset.given())
            continue;
        const Truth truth = reset.condition.evaluate(truths.data());
        if (truth == Truth::yes && !resets_[i].was)
            resets_[i].at = now;
        if (truth != Truth::unknown)
            resets_[i].was = truth == Truth::yes;
    }
    const auto& drivens = running_.drivens();
    for (size_t i = 0; i < drivens.size(); ++i) {
        const Cause cause = drivens[i].cause;
        const bool waits = cause == Cause::minimum_on || cause == Cause::minimum_off ||
                           cause == Cause::warning || cause == Cause::interlock;
        if (waits != waits_[i].waiting)
            wait_changed(i, now, waits);
        switched_before_[i] = switched_before_[i] || drivens[i].is_on;
    }
}

void Explainer::wait_changed(size_t drive, int64_t now, bool waits) {
    Wait& wait = waits_[drive];
    wait.waiting = waits;
    if (waits) {
        wait.guard = running_.drivens()[drive].cause;
        wait.since_power_up = !switched_before_[drive];
        wait.begin = now;
        ++wait.times;
    } else {
        wait.end = now;
    }
}

/// What a claim that follows a curve asks for.
std::string Explainer::about_follow(const rig::RigClaim& claim, const std::string& said) const {
    const rig::Decide& decide = running_.rig().decides[*claim.follows];
    const std::string reading = reading_of(decide.of, &decide);
    const std::string begin = said.find(reading) == std::string::npos ? reading + ", " : "";
    if (decide.gives == rig::Gives::stage) {
        const auto stage = running_.stage(*claim.follows);
        return stage.ok() ? fmt::format("{}{} is at stage {}", begin, decide.name,
                                        stage.value_or(Stage()).number())
                          : begin.substr(0, reading.size());
    }
    const auto duty = running_.duty(*claim.follows);
    return duty.ok() ? fmt::format("{}{} asks for {}", begin, decide.name,
                                   rig::to_text(duty.value_or(Duty()), rig::ValueKind::duty))
                     : begin.substr(0, reading.size());
}

std::string Explainer::about_claims(size_t drive, size_t first, size_t last) const {
    std::vector<size_t> facts;
    const rig::Drive& spec = running_.rig().drives[drive];
    for (size_t i = first; i <= last; ++i) {
        const rig::RigClaim& claim = spec.claims[i];
        // That nobody shuts the device down, or has taken it over, goes without saying.
        if ((first != last && claim.by != rig::RigClaim::By::rule) || claim.always())
            continue;
        for (const size_t fact : facts_that_matter(claim.when))
            if (std::find(facts.begin(), facts.end(), fact) == facts.end())
                facts.push_back(fact);
    }
    std::string out = facts.empty() ? std::string() : all_of(std::move(facts));
    if (first == last && spec.claims[first].follows)
        if (const std::string more = about_follow(spec.claims[first], out); !more.empty())
            out += (out.empty() ? "" : "; ") + more;
    return out.empty() && first == last ? "it always asks" : out;
}

std::string Explainer::about_claim(size_t drive, size_t index) const {
    const rig::RigClaim& claim = running_.rig().drives[drive].claims[index];
    Truth truth = claim.always() ? Truth::yes : claim.when.evaluate(running_.truths().data());
    if (claim.follows && !running_.readings()[running_.rig().decides[*claim.follows].of].ok())
        truth = truth && Truth::unknown;
    return fmt::format("{}: {}", to_text(truth), about_claims(drive, index, index));
}

std::string Explainer::about_wait(size_t drive, int64_t now) const {
    const Wait& wait = waits_[drive];
    if (wait.times == 0 || wait.end != now)
        return {};
    const rig::Drive& spec = running_.rig().drives[drive];
    return spec.part->waited({spec, running_.rig()}, wait.guard,
                             rig::span_to_text(now - wait.begin), wait.since_power_up);
}

/// What a person's hand has to do with what an output does now.
std::string Explainer::about_hand(size_t drive, int64_t now) const {
    const HandTime& hand = hands_[drive];
    return hand.end == now
               ? fmt::format("; handed back after {}", rig::span_to_text(hand.end - hand.begin))
               : std::string();
}

std::string Explainer::what_driven(size_t index) const {
    const rig::Drive& drive = running_.rig().drives[index];
    const rig::Driven& driven = running_.drivens()[index];
    if (driven.tested)
        return rig::to_text(driven.value, drive.kind());
    if (driven.cause == Cause::claim && driven.is_on) {
        const rig::RigClaim& claim = drive.claims[driven.claim];
        if (!claim.pattern.empty())
            return "pattern " + claim.says;
        if (claim.is_steady())
            return claim.says;
    }
    if (driven.cause == Cause::rest)
        return drive.says(drive.rest);
    return driven.cause == Cause::safe ? drive.says(drive.safe)
                                       : rig::to_text(driven.asked, drive.kind());
}

std::string Explainer::why_driven(size_t index, int64_t now) const {
    const rig::Drive& drive = running_.rig().drives[index];
    const rig::Driven& driven = running_.drivens()[index];
    if (driven.tested)
        return fmt::format("self-test, each output alone for {}",
                           rig::span_to_text(running_.rig().self_test.each.thousandths()));
    const rig::RigClaim& claim = drive.claims[driven.claim];
    // A pattern that is shown at rest is a claim on the desk.
    const bool rests = driven.cause == Cause::rest ||
                       (driven.cause == Cause::claim && claim.by == rig::RigClaim::By::rest);
    if (rests)
        return fmt::format("no claim holds: {}{}{}",
                           about_claims(index, 0, drive.claims.size() - 1), about_wait(index, now),
                           about_hand(index, now));
    const std::string behind =
        about_claims(index, driven.claim, driven.claim) + about_wait(index, now);
    if (driven.cause == Cause::claim)
        return fmt::format("{}: {}{}", rig::label_of(claim), behind, about_hand(index, now));
    if (driven.cause == Cause::safe)
        return fmt::format("safe value, since {} is unknown: {}{}", rig::label_of(claim), behind,
                           about_hand(index, now));
    return drive.part->guard({drive, running_.rig()}, driven.cause, driven.is_on,
                             waits_[index].since_power_up);
}

} // namespace zorilla::bench
