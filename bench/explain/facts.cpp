// SPDX-License-Identifier: MIT
// What stands behind facts, decisions and moves.
#include "bench/explain/explain.hpp"

#include "rig/text/text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <iterator>

namespace zorilla::bench {

using rig::to_text;
using rig::with_article;

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
        const std::string reading = reading_of(decide.of, &decide);
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

std::string Explainer::about_trim(const rig::Sense& sense) const {
    if (!sense.trimmed_by)
        return {};
    const rig::Source& by = running_.rig().sources[*sense.trimmed_by];
    return fmt::format(
        ", and {} of {}",
        rig::to_text(running_.readings()[*sense.trimmed_by].value_or({}).thousandths(), by.kind),
        by.name);
}

std::string Explainer::reading_of(size_t source, const rig::Decide* decide) const {
    const rig::AnyReading reading = running_.readings()[source];
    const rig::Source& of = running_.rig().sources[source];
    std::vector<int32_t> points;
    if (decide != nullptr)
        for (const rig::DecidePoint& point : rig::points_of(*decide)) {
            points.push_back(point.at.thousandths());
            points.push_back(point.release.thousandths());
        }
    return reading.ok()
               ? fmt::format("{} is {}{}", of.name,
                             rig::reading_text(reading.value_or({}).thousandths(), of.kind, points),
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
        why.reads = reading_of(decide.of, &decide);
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

} // namespace zorilla::bench
