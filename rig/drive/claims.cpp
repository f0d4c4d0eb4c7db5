// SPDX-License-Identifier: MIT
// The claims of outputs: who asks for what, and when.
#include "rig/drive/reader.hpp"

#include "rig/read/keys.hpp"
#include "rig/text/names.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace zorilla::rig {

void DriveReader::hand(Drive& out) {
    const Node* node = keys.find("by_hand");
    if (node == nullptr)
        return;
    const std::string example = fmt::format(
        "{{ when = \"button\", then = \"{}\", longest = \"15 min\" }}", example_of(out.kind()));
    const auto* table = node->as_table();
    if (table == nullptr)
        return scope.findings.add(*node, "\"by_hand\" must look like by_hand = " + example);
    TableReader hand_keys(*table, "\"by_hand\"", scope.findings, rig::keys::of_hand);
    Drive::TakeOver hand;
    hand_keys.require("when", "what takes it over", fmt::format("\"{}\"", scope.example_fact()));
    hand.take = scope.condition(hand_keys, "when");
    hand.back = scope.condition(hand_keys, "back");
    if (hand_keys.require("longest", "when it is handed back at the latest", "\"15 min\"")) {
        hand.longest = Duration::from_thousandths(
            hand_keys.quantity("longest", Kind::duration, "15 min").value_or(60'000));
        hand_keys.expect(hand.longest > Duration{} && hand.longest <= HandState::longest_time,
                         "longest", "above 0, and up to 24 d");
    }
    const std::string fact = fmt::format("by_hand({})", out.name);
    hand.fact = scope.fact_number({Fact::Kind::by_hand, scope.rig.drives.size(), 0, fact});
    RigClaim claim;
    claim.by = RigClaim::By::hand;
    claim.text = fact;
    claim.when = Condition::of(hand.fact);
    hand_values(hand_keys, out, claim);
    hand_keys.finish();
    out.claims.push_back(std::move(claim));
    out.hand = std::move(hand);
}

/// What a person may ask for: one value, a pattern or a curve; or values, one for each press.
void DriveReader::hand_values(TableReader& table, const Drive& drive, RigClaim& claim) {
    const Node* node = table.find("then");
    if (node == nullptr || !node->is_list())
        return then(table, drive, claim);
    const std::string example = fmt::format("[\"{}\", \"off\"]", example_of(drive.kind()));
    const auto* list = table.list("then", 2, 8, example);
    if (list == nullptr)
        return;
    for (const Node& one : list->inside())
        if (const auto is = value_of(one, "then", drive)) {
            claim.in_turn.push_back(*is);
            claim.says += fmt::format("{}{}", claim.says.empty() ? "" : ", then ", drive.says(*is));
        }
    claim.then = claim.in_turn.empty() ? AnyValue() : claim.in_turn.front();
}

void DriveReader::claims(Drive& out) {
    hand(out);
    const Node* node = keys.find("claims");
    const std::string example = fmt::format("claims = [ {{ when = \"{}\", then = \"{}\" }} ]",
                                            scope.example_fact(), example_of(out.kind()));
    if (node == nullptr)
        return keys.complain(fmt::format("{} needs \"claims\", when it is to be switched; for "
                                         "example {}",
                                         keys.label(), example));
    const auto* list = node->as_list();
    if (list == nullptr || list->size() == 0 || list->size() > 250)
        return scope.findings.add(*node,
                                  fmt::format("\"claims\" must be a list of 1 to 250 claims; for "
                                              "example {}",
                                              example));
    uint8_t number = 0;
    for (const Node& entry : list->inside()) {
        const auto* table = entry.as_table();
        if (table == nullptr) {
            scope.findings.add(entry, fmt::format("a claim must look like {{ when = \"{}\", then = "
                                                  "\"{}\" }}",
                                                  scope.example_fact(), example_of(out.kind())));
            continue;
        }
        TableReader one(*table, "a claim", scope.findings, rig::keys::of_claim);
        out.claims.push_back(claim(one, out));
        out.claims.back().number = ++number;
        one.finish();
        if (out.claims.back().always() && one.find("when") == nullptr &&
            &entry != &list->inside().back() && !out.claims.back().is_steady())
            scope.findings.add(entry,
                               "a claim without \"when\" always holds, so that those below it "
                               "are never looked at; put it last");
    }
    rest_pattern(out);
    const bool changes = std::any_of(out.claims.begin(), out.claims.end(), [&](const auto& claim) {
        return !claim.is_steady() || claim.then != out.rest;
    });
    // Whether that is so is known only once all else is understood.
    if (!changes && out.safe == out.rest && scope.findings.count() == 0)
        scope.findings.add(*node,
                           fmt::format("{} can never be anything but {}: no claim sets it to "
                                       "something else",
                                       out.name, out.says(out.rest)));
}

/// A pattern that is shown at rest is a claim behind all others.
void DriveReader::rest_pattern(Drive& out) {
    const Node* rest = keys.find("rest");
    const std::string* name = rest == nullptr ? nullptr : rest->as_text();
    Patterns::Pattern* pattern = name == nullptr ? nullptr : patterns_.find(*name);
    if (pattern == nullptr)
        return;
    RigClaim claim;
    claim.by = RigClaim::By::rest;
    claim.says = *name;
    steps_of(*pattern, out, claim);
    if (!out.claims.empty() && out.claims.back().always())
        scope.findings.add(*rest, "the last claim always holds, so that \"rest\" is never asked "
                                  "for; drop one of them");
    out.claims.push_back(std::move(claim));
}

RigClaim DriveReader::claim(TableReader& table, const Drive& drive) {
    RigClaim out;
    WrittenCondition when = scope.condition(table, "when");
    out.text = std::move(when.text);
    out.when = std::move(when.condition);
    const size_t found_before = scope.findings.count();
    then(table, drive, out);
    if (out.is_steady() && scope.findings.count() == found_before)
        table.require("when", "its condition", fmt::format("\"{}\"", scope.example_fact()));
    return out;
}

void DriveReader::then(TableReader& table, const Drive& drive, RigClaim& out) {
    const Node* node = table.find("then");
    if (node == nullptr)
        return table.complain(
            drive.kind() == ValueKind::on_off
                ? std::string(
                      "a claim needs \"then\", \"on\" or \"off\"; for example then = \"on\"")
                : fmt::format("a claim needs \"then\", a value, a pattern or a curve; for example "
                              "then = \"{}\"",
                              example_of(drive.kind())));
    const auto* text = node->as_text();
    const std::string name = text == nullptr ? std::string() : *text;
    out.says = name;
    if (Patterns::Pattern* pattern = patterns_.find(name))
        return steps_of(*pattern, drive, out);
    if (text != nullptr && follow(*node, name, drive, out))
        return;
    if (names_nothing(*node, name, drive))
        return;
    if (const auto is = value_of(*node, "then", drive)) {
        out.then = *is;
        out.says = drive.says(*is);
        if (drive.kind() == ValueKind::stage && is->stage().number() > drive.pins.size())
            scope.findings.add(*node,
                               fmt::format("{} has only {} LEDs", drive.name, drive.pins.size()));
    }
}

/// Whether it is a name where a value, a pattern or a curve should stand; complains then.
bool DriveReader::names_nothing(const Node& node, const std::string& name, const Drive& drive) {
    const bool is_name = is_plain_name(name) && !is_taken_word(name) && name.size() > 1 &&
                         name != "white" && name != "red" && name != "green" && name != "blue";
    if (!is_name)
        return false;
    Names names;
    patterns_.names(names);
    for (const Decide& decide : scope.rig.decides)
        if (!decide.has_truth())
            names.push_back(decide.name);
    // The one that was meant is not called unused too.
    if (Patterns::Pattern* meant = patterns_.find(nearest(name, names)))
        meant->used = true;
    scope.findings.add(node, fmt::format("there is no [pattern.{}] or curve of that name{}", name,
                                         names.empty() || nearest(name, names).empty()
                                             ? fmt::format("; a value would be \"off\" or \"{}\"",
                                                           example_of(drive.kind()))
                                             : suggestion(name, names)));
    return true;
}

/// Whether the name is one of a curve or a ladder that the output follows.
bool DriveReader::follow(const Node& node, const std::string& name, const Drive& drive,
                         RigClaim& out) {
    for (size_t i = 0; i < scope.rig.decides.size(); ++i) {
        const Decide& decide = scope.rig.decides[i];
        if (decide.name != name)
            continue;
        if (decide.has_truth())
            scope.findings.add(node,
                               fmt::format("{} is yes or no; it belongs in \"when\". \"then\" is "
                                           "a value, a pattern or a curve",
                                           name));
        else if ((decide.gives == Gives::duty) != (drive.kind() == ValueKind::duty) ||
                 (decide.gives == Gives::stage) != (drive.kind() == ValueKind::stage))
            scope.findings.add(node,
                               fmt::format("{} is {}, which a {} cannot follow", name,
                                           decide.gives == Gives::duty ? "a curve" : "a ladder",
                                           drive.word));
        else if (!drive.pins.empty() && decide.stages > drive.pins.size() &&
                 drive.kind() == ValueKind::stage)
            scope.findings.add(node, fmt::format("{} has {} stages, but {} only {} LEDs", name,
                                                 decide.stages, drive.name, drive.pins.size()));
        out.follows = i;
        return true;
    }
    return false;
}

void DriveReader::steps_of(Patterns::Pattern& pattern, const Drive& drive, RigClaim& out) {
    const bool first_use = !pattern.used;
    pattern.used = true;
    if (pattern.steps == nullptr)
        return;
    for (const Node& node : pattern.steps->inside()) {
        const auto* pair = node.as_list();
        if (pair == nullptr || pair->size() != 2) {
            if (first_use)
                scope.findings.add(node,
                                   fmt::format("a step is a value and a time, such as [\"{}\", "
                                               "\"200 ms\"]",
                                               example_of(drive.kind())));
            continue;
        }
        const auto is = value_of((*pair)[0], "steps", drive);
        const auto lasts = keys.quantity_of((*pair)[1], "steps", Kind::duration, "200 ms");
        if (!is || !lasts)
            continue;
        const auto span = Duration::from_thousandths(*lasts);
        if (span <= Duration{} || span > 24_h * 12 || out.pattern_time + span > 24_h * 12)
            scope.findings.add((*pair)[1],
                               "a step lasts from 1 ms, and all of them together at most "
                               "12 d");
        else
            out.pattern_time = out.pattern_time + span;
        out.pattern.push_back({*is, span});
    }
}

} // namespace zorilla::rig
