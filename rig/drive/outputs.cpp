// SPDX-License-Identifier: MIT
#include "rig/drive/outputs.hpp"

#include "rig/text/names.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace zorilla::rig {

namespace {

const std::vector<PartKey> by_hand_keys = {
    {"when", "\"button\""}, {"back", "\"automatic\""}, {"longest", "\"15 min\""}, {"then", "\"on\""}};
const std::vector<PartKey> claim_keys_known = {{"when", "\"cold\""}, {"then", "\"on\""}};

const std::vector<PartKey> drive_keys = {
    {"part", ""}, {"pin", ""}, {"pins", ""}, {"red_pin", ""}, {"green_pin", ""}, {"blue_pin", ""}, {"lights", ""}, {"active", ""}, {"safe", ""}, {"rest", ""}, {"fade", ""}, {"min_on", ""}, {"min_off", ""}, {"longest_on", ""}, {"warn", ""}, {"warn_off", ""}, {"never_with", ""}, {"kick", ""}, {"kick_for", ""}, {"ramp", ""}, {"turns", ""}, {"stall_after", ""}, {"rest_when_stalled", ""}, {"tries", ""}, {"reset", ""}, {"by_hand", ""}, {"claims", ""}};

struct PartName {
    std::string_view name;
    Drive::Part part;
    ValueKind kind;
};
constexpr PartName part_names[] = {
    {"relay", Drive::Part::relay, ValueKind::on_off},
    {"led", Drive::Part::led, ValueKind::duty},
    {"rgb_led", Drive::Part::rgb_led, ValueKind::colour},
    {"led_bar", Drive::Part::led_bar, ValueKind::stage},
    {"buzzer", Drive::Part::buzzer, ValueKind::tone},
    {"fan", Drive::Part::fan, ValueKind::duty},
    {"pump", Drive::Part::pump, ValueKind::duty},
    {"servo", Drive::Part::servo, ValueKind::duty},
    {"pwm", Drive::Part::pwm, ValueKind::duty},
};

} // namespace

ValueKind Drive::kind() const {
    for (const PartName& one : part_names)
        if (one.part == part)
            return one.kind;
    return ValueKind::on_off;
}

AnyValue Drive::full() const {
    switch (kind()) {
    case ValueKind::on_off: break;
    case ValueKind::duty: return Duty(100_percent);
    case ValueKind::colour: return colour(100_percent, 100_percent, 100_percent);
    case ValueKind::tone: return tone(1000);
    case ValueKind::stage: return Stage(static_cast<uint8_t>(pins.size()));
    }
    return on;
}

std::string label_of(const RigClaim& claim) {
    switch (claim.by) {
    case RigClaim::By::hand: return "by hand";
    case RigClaim::By::shutdown: return "shutdown";
    case RigClaim::By::rest: return "rest";
    case RigClaim::By::rule: break;
    }
    return claim.always() ? fmt::format("claim {}", claim.number)
                          : fmt::format("claim {}, \"{}\"", claim.number, claim.text);
}

std::string_view to_text(Drive::Part part) {
    for (const PartName& name : part_names)
        if (name.part == part)
            return name.name;
    return "";
}

// --- Patterns

void OutputReader::pattern(const Key& key, TableReader& keys) {
    const std::string example = "[[\"on\", \"200 ms\"], [\"off\", \"800 ms\"]]";
    keys.allow({{"steps", "[[\"on\", \"200 ms\"], [\"off\", \"800 ms\"]]"}});
    if (keys.require("steps", "its values, each with how long it lasts", example))
        patterns_[std::string(key.text)] = {&key, keys.list("steps", 1, 32, example)};
    else
        patterns_[std::string(key.text)] = {&key, nullptr};
}

void OutputReader::steps_of(Pattern& pattern, const Drive& drive, RigClaim& out) {
    const bool first_use = !pattern.used;
    pattern.used = true;
    if (pattern.steps == nullptr)
        return;
    for (const Node& node : pattern.steps->inside()) {
        const auto* pair = node.as_list();
        if (pair == nullptr || pair->size() != 2) {
            if (first_use)
                findings_.add(node, fmt::format("a step is a value and a time, such as [\"{}\", "
                                                "\"200 ms\"]",
                                                example_of(drive.kind())));
            continue;
        }
        const auto is = value((*pair)[0], "steps", drive);
        static const Node nothing = Node::table();
        TableReader reader(nothing, "a step", findings_, {});
        const auto lasts = reader.quantity_of((*pair)[1], "steps", Kind::duration, "200 ms");
        if (!is || !lasts)
            continue;
        const auto span = Duration::from_thousandths(*lasts);
        if (span <= Duration{} || span > 24_h * 12 || out.pattern_time + span > 24_h * 12)
            findings_.add((*pair)[1], "a step lasts from 1 ms, and all of them together at most "
                                         "12 d");
        else
            out.pattern_time = out.pattern_time + span;
        out.pattern.push_back({*is, span});
    }
}

// --- Values

std::optional<AnyValue> OutputReader::value(const Node& node, std::string_view key,
                                            const Drive& drive) {
    const auto* text = node.as_text();
    if (text == nullptr) {
        findings_.add(node, fmt::format("\"{}\" must be a text, such as \"{}\"", key,
                                        example_of(drive.kind())));
        return std::nullopt;
    }
    ValueText read = parse_value(*text, drive.kind());
    if (read.problem.empty())
        return read.value;
    findings_.add(node, std::move(read.problem));
    return std::nullopt;
}

std::optional<AnyValue> OutputReader::value(TableReader& keys, std::string_view key,
                                            const Drive& drive) {
    const Node* node = keys.find(key);
    return node == nullptr ? std::nullopt : value(*node, key, drive);
}

std::optional<Duration> OutputReader::time(TableReader& keys, std::string_view key,
                                           std::string_view example) {
    const auto time = keys.quantity(key, Kind::duration, example);
    return time ? std::optional(Duration::from_thousandths(*time)) : std::nullopt;
}

// --- Parts

void OutputReader::drive(const Key& key, TableReader& keys) {
    Drive out;
    out.name = key.text;
    out.place = key.place;
    keys.allow(drive_keys);
    Names names;
    for (const PartName& name : part_names)
        names.emplace_back(name.name);
    const auto part_name = keys.choice("part", names);
    if (!part_name && keys.find("part") == nullptr)
        keys.complain(fmt::format("{} needs \"part\", what kind of output it is; write part = "
                                  "\"relay\", or one of {}",
                                  keys.label(), TableReader::listed(names)));
    for (const PartName& name : part_names)
        if (part_name == name.name)
            out.part = name.part;
    part(keys, out);
    if (part_name) {
        hand(keys, out);
        claims(keys, out);
    } else {
        keys.ignore_the_rest();
    }
    dimmed(keys, out);
    rig_.drives.push_back(std::move(out));
}

void OutputReader::part(TableReader& keys, Drive& out) {
    switch (out.part) {
    case Drive::Part::rgb_led:
        for (const char* key : {"red_pin", "green_pin", "blue_pin"})
            out.pins.push_back(scope_.pin(keys, PinUse::output, key, "where that colour is connected"));
        break;
    case Drive::Part::led_bar:
        out.pins = scope_.pins(keys, "pins");
        out.only_top = keys.choice("lights", {"all", "top"}) == "top";
        break;
    default: out.pins = {scope_.pin(keys, PinUse::output)}; break;
    }
    switch (out.part) {
    case Drive::Part::relay: return relay(keys, out);
    case Drive::Part::fan:
    case Drive::Part::pump: return motor(keys, out);
    case Drive::Part::led:
    case Drive::Part::pwm:
    case Drive::Part::servo:
        active(keys, out, false);
        values(keys, out);
        if (const auto fade = time(keys, "fade", "3 s")) {
            out.fade = *fade;
            keys.expect(*fade >= Duration{} && *fade <= FadeState::longest_swing, "fade",
                        "between 0 and 25 min");
        }
        return;
    case Drive::Part::rgb_led:
    case Drive::Part::led_bar:
    case Drive::Part::buzzer: active(keys, out, false); return values(keys, out);
    }
}

void OutputReader::active(TableReader& keys, Drive& out, bool needed) {
    const auto level = keys.choice("active", {"low", "high"});
    if (needed && !level && keys.find("active") == nullptr)
        keys.complain(fmt::format("{} needs \"active\", the level that switches it on, \"low\" or "
                                  "\"high\"; many relay modules are \"low\"",
                                  keys.label()));
    out.active = level == "low" ? active_low : active_high;
}

void OutputReader::values(TableReader& keys, Drive& out) {
    const auto safe = value(keys, "safe", out);
    if (!safe && keys.find("safe") == nullptr)
        keys.complain(fmt::format("{} needs \"safe\", what it does when a sensor fails, such as "
                                  "\"off\" or \"{}\"; for a heater write safe = \"off\"",
                                  keys.label(), example_of(out.kind())));
    out.safe = safe.value_or(AnyValue());
    // A pattern stands for its own claim behind all others.
    const Node* rest = keys.find("rest");
    const auto* name = rest == nullptr ? nullptr : rest->as_text();
    if (name == nullptr ||
        (patterns_.find(*name) == patterns_.end() && !names_nothing(*rest, *name, out)))
        out.rest = value(keys, "rest", out).value_or(AnyValue());
}

void OutputReader::relay(TableReader& keys, Drive& out) {
    active(keys, out, true);
    values(keys, out);
    RelaySpec spec = RelaySpec(out.active).safe(out.safe.on_off()).rest(out.rest.on_off());
    if (const auto span = time(keys, "min_on", "2 min"))
        spec = spec.min_on(*span);
    if (const auto span = time(keys, "min_off", "5 min"))
        spec = spec.min_off(*span);
    if (const auto span = time(keys, "longest_on", "6 h"))
        spec = spec.longest_on(*span);
    if (const auto span = time(keys, "warn", "3 s"))
        spec = spec.warn(*span);
    if (const auto span = time(keys, "warn_off", "3 s"))
        spec = spec.warn_off(*span);
    out.spec = spec;
    interlock(keys, out);
    if (!spec.times_can_be_told())
        keys.complain(fmt::format("{}: times must lie between 0 and 24 days", keys.label()));
    else if (!spec.longest_on_makes_sense())
        keys.complain(fmt::format(
            "{}: \"longest_on\" must be at least \"min_on\" and more than "
            "\"warn_off\", and needs a \"min_off\" to rest for afterwards; for example min_off = "
            "\"5 min\"",
            keys.label()));
}

void OutputReader::interlock(TableReader& keys, Drive& out) {
    const Node* node = keys.find("never_with");
    const auto other = node == nullptr ? std::nullopt : keys.text("never_with", "motor_down");
    if (!other)
        return;
    Names names;
    out.never_with = scope_.output_number(*other, names);
    if (!out.never_with)
        findings_.add(*node,
                      fmt::format("there is no [drive.{}]{}", *other, suggestion(*other, names)));
    else if (*other == out.name)
        findings_.add(*node, "an output cannot be kept off by itself; name another one");
}

void OutputReader::motor(TableReader& keys, Drive& out) {
    values(keys, out);
    FanSpec spec = fan().safe(out.safe.duty()).rest(out.rest.duty());
    const auto kick = value(keys, "kick", out);
    const auto kick_for = time(keys, "kick_for", "500 ms");
    if ((keys.find("kick") != nullptr) != (keys.find("kick_for") != nullptr))
        keys.complain(fmt::format("{}: \"kick\" and \"kick_for\" belong together, for example kick "
                                  "= \"100 %\" and kick_for = \"500 ms\"",
                                  keys.label()));
    if (kick && kick_for)
        spec = spec.kick(kick->duty(), *kick_for);
    if (const auto span = time(keys, "ramp", "4 s"))
        spec = spec.ramp(*span);
    if (keys.find("turns") != nullptr) {
        const Kind speed = Kind::turning_speed;
        out.turns = keys.source("turns", rig_, &speed, "the sensor that counts its turns");
        if (keys.require("stall_after", "how long it may stand while driven", "\"3 s\""))
            spec = spec.stall_after(time(keys, "stall_after", "3 s").value_or(3_s));
        spec = spec.rest_when_stalled(time(keys, "rest_when_stalled", "10 s").value_or(10_s));
        spec = spec.tries(static_cast<uint8_t>(keys.whole("tries", 1, 255).value_or(3)));
        out.reset = scope_.condition(keys, "reset");
        keys.expect(spec.stall_makes_sense(), "stall_after",
                    "above \"kick_for\", and \"rest_when_stalled\" above 0");
    }
    if (!spec.times_can_be_told())
        keys.complain(fmt::format("{}: a motor's times must lie between 0 and an hour, its ramp up "
                                  "to 25 min",
                                  keys.label()));
    out.motor = spec;
}

/// Whether what is to be dimmed hangs where it can be.
void OutputReader::dimmed(TableReader& keys, const Drive& drive) {
    const auto between = [&drive](AnyValue value) {
        const uint8_t share = value.share(drive.kind());
        return share > 0 && share < 255;
    };
    bool dims = drive.part == Drive::Part::fan || drive.part == Drive::Part::servo ||
                drive.part == Drive::Part::pwm || drive.part == Drive::Part::rgb_led ||
                drive.fade > Duration{} || between(drive.safe) || between(drive.rest);
    for (const RigClaim& claim : drive.claims) {
        dims = dims || between(claim.then) || (claim.follows && drive.kind() == ValueKind::duty);
        for (const auto& step : claim.pattern)
            dims = dims || between(step.value);
    }
    if (!dims)
        return;
    for (const char* key : {"pin", "red_pin", "green_pin", "blue_pin"})
        if (const Node* node = keys.find(key); node != nullptr && node->is_text())
            if (const std::string& pin = *node->as_text(); !scope_.has_pwm(pin))
                findings_.add(*node, fmt::format("{} can only be on or off; a duty needs a pin "
                                                 "with PWM: PB1, PB2, PB3, PD3, PD5 or PD6",
                                                 pin));
}

// --- Claims

void OutputReader::hand(TableReader& keys, Drive& out) {
    const Node* node = keys.find("by_hand");
    if (node == nullptr)
        return;
    const std::string example = fmt::format(
        "{{ when = \"button\", then = \"{}\", longest = \"15 min\" }}", example_of(out.kind()));
    const auto* table = node->as_table();
    if (table == nullptr)
        return findings_.add(*node, "\"by_hand\" must look like by_hand = " + example);
    TableReader hand_keys(*table, "\"by_hand\"", findings_, by_hand_keys);
    Drive::TakeOver hand;
    hand_keys.require("when", "what takes it over", fmt::format("\"{}\"", scope_.example_fact()));
    hand.take = scope_.condition(hand_keys, "when");
    hand.back = scope_.condition(hand_keys, "back");
    if (hand_keys.require("longest", "when it is handed back at the latest", "\"15 min\"")) {
        hand.longest = time(hand_keys, "longest", "15 min").value_or(1_min);
        hand_keys.expect(hand.longest > Duration{} && hand.longest <= HandState::longest_time,
                         "longest", "above 0, and up to 24 d");
    }
    const std::string fact = fmt::format("by_hand({})", out.name);
    hand.fact = scope_.fact_number({Fact::Kind::by_hand, rig_.drives.size(), 0, fact});
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
void OutputReader::hand_values(TableReader& keys, const Drive& drive, RigClaim& claim) {
    const Node* node = keys.find("then");
    if (node == nullptr || !node->is_list())
        return then(keys, drive, claim);
    const std::string example = fmt::format("[\"{}\", \"off\"]", example_of(drive.kind()));
    const auto* list = keys.list("then", 2, 8, example);
    if (list == nullptr)
        return;
    for (const Node& one : list->inside())
        if (const auto is = value(one, "then", drive)) {
            claim.in_turn.push_back(*is);
            claim.says += fmt::format("{}{}", claim.says.empty() ? "" : ", then ", drive.says(*is));
        }
    claim.then = claim.in_turn.empty() ? AnyValue() : claim.in_turn.front();
}

void OutputReader::claims(TableReader& keys, Drive& out) {
    const Node* node = keys.find("claims");
    const std::string example = fmt::format("claims = [ {{ when = \"{}\", then = \"{}\" }} ]",
                                            scope_.example_fact(), example_of(out.kind()));
    if (node == nullptr)
        return keys.complain(fmt::format("{} needs \"claims\", when it is to be switched; for "
                                         "example {}",
                                         keys.label(), example));
    const auto* list = node->as_list();
    if (list == nullptr || list->size() == 0 || list->size() > 250)
        return findings_.add(*node, fmt::format("\"claims\" must be a list of 1 to 250 claims; for "
                                                "example {}",
                                                example));
    uint8_t number = 0;
    const size_t found_before = findings_.count();
    for (const Node& entry : list->inside()) {
        const auto* table = entry.as_table();
        if (table == nullptr) {
            findings_.add(entry, fmt::format("a claim must look like {{ when = \"{}\", then = "
                                             "\"{}\" }}",
                                             scope_.example_fact(), example_of(out.kind())));
            continue;
        }
        TableReader claim_keys(*table, "a claim", findings_, claim_keys_known);
        out.claims.push_back(claim(claim_keys, out));
        out.claims.back().number = ++number;
        claim_keys.finish();
        if (out.claims.back().always() && claim_keys.find("when") == nullptr &&
            &entry != &list->inside().back() && !out.claims.back().is_steady())
            findings_.add(entry, "a claim without \"when\" always holds, so that those below it "
                                 "are never looked at; put it last");
    }
    if (const Node* rest = keys.find("rest"); rest != nullptr && rest->is_text())
        if (const auto pattern = patterns_.find(*rest->as_text());
            pattern != patterns_.end()) {
            RigClaim claim;
            claim.by = RigClaim::By::rest;
            claim.says = pattern->first;
            steps_of(pattern->second, out, claim);
            if (out.claims.back().always())
                findings_.add(*rest, "the last claim always holds, so that \"rest\" is never asked "
                                     "for; drop one of them");
            out.claims.push_back(std::move(claim));
        }
    const bool changes = std::any_of(out.claims.begin(), out.claims.end(), [&](const auto& one) {
        return !one.is_steady() || one.then != out.rest;
    });
    if (!changes && out.safe == out.rest && findings_.count() == found_before)
        findings_.add(*node, fmt::format("{} can never be anything but {}: no claim sets it to "
                                         "something else",
                                         out.name, out.says(out.rest)));
}

RigClaim OutputReader::claim(TableReader& keys, const Drive& drive) {
    RigClaim out;
    WrittenCondition when = scope_.condition(keys, "when");
    out.text = std::move(when.text);
    out.when = std::move(when.condition);
    then(keys, drive, out);
    if (out.is_steady())
        keys.require("when", "its condition", fmt::format("\"{}\"", scope_.example_fact()));
    return out;
}

void OutputReader::then(TableReader& keys, const Drive& drive, RigClaim& out) {
    const Node* node = keys.find("then");
    if (node == nullptr)
        return keys.complain(
            drive.kind() == ValueKind::on_off
                ? std::string(
                      "a claim needs \"then\", \"on\" or \"off\"; for example then = \"on\"")
                : fmt::format("a claim needs \"then\", a value, a pattern or a curve; for example "
                              "then = \"{}\"",
                              example_of(drive.kind())));
    const auto* text = node->as_text();
    const std::string name = text == nullptr ? std::string() : *text;
    out.says = name;
    if (const auto pattern = patterns_.find(name); pattern != patterns_.end())
        return steps_of(pattern->second, drive, out);
    if (text != nullptr && follow(*node, name, drive, out))
        return;
    if (names_nothing(*node, name, drive))
        return;
    if (const auto is = value(*node, "then", drive)) {
        out.then = *is;
        out.says = drive.says(*is);
        if (drive.part == Drive::Part::led_bar && is->stage().number() > drive.pins.size())
            findings_.add(*node, fmt::format("{} has only {} LEDs", drive.name, drive.pins.size()));
    }
}

/// Whether it is a name where a value, a pattern or a curve should stand; complains then.
bool OutputReader::names_nothing(const Node& node, const std::string& name,
                                 const Drive& drive) {
    const bool is_name = is_plain_name(name) && !is_taken_word(name) && name.size() > 1 &&
                         name != "white" && name != "red" && name != "green" && name != "blue";
    if (!is_name)
        return false;
    Names names;
    for (const auto& [pattern, steps] : patterns_)
        names.push_back(pattern);
    for (const Decide& decide : rig_.decides)
        if (!decide.has_truth())
            names.push_back(decide.name);
    // The one that was meant is not called unused too.
    if (const auto meant = patterns_.find(nearest(name, names)); meant != patterns_.end())
        meant->second.used = true;
    findings_.add(node, fmt::format("there is no [pattern.{}] or curve of that name{}; a value "
                                    "would be \"off\" or \"{}\"",
                                    name, suggestion(name, names), example_of(drive.kind())));
    return true;
}

/// Whether the name is one of a curve or a ladder that the output follows.
bool OutputReader::follow(const Node& node, const std::string& name, const Drive& drive,
                          RigClaim& out) {
    for (size_t i = 0; i < rig_.decides.size(); ++i) {
        const Decide& decide = rig_.decides[i];
        if (decide.name != name)
            continue;
        if (decide.has_truth())
            findings_.add(node, fmt::format("{} is yes or no; it belongs in \"when\". \"then\" is "
                                            "a value, a pattern or a curve",
                                            name));
        else if ((decide.part == Decide::Part::curve) != (drive.kind() == ValueKind::duty) ||
                 (decide.part == Decide::Part::ladder) != (drive.kind() == ValueKind::stage))
            findings_.add(node,
                          fmt::format("{} is {}, which a {} cannot follow", name,
                                      decide.part == Decide::Part::curve ? "a curve" : "a ladder",
                                      to_text(drive.part)));
        else if (decide.stages.size() > drive.pins.size() && drive.kind() == ValueKind::stage)
            findings_.add(node, fmt::format("{} has {} stages, but {} only {} LEDs", name,
                                            decide.stages.size(), drive.name, drive.pins.size()));
        out.follows = i;
        return true;
    }
    return false;
}

// --- The whole

void OutputReader::shutdown(TableReader& keys) {
    Shutdown& out = rig_.shutdown;
    keys.allow({{"when", "\"main_switch\""}, {"order", "[\"water_valve\", \"heat_lamp\"]"}, {"gap", "\"2 s\""}});
    keys.require("when", "what shuts the device down", fmt::format("\"{}\"", scope_.example_fact()));
    out.when = scope_.condition(keys, "when");
    out.gap = time(keys, "gap", "2 s").value_or(Duration{});
    keys.expect(out.gap >= Duration{} && out.gap <= 24_h * 24, "gap", "between 0 and 24 d");
    const std::string example = "[\"water_valve\", \"heat_lamp\"]";
    if (!keys.require("order", "the outputs, first to last", example))
        return;
    const auto* list = keys.list("order", 1, 64, example);
    if (list == nullptr)
        return;
    for (const Node& node : list->inside()) {
        Names names;
        const auto* name = node.as_text();
        const auto number =
            name == nullptr ? std::nullopt : scope_.output_number(std::string_view(*name), names);
        if (!number) {
            findings_.add(node, fmt::format("there is no such output{}",
                                            name == nullptr ? std::string()
                                                            : suggestion(*name, names)));
            continue;
        }
        if (std::find(out.order.begin(), out.order.end(), *number) != out.order.end()) {
            findings_.add(node, fmt::format("{} stands twice in the order", *name));
            continue;
        }
        out.facts.push_back(scope_.fact_number({Fact::Kind::shut_down, *number,
                                               static_cast<uint8_t>(out.order.size()),
                                               fmt::format("shutdown of {}", *name)}));
        out.order.push_back(*number);
    }
}

void OutputReader::self_test(TableReader& keys) {
    SelfTest& out = rig_.self_test;
    keys.allow({{"when", "\"test_button\""}, {"each", "\"2 s\""}});
    keys.require("when", "what begins it", fmt::format("\"{}\"", scope_.example_fact()));
    out.when = scope_.condition(keys, "when");
    out.each = time(keys, "each", "2 s").value_or(2_s);
    keys.expect(out.each > Duration{} && out.each <= 24_h, "each", "above 0, and up to 1 d");
}

void OutputReader::finish() {
    for (const auto& [name, pattern] : patterns_)
        if (!pattern.used)
            findings_.add(*pattern.key,
                          fmt::format("no claim uses the pattern \"{0}\"; write then = \"{0}\" in "
                                      "one, or drop it",
                                      name));
    // A shutdown is asked before everything else.
    for (size_t i = 0; i < rig_.shutdown.order.size(); ++i) {
        const size_t at = rig_.shutdown.order[i];
        if (at >= rig_.drives.size())
            continue;
        Drive& drive = rig_.drives[at];
        RigClaim claim;
        claim.by = RigClaim::By::shutdown;
        claim.text = rig_.facts[rig_.shutdown.facts[i]].name;
        claim.when = Condition::of(rig_.shutdown.facts[i]);
        claim.says = drive.says(claim.then); // off
        drive.claims.insert(drive.claims.begin(), std::move(claim));
    }
}

} // namespace zorilla::rig
