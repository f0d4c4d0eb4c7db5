// SPDX-License-Identifier: MIT
#include "bench/explain.hpp"

#include "rig/text/text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <iterator>

namespace zorilla::bench {

using rig::to_text;

namespace {

/// What a sensor has that is not healthy.
std::string with_article(Health health) {
    switch (health) {
    case Health::open_circuit: return "an open circuit";
    case Health::short_circuit: return "a short circuit";
    case Health::out_of_range: return "a reading out of its range";
    case Health::warming: return "to warm up first";
    case Health::stale: return "a stale reading";
    case Health::bad_frame: return "a bad frame";
    case Health::no_echo: return "no echo";
    case Health::too_near: return "an echo from too near";
    case Health::too_far: return "an echo from too far";
    case Health::implausible: return "an implausible reading";
    case Health::stuck: return "a stuck reading";
    case Health::ok:
    case Health::missing: break;
    }
    return "no reading";
}

} // namespace

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

std::string Explainer::about(size_t index, bool by_name) const {
    const rig::Rig& rig = running_.rig();
    const rig::Fact& fact = rig.facts[index];
    const Truth truth = running_.truths()[index];
    switch (fact.kind) {
    case rig::Fact::Kind::switched:
        return truth == Truth::unknown
                   ? fmt::format("{} has {}", fact.name,
                                 with_article(running_.readings()[fact.of].health()))
                   : fmt::format("{} is {}", fact.name, to_text(truth));
    case rig::Fact::Kind::lost: {
        const Health health = running_.readings()[fact.of].health();
        return health == Health::ok
                   ? fmt::format("{} is healthy", rig.sources[fact.of].name)
                   : fmt::format("{} has {}", rig.sources[fact.of].name, with_article(health));
    }
    case rig::Fact::Kind::decision: {
        const rig::Decide& decide = rig.decides[fact.of];
        const std::string because = about(index, decide);
        return by_name || !decide.judges
                   ? fmt::format("{} is {} ({})", decide.name, to_text(truth), because)
                   : because;
    }
    case rig::Fact::Kind::at_least: {
        const rig::Decide& decide = rig.decides[fact.of];
        const std::string reading = reading_of(decide.of);
        return truth == Truth::unknown
                   ? reading
                   : fmt::format("{} is at stage {} ({})", decide.name,
                                 running_.stage(fact.of).value_or(Stage()).number(), reading);
    }
    case rig::Fact::Kind::locked:
        return fmt::format("{} is {}locked", rig.decides[fact.of].name,
                           truth == Truth::yes ? "" : "not ");
    case rig::Fact::Kind::in_state: {
        const rig::RigMachine& machine = rig.machines[fact.of];
        return fmt::format("{} is in {}{}", machine.name, machine.states[running_.state(fact.of)],
                           truth == Truth::yes
                               ? std::string()
                               : fmt::format(", not in {}", machine.states[fact.number]));
    }
    case rig::Fact::Kind::rises:
    case rig::Fact::Kind::falls:
        return fmt::format("{} has {}become {}", rig.facts[fact.of].name,
                           truth == Truth::yes ? "just " : "not just ",
                           fact.kind == rig::Fact::Kind::rises ? "yes" : "no");
    case rig::Fact::Kind::by_hand: {
        const rig::Drive& drive = rig.drives[fact.of];
        if (truth != Truth::yes)
            return fmt::format("{} is not taken over", drive.name);
        return fmt::format("taken over with \"{}\", for at most {}", drive.hand->take.text,
                           rig::span_to_text(drive.hand->longest.thousandths()));
    }
    case rig::Fact::Kind::stalled:
        return fmt::format("{} {}", rig.drives[fact.of].name,
                           truth == Truth::yes ? "has stalled" : "turns");
    case rig::Fact::Kind::shut_down:
        return fmt::format("\"{}\": {}", rig.shutdown.when.text,
                           all_of(facts_that_matter(rig.shutdown.when.condition)));
    case rig::Fact::Kind::at_full: return fmt::format("{}: {}", fact.name, to_text(truth));
    case rig::Fact::Kind::is_on: return fmt::format("{} is {}", fact.name, to_text(truth));
    case rig::Fact::Kind::warns:
    case rig::Fact::Kind::warns_off:
        return fmt::format("{} {}{}", rig.drives[fact.of].name,
                           truth == Truth::yes ? "warns" : "does not warn",
                           fact.kind == rig::Fact::Kind::warns ? "" : " before it switches off");
    case rig::Fact::Kind::enters:
    case rig::Fact::Kind::leaves: break;
    }
    const rig::RigMachine& machine = rig.machines[fact.of];
    return fmt::format("{} has {} {} {}", machine.name, truth == Truth::yes ? "just" : "not just",
                       fact.kind == rig::Fact::Kind::enters ? "come into" : "left",
                       machine.states[fact.number]);
}

std::string Explainer::about_held(size_t source) const {
    const rig::Rig& rig = running_.rig();
    const rig::Sense* sense = rig.sense_of(source);
    if (sense == nullptr)
        return {};
    const Duration age = running_.held(static_cast<size_t>(sense - rig.senses.data()));
    return age > Duration{} ? fmt::format(" (held, {} old)", rig::span_to_text(age.thousandths()))
                            : std::string();
}

std::string Explainer::reading_of(size_t source) const {
    const rig::AnyReading reading = running_.readings()[source];
    const rig::Source& of = running_.rig().sources[source];
    return reading.ok()
               ? fmt::format("{} is {}{}", of.name,
                             rig::reading_text(reading.value_or({}).thousandths(), of.kind),
                             about_held(source))
               : fmt::format("{} has {}", of.name, with_article(reading.health()));
}

/// What stands behind a decision.
std::string Explainer::about(size_t index, const rig::Decide& decide) const {
    const rig::Rig& rig = running_.rig();
    rig::DecideReasons why{{decide, rig},
                           running_.truths()[index],
                           let_go_[index],
                           decide.judges ? running_.readings()[decide.of] : rig::AnyReading(),
                           {},
                           about_timing(decide),
                           {}};
    if (decide.judges) {
        why.reads = reading_of(decide.of);
        return why.reading.ok() ? decide.part->because(why) : why.reads;
    }
    why.facts = all_of(facts_that_matter(decide.when.condition));
    std::string out = decide.part->because(why);
    const ResetTime& reset = resets_[static_cast<size_t>(&decide - rig.decides.data())];
    if (reset.at != INT64_MIN)
        out += fmt::format(", reset \"{}\" at {}", decide.reset.text, rig::time_to_text(reset.at));
    return out + why.timing;
}

/// What a decision waits for before its truth counts.
std::string Explainer::about_timing(const rig::Decide& decide) const {
    std::string out;
    const auto add = [&out](std::string_view name, Duration time) {
        if (time > Duration{})
            out += fmt::format(", {} {}", name, rig::span_to_text(time.thousandths()));
    };
    if (decide.lasting) {
        add("for_at_least", decide.lasting->yes_for);
        add("gone_for", decide.lasting->no_for);
    }
    if (decide.times > 0)
        out += fmt::format(", times {}", decide.times);
    return out;
}

/// The facts of a condition on which its truth hangs now: those that could turn it by themselves;
/// all of them if none could.
std::vector<size_t> Explainer::facts_that_matter(const rig::Condition& condition) const {
    std::vector<Truth> truths = running_.truths();
    const Truth now = condition.evaluate(truths.data());
    std::vector<size_t> out;
    for (const size_t fact : condition.facts()) {
        const Truth is = truths[fact];
        bool matters = false;
        for (const Truth other : {Truth::no, Truth::unknown, Truth::yes}) {
            truths[fact] = other;
            matters = matters || condition.evaluate(truths.data()) != now;
        }
        truths[fact] = is;
        if (matters)
            out.push_back(fact);
    }
    return out.empty() ? condition.facts() : out;
}

std::string Explainer::all_of(std::vector<size_t> facts) const {
    // Of several, those that have just let go say enough.
    std::vector<size_t> fresh;
    std::copy_if(facts.begin(), facts.end(), std::back_inserter(fresh),
                 [this](size_t fact) { return let_go_[fact]; });
    if (!fresh.empty())
        facts = fresh;
    const rig::Rig& rig = running_.rig();
    std::vector<size_t> machines; // that were told already: one is in one state only
    std::string out;
    for (const size_t index : facts) {
        const rig::Fact& fact = rig.facts[index];
        std::string text = about(index, facts.size() > 1);
        if (fact.kind == rig::Fact::Kind::in_state) {
            if (std::find(machines.begin(), machines.end(), fact.of) != machines.end())
                continue;
            machines.push_back(fact.of);
            const auto others = std::count_if(facts.begin(), facts.end(), [&](size_t other) {
                return rig.facts[other].kind == fact.kind && rig.facts[other].of == fact.of;
            });
            if (others > 1)
                text = fmt::format("{} is in {}", rig.machines[fact.of].name,
                                   rig.machines[fact.of].states[running_.state(fact.of)]);
        }
        out += fmt::format("{}{}", out.empty() ? "" : "; ", text);
    }
    return out;
}

std::string Explainer::why_moved(size_t index) const {
    const rig::RigMachine& machine = running_.rig().machines[index];
    const MachineMove& move = machine.moves[running_.move_taken(index)];
    std::string out = fmt::format("from {}", machine.states[running_.left_state(index)]);
    if (move.after > 0)
        out += fmt::format(", after {}", rig::span_to_text(move.after));
    if (move.has_event()) {
        const rig::WrittenCondition& event = machine.events[move.when];
        out += fmt::format(", \"{}\": {}", event.text, all_of(facts_that_matter(event.condition)));
    }
    return out;
}

/// What a claim that follows a curve asks for.
std::string Explainer::about_follow(const rig::RigClaim& claim, const std::string& said) const {
    const rig::Decide& decide = running_.rig().decides[*claim.follows];
    const std::string reading = reading_of(decide.of);
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
    switch (driven.cause) {
    case Cause::claim:
        return fmt::format("{}: {}{}", rig::label_of(claim), behind, about_hand(index, now));
    case Cause::safe:
        return fmt::format("safe value, since {} is unknown: {}{}", rig::label_of(claim), behind,
                           about_hand(index, now));
    default:
        return drive.part->guard({drive, running_.rig()}, driven.cause, driven.is_on,
                                 waits_[index].since_power_up);
    }
}

std::string Explainer::readings_of(const rig::Sense& sense) const {
    std::string out;
    for (size_t i = sense.source; i < sense.source + sense.sources; ++i)
        out += fmt::format("{}{}", out.empty() ? "reads " : ", ",
                           rig::reading_text(running_.readings()[i].value_or({}).thousandths(),
                                             running_.rig().sources[i].kind));
    return out;
}

std::string Explainer::why_out_of_range(const rig::Sense& sense, const std::string& came,
                                        rig::Raw raw) const {
    const rig::Source& source = running_.rig().sources[sense.source];
    const std::string range = fmt::format("{} to {}", to_text(source.lowest, source.kind),
                                          to_text(source.highest, source.kind));
    if (!rig::codes_of(sense).known() || raw.bits() < 0)
        return fmt::format("{}: outside {}", came, range);
    const bool at_low_end =
        (raw.bits() < rig::codes_of(sense).first) == rig::codes_of(sense).rising;
    const bool degrees = source.kind == rig::Kind::temperature;
    return fmt::format("{}: {} than {}", came,
                       degrees      ? at_low_end ? "colder" : "warmer"
                       : at_low_end ? "less"
                                    : "more",
                       to_text(at_low_end ? source.lowest : source.highest, source.kind));
}

std::string Explainer::why_health(size_t index, rig::Raw raw) const {
    const rig::Sense& sense = running_.rig().senses[index];
    const rig::AnyReading reading = running_.readings()[sense.source];
    if (reading.ok())
        return readings_of(sense);
    for (const size_t input : sense.inputs) {
        const Health other = running_.readings()[input].health();
        if (other == reading.health())
            return fmt::format("cannot be corrected: {} has {}", running_.rig().sources[input].name,
                               with_article(other));
    }
    const rig::Source& source = running_.rig().sources[sense.source];
    const std::string came =
        sense.raw == rig::RawKind::code
            ? fmt::format("code {} of {}", raw.bits(), sense.largest_raw)
        : sense.raw == rig::RawKind::frame
            ? raw.bits() < 0 ? "no frame" : fmt::format("frame {:010x}", raw.bits())
            : fmt::format("{} {}", raw.bits(), rig::unit_of(sense.raw));
    switch (reading.health()) {
    case Health::ok: break;
    case Health::missing:
        return raw.is_silent() ? "it does not answer"
               : sense.raw == rig::RawKind::level && raw.taken()
                   ? "its level has not held still for long enough yet"
               : sense.raw == rig::RawKind::edges && raw.taken()
                   ? "it has not counted for long enough yet"
               : sense.raw == rig::RawKind::frame ? "no good frame for too long"
                                                  : "no sample";
    case Health::open_circuit: return came + ": a wire is off or broken";
    case Health::short_circuit:
        return came + (sense.shorted_reads_supply ? ": no supply, or the output touches ground"
                                                  : ": the wires touch");
    case Health::out_of_range: return why_out_of_range(sense, came, raw);
    case Health::warming: return "its heater is not warm yet";
    case Health::stale: return "no sample for too long";
    case Health::bad_frame: return came + ": its checksum is wrong";
    case Health::no_echo: return "nothing came back";
    case Health::too_near:
        return fmt::format("{}: nearer than {}", came, to_text(source.lowest, source.kind));
    case Health::too_far:
        return fmt::format("{}: further than {}", came, to_text(source.highest, source.kind));
    case Health::implausible: return came + ": a jump further than it can change";
    case Health::stuck: return came + ": has not moved for longer than a live sensor holds still";
    }
    return {};
}

} // namespace zorilla::bench
