// SPDX-License-Identifier: MIT
// What conditions can name.
#include "rig/read/scope.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace zorilla::rig {

namespace {

size_t stage_number(std::string_view text) {
    return text.size() > 2 || text.find_first_not_of("0123456789") != std::string_view::npos
               ? 0
               : static_cast<size_t>(std::stoi(std::string(text)));
}

template <class... Parts>
std::optional<size_t> fail_fact(std::string& problem, fmt::format_string<Parts...> text,
                                Parts&&... parts) {
    problem = fmt::format(text, std::forward<Parts>(parts)...);
    return std::nullopt;
}

} // namespace

size_t Scope::add_fact(Fact fact) {
    rig.facts.push_back(std::move(fact));
    return rig.facts.size() - 1;
}
/// The number of a fact that may be there already.
size_t Scope::fact_number(Fact fact) {
    for (size_t i = 0; i < rig.facts.size(); ++i)
        if (rig.facts[i].name == fact.name)
            return i;
    return add_fact(std::move(fact));
}

std::optional<size_t> Scope::find_fact(const FactText& text, std::string& problem) {
    if (text.verb == "warns" || text.verb == "warns_off" || text.verb == "by_hand" ||
        text.verb == "stalled")
        return find_of_drive(text, problem);
    if (text.verb == "at")
        return find_full(text, problem);
    if (text.verb == "rises" || text.verb == "falls") {
        const auto plain = find_plain({text.name, "edge", ""}, problem);
        const auto kind = text.verb == "rises" ? Fact::Kind::rises : Fact::Kind::falls;
        return plain ? std::optional(fact_number(
                           {kind, *plain, 0, fmt::format("{}({})", text.verb, text.name)}))
                     : std::nullopt;
    }
    if (text.verb.empty() || text.verb == "lost")
        return text.verb.empty() ? find_plain(text, problem) : find_lost(text, problem);
    return text.verb == ">=" || text.verb == "locked" ? find_of_decide(text, problem)
                                                      : find_of_machine(text, problem);
}

/// A name that is a truth by itself.
std::optional<size_t> Scope::find_plain(const FactText& text, std::string& problem) {
    Names names;
    for (size_t i = 0; i < rig.facts.size(); ++i) {
        const Fact& fact = rig.facts[i];
        if (fact.kind != Fact::Kind::switched && fact.kind != Fact::Kind::decision)
            continue;
        if (fact.name == text.name)
            return i;
        names.push_back(fact.name);
    }
    for (size_t i = 0; i < rig.drives.size(); ++i)
        if (rig.drives[i].name == text.name) {
            if (outputs_may_be_named && text.verb.empty())
                return fact_number({Fact::Kind::is_on, i, 0, std::string(text.name)});
            return fail_fact(problem,
                             "{0} is an output; only \"never\" of [rig] may look at those. Name "
                             "what switches it",
                             text.name);
        }
    for (const Decide& decide : rig.decides)
        if (decide.name == text.name && decide.gives == Gives::duty)
            return fail_fact(problem,
                             "{0} is a curve, neither yes nor no; an output follows it with "
                             "then = \"{0}\"",
                             text.name);
        else if (decide.name == text.name)
            return fail_fact(problem,
                             "{0} has stages; write {0} >= 1, with the stage from which "
                             "on it counts",
                             text.name);
    for (const RigMachine& machine : rig.machines)
        if (machine.name == text.name)
            return fail_fact(problem, "{0} is a machine; write {0} in {1}", text.name,
                             machine.states.empty() ? "STATE" : machine.states.front());
    for (size_t i = 0; i < rig.sources.size(); ++i)
        if (rig.sources[i].name == text.name && !rig.sources[i].kind_known)
            // What is wrong with the sensor was said; it may be meant to be yes or no.
            return fact_number({Fact::Kind::switched, i, 0, std::string(text.name)});
        else if (rig.sources[i].name == text.name)
            return fail_fact(problem,
                             "{0} is a quantity, neither yes nor no; make a [decide.NAME] with of "
                             "= \"{0}\", or write lost({0})",
                             text.name);
    if (!outputs_may_be_named)
        return fail_fact(problem, "there is no [decide.{}]{}", text.name,
                         suggestion(text.name, names));
    output_number(text.name, names);
    return fail_fact(problem, "there is no [drive.{0}] or [decide.{0}]{1}", text.name,
                     suggestion(text.name, names));
}
std::optional<size_t> Scope::find_lost(const FactText& text, std::string& problem) {
    Names names;
    for (size_t i = 0; i < rig.sources.size(); ++i) {
        if (rig.sources[i].name == text.name)
            return fact_number({Fact::Kind::lost, i, 0, fmt::format("lost({})", text.name)});
        names.push_back(rig.sources[i].name);
    }
    if (const auto whole = unknown_source(rig, text.name))
        return fact_number({Fact::Kind::lost, *whole, 0, fmt::format("lost({})", text.name)});
    return fail_fact(problem, "there is no [sense.{}] that could be lost{}", text.name,
                     suggestion(text.name, names));
}
/// What an output tells of itself, after the pass before if it stands further down.
std::optional<size_t> Scope::find_of_drive(const FactText& text, std::string& problem) {
    const struct {
        std::string_view verb;
        Fact::Kind kind;
        const char* key;
        const char* needs;
    } verbs[] = {
        {"warns", Fact::Kind::warns, "warn", "\"warn\", how long it warns"},
        {"warns_off", Fact::Kind::warns_off, "warn_off",
         "\"warn_off\", how long it warns before it switches off"},
        {"by_hand", Fact::Kind::by_hand, "by_hand", "\"by_hand\", who may take it over"},
        {"stalled", Fact::Kind::stalled, "turns", "\"turns\", what counts its turns"},
    };
    Names names;
    for (const auto& verb : verbs) {
        if (verb.verb != text.verb)
            continue;
        const auto drive = output_number(text.name, names);
        if (!drive)
            return fail_fact(problem, "there is no [drive.{}]{}", text.name,
                             suggestion(text.name, names));
        const Node* table = outputs_[*drive].table;
        const bool warns =
            verb.kind == Fact::Kind::warns && table != nullptr && table->get("warn_off") != nullptr;
        if (table != nullptr && table->get(verb.key) == nullptr && !warns)
            return fail_fact(problem, "{0}({1}) can never be: [drive.{1}] has no {2}", text.verb,
                             text.name, verb.needs);
        return fact_number({verb.kind, *drive, 0, fmt::format("{}({})", text.verb, text.name)});
    }
    return std::nullopt;
}
std::optional<size_t> Scope::find_full(const FactText& text, std::string& problem) {
    Names names;
    const auto drive = output_number(text.name, names);
    if (!drive)
        return fail_fact(problem, "there is no [drive.{}]{}", text.name,
                         suggestion(text.name, names));
    if (!outputs_may_be_named)
        return fail_fact(problem, "only \"never\" of [rig] may look at outputs. Name what sets {}",
                         text.name);
    if (text.object != "full")
        return fail_fact(problem, "write {0} at full, or {0} alone for anything but off",
                         text.name);
    return fact_number({Fact::Kind::at_full, *drive, 0, fmt::format("{} at full", text.name)});
}
std::optional<size_t> Scope::find_of_decide(const FactText& text, std::string& problem) {
    const bool locked = text.verb == "locked";
    const auto fits = [locked](const Decide& decide) {
        return locked ? decide.can_lock : decide.gives == Gives::stage;
    };
    Names names;
    for (size_t i = 0; i < rig.decides.size(); ++i) {
        const Decide& decide = rig.decides[i];
        if (fits(decide))
            names.push_back(decide.name);
        if (decide.name != text.name || !fits(decide))
            continue;
        if (locked)
            return fact_number({Fact::Kind::locked, i, 0, fmt::format("locked({})", text.name)});
        // Of stages that could not be read any may be named: what is wrong has been said.
        const size_t most = decide.stages == 0 ? 16 : decide.stages;
        const size_t stage = stage_number(text.object);
        if (stage < 1 || stage > most)
            return fail_fact(problem, "{} has the stages 1 to {}, not \"{}\"", text.name, most,
                             text.object);
        return fact_number({Fact::Kind::at_least, i, static_cast<uint8_t>(stage),
                            fmt::format("{} >= {}", text.name, stage)});
    }
    for (const Drive& drive : rig.drives)
        if (drive.name == text.name)
            return fail_fact(problem,
                             locked
                                 ? "{0} is an output; what may be locked is a [decide.NAME] with "
                                   "act_for"
                                 : "{0} is an output; compare the [decide.NAME] with stages that "
                                   "it follows",
                             text.name);
    return locked
               ? fail_fact(problem, "there is no [decide.{}] with act_for that could be locked{}",
                           text.name, suggestion(text.name, names))
               : fail_fact(problem, "there is no [decide.{}] with stages{}", text.name,
                           suggestion(text.name, names));
}
std::optional<size_t> Scope::find_of_machine(const FactText& text, std::string& problem) {
    Names names;
    for (size_t i = 0; i < rig.machines.size(); ++i) {
        const RigMachine& machine = rig.machines[i];
        names.push_back(machine.name);
        if (machine.name != text.name)
            continue;
        for (size_t s = 0; s < machine.states.size(); ++s)
            if (machine.states[s] == text.object)
                return fact_number({text.verb == "in"       ? Fact::Kind::in_state
                                    : text.verb == "enters" ? Fact::Kind::enters
                                                            : Fact::Kind::leaves,
                                    i, static_cast<uint8_t>(s),
                                    fmt::format("{} {} {}", text.name, text.verb, text.object)});
        if (machine.states.empty()) // its moves could not be read, and that was said
            return fact_number({Fact::Kind::in_state, i, 0, std::string(text.name)});
        return fail_fact(problem, "{} has no state \"{}\"{}", text.name, text.object,
                         suggestion(text.object, machine.states));
    }
    return fail_fact(problem, "there is no [machine.{}]{}", text.name,
                     suggestion(text.name, names));
}

} // namespace zorilla::rig
