// SPDX-License-Identifier: MIT
#include "bench/explain.hpp"

#include "rig/text.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace zorilla::bench {

using rig::to_text;

namespace {

std::string with_article(Health health) {
    switch (health) {
    case Health::open_circuit: return "an open circuit";
    case Health::short_circuit: return "a short circuit";
    case Health::out_of_range: return "a reading out of its range";
    default: return "no reading";
    }
}

} // namespace

Explainer::Explainer(const rig::RunningRig& running)
    : running_(running), before_(running.rig().decides.size()),
      let_go_(running.rig().decides.size()), waits_(running.rig().drives.size()),
      switched_before_(running.rig().drives.size()) {}

void Explainer::follow(int64_t now) {
    const auto& truths = running_.truths();
    for (size_t i = 0; i < truths.size(); ++i) {
        let_go_[i] = truths[i] == Truth::no && before_[i] == Truth::yes;
        before_[i] = truths[i];
    }
    const auto& switchings = running_.switchings();
    for (size_t i = 0; i < switchings.size(); ++i) {
        const Cause cause = switchings[i].cause;
        const bool waits = cause == Cause::minimum_on || cause == Cause::minimum_off;
        if (waits != waits_[i].waiting)
            wait_changed(i, now, waits);
        switched_before_[i] = switched_before_[i] || switchings[i].value == on;
    }
}

void Explainer::wait_changed(size_t drive, int64_t now, bool waits) {
    Wait& wait = waits_[drive];
    wait.waiting = waits;
    if (waits) {
        wait.guard = running_.switchings()[drive].cause;
        wait.since_power_up = !switched_before_[drive];
        wait.begin = now;
        ++wait.times;
    } else {
        wait.end = now;
    }
}

std::string Explainer::about(size_t index, bool by_name) const {
    const rig::Decide& decide = running_.rig().decides[index];
    const std::string& sensor = running_.rig().senses[decide.of].name;
    const Reading<Temperature> reading = running_.readings()[decide.of];
    const Truth truth = running_.truths()[index];
    const Temperature value = reading.value_or({});
    const std::string_view side = decide.spec.side == Side::below ? "below" : "above";
    const bool held = truth == Truth::yes && !decide.spec.reached_by(value); // by the hysteresis
    std::string fact;
    if (truth == Truth::unknown)
        fact = fmt::format("{} has {}", sensor, with_article(reading.health()));
    else if (truth == Truth::no && let_go_[index])
        fact = fmt::format("{} is {}, {} lets go at {}", sensor, to_text(value, 3), decide.name,
                           to_text(decide.spec.release, 0));
    else
        fact = fmt::format("{} is {}, {}{} {}", sensor, to_text(value, 3),
                           truth == Truth::no ? "not "
                           : held             ? "still "
                                              : "",
                           side, to_text(held ? decide.spec.release : decide.spec.threshold, 0));
    return by_name ? fmt::format("{} is {} ({})", decide.name, to_text(truth), fact) : fact;
}

std::string Explainer::about_claims(size_t drive, size_t first, size_t last) const {
    std::vector<size_t> decisions;
    for (size_t claim = first; claim <= last; ++claim)
        for (const size_t decision : running_.rig().drives[drive].claims[claim].when.decisions())
            if (std::find(decisions.begin(), decisions.end(), decision) == decisions.end())
                decisions.push_back(decision);
    std::string out;
    for (const size_t decision : decisions)
        out += fmt::format("{}{}", out.empty() ? "" : "; ", about(decision, decisions.size() > 1));
    return out;
}

std::string Explainer::about_wait(size_t drive, int64_t now) const {
    const Wait& wait = waits_[drive];
    if (wait.times == 0 || wait.end != now)
        return {};
    return fmt::format("; waited {} for {}{}", rig::span_to_text(now - wait.begin),
                       wait.guard == Cause::minimum_off ? "min_off" : "min_on",
                       wait.since_power_up ? ", which power-up starts" : "");
}

std::string Explainer::why_switched(size_t index, int64_t now) const {
    const rig::Drive& drive = running_.rig().drives[index];
    const Switching& switching = running_.switchings()[index];
    const std::string claim =
        fmt::format("claim {}, \"{}\"", switching.claim + 1, drive.claims[switching.claim].text);
    switch (switching.cause) {
    case Cause::claim:
        return fmt::format("{}: {}{}", claim, about_claims(index, switching.claim, switching.claim),
                           about_wait(index, now));
    case Cause::safe:
        return fmt::format("safe value, since {} is unknown: {}{}", claim,
                           about_claims(index, switching.claim, switching.claim),
                           about_wait(index, now));
    case Cause::rest:
        return fmt::format("no claim holds: {}{}", about_claims(index, 0, drive.claims.size() - 1),
                           about_wait(index, now));
    case Cause::longest_on:
        return fmt::format("longest_on ({}) is over; rests for min_off ({})",
                           rig::span_to_text(drive.spec.longest_on().thousandths()),
                           rig::span_to_text(drive.spec.min_off().thousandths()));
    case Cause::minimum_on:
        return fmt::format("kept on until min_on ({}) is over",
                           rig::span_to_text(drive.spec.min_on().thousandths()));
    case Cause::minimum_off: break;
    }
    return fmt::format("kept off until min_off ({}) is over, which power-up starts",
                       rig::span_to_text(drive.spec.min_off().thousandths()));
}

std::string Explainer::why_health(size_t index, Sample sample) const {
    const rig::Sense& sense = running_.rig().senses[index];
    const Reading<Temperature> reading = running_.readings()[index];
    const std::string code = fmt::format("code {} of {}", sample.code(), sense.full_scale());
    switch (reading.health()) {
    case Health::ok: return "reads " + to_text(reading.value_or({}), 3);
    case Health::missing: return "no sample";
    case Health::open_circuit: return code + ": a wire is off or broken";
    case Health::short_circuit:
        return code + (std::holds_alternative<LinearChipSpec>(sense.spec)
                           ? ": no supply, or the output touches ground"
                           : ": the wires touch");
    case Health::out_of_range: break;
    }
    const bool at_low_end = (sample.code() < sense.plan.first_code) == sense.rising();
    return at_low_end ? fmt::format("{}: colder than {}", code, to_text(sense.lowest(), 0))
                      : fmt::format("{}: warmer than {}", code, to_text(sense.highest(), 0));
}

} // namespace zorilla::bench
