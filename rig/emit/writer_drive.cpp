// SPDX-License-Identifier: MIT
// Outputs as C++: their specs, claims, patterns and hands, and what goes to their pins.
#include "rig/drive/part.hpp"
#include "rig/emit/writer.hpp"

#include <algorithm>

namespace zorilla::rig {

namespace {

const DriveKind& kind_of(const Drive& drive) {
    return *std::find_if(drive_kinds().begin(), drive_kinds().end(),
                         [&](const DriveKind& one) { return drive.word == one.word; });
}

/// Pins as the board calls them, values as literals; "low" and the like stay.
std::string pin_or_value(const std::string& text, ValueKind kind) {
    if (const std::string pin = board_pin(text); !pin.empty())
        return pin;
    const ValueText value = parse_value(text, kind);
    return value.problem.empty() && text != "low" && text != "high" ? cpp_value(value.value, kind)
                                                                    : text;
}

const RigClaim* hand_of(const Drive& drive) {
    for (const RigClaim& claim : drive.claims)
        if (claim.by == RigClaim::By::hand)
            return &claim;
    return nullptr;
}

} // namespace

std::string DeviceWriter::is_on(const Drive& drive) const {
    const std::string value =
        drives_.at(static_cast<size_t>(&drive - rig_.drives.data())) + ".value()";
    switch (drive.kind()) {
    case ValueKind::on_off: return value + " == on";
    case ValueKind::duty: return value + " != Duty()";
    case ValueKind::colour: return value + " != Colour()";
    case ValueKind::tone: return value + " != silence";
    case ValueKind::stage: return value + ".number() > 0";
    }
    return value;
}

std::string DeviceWriter::sequence(const Drive& drive, const RigClaim& claim) {
    const std::string type(cpp_type(drive.kind()));
    std::string steps;
    for (const auto& step : claim.pattern)
        steps += fmt::format("{}step({}, {})", steps.empty() ? "" : ", ",
                             cpp_typed(step.value, drive.kind()),
                             cpp_quantity(step.time.thousandths(), Kind::duration));
    const std::string steps_name = constant(fmt::format("{}_{}_steps", drive.name, claim.says),
                                            fmt::format("sequence({})", steps));
    const std::string block = names_.take(fmt::format("{}_{}", drive.name, claim.says));
    member(fmt::format("Sequence<{}>", steps_name), block);
    return block;
}

void DeviceWriter::hand(size_t index) {
    const Drive& drive = rig_.drives[index];
    const RigClaim* claim = hand_of(drive);
    if (claim == nullptr)
        return;
    const std::string longest = cpp_quantity(drive.hand->longest.thousandths(), Kind::duration);
    const std::string& block = hands_.at(index);
    std::string call = "now, " + condition(drive.hand->take);
    if (drive.hand->back.given())
        call += ", " + condition(drive.hand->back);
    if (claim->is_steady()) {
        const std::string time = constant(drive.name + "_by_hand_for", longest);
        member(fmt::format("Hand<{}>", time), block);
        const std::string then = claim->in_turn.empty()
                                     ? cpp_typed(claim->then, drive.kind())
                                     : cpp_typed(claim->in_turn.front(), drive.kind());
        hand_claims_[index] =
            local(drive.name + "_by_hand", fmt::format("{}.claim({}, {})", block, call, then));
        return;
    }
    member("HandState", block);
    if (claim->in_turn.size() > 1)
        call += fmt::format(", uint8_t{{{}}}", claim->in_turn.size());
    statement(fmt::format("{}.pass({}, {});", block, longest, call));
}

std::string DeviceWriter::claim(const Drive& drive, const RigClaim& claim,
                                const std::string& hand) {
    const ValueKind kind = drive.kind();
    const auto index = static_cast<size_t>(&drive - rig_.drives.data());
    if (claim.by == RigClaim::By::shutdown) {
        const auto place = std::find(rig_.shutdown.order.begin(), rig_.shutdown.order.end(), index);
        return fmt::format("{}.claim({}, {})", shutdown_, place - rig_.shutdown.order.begin(),
                           kind == ValueKind::duty ? "Duty()" : cpp_value(claim.then, kind));
    }
    if (claim.by == RigClaim::By::hand && !hand.empty())
        return hand;
    const std::string when = claim.always() ? "Truth::yes" : of(claim.when);
    if (claim.in_turn.size() > 1) {
        std::string value;
        for (size_t i = 0; i + 1 < claim.in_turn.size(); ++i)
            value += fmt::format("{}.sense() == {} ? {} : ", hands_.at(index), i,
                                 cpp_typed(claim.in_turn[i], kind));
        return fmt::format("set_when({}, {}{})", when, value,
                           cpp_typed(claim.in_turn.back(), kind));
    }
    if (claim.follows)
        return claim.always() ? fmt::format("follow({})", given_.at(*claim.follows))
                              : fmt::format("follow_when({}, {})", when, given_.at(*claim.follows));
    if (!claim.pattern.empty())
        return fmt::format("{}.claim(now, {})", sequence(drive, claim), when);
    if (kind == ValueKind::on_off)
        return fmt::format("{}({})", claim.then.on_off() == on ? "on_when" : "off_when", when);
    return fmt::format("set_when({}, {})", when, cpp_typed(claim.then, kind));
}

void DeviceWriter::drive(size_t index) {
    const Drive& drive = rig_.drives[index];
    const DriveKind& kind = kind_of(drive);
    const Node& table = table_of("drive", drive.name);
    const std::string& name = drives_.at(index);
    constants_ += comment(drive.place);
    const CppForm form(table,
                       [&](const std::string& text) { return pin_or_value(text, drive.kind()); });
    std::string value = spec(table, kind.keys, {{"", kind.cpp.start}}, form,
                             fmt::format("[drive.{}]", drive.name), drive.place);
    value += fmt::format(".safe({})", cpp_value(drive.safe, drive.kind()));
    if (drive.rest.any())
        value += fmt::format(".rest({})", cpp_value(drive.rest, drive.kind()));
    const std::string part = constant(drive.name + "_part", value);
    std::string call;
    for (const RigClaim& one : drive.claims) {
        const auto hand = hand_claims_.find(index);
        call += (call.empty() ? "" : ", ") +
                claim(drive, one, hand == hand_claims_.end() ? std::string() : hand->second);
    }
    member(fmt::format("{}<{}>", kind.cpp.block, part), name);
    if (drive.turns)
        call = fmt::format("truth_of({}.value_or({{}}).thousandths() > 0), {}, {}",
                           sources_[*drive.turns],
                           drive.reset.given() ? condition(drive.reset) : "Truth::no", call);
    if (kind.cpp.timed)
        call = "now, " + call;
    const char* how = "drive";
    if (drive.never_with) {
        how = "drive_unless";
        call = fmt::format("truth_of({}), {}", is_on(rig_.drives[*drive.never_with]), call);
    }
    statement(fmt::format("{}.{}({});", name, how, call));

    // What its pins do, and what goes there.
    const bool dims = is_dimmed(drive) || kind.way > PinWay::duty;
    const bool by_timer = kind.cpp.dimmed != nullptr && (dims || kind.cpp.switched == nullptr);
    std::string shows = fmt::format("device.{}.value()", name);
    if (!test_.empty()) {
        const std::string full = cpp_typed(drive.full(), drive.kind());
        const std::string none = cpp_typed(AnyValue(), drive.kind());
        shows = fmt::format("device.tests ? (device.{}.of({}) == on ? {} : {}) : {}", test_, index,
                            full, none, shows);
    }
    // What is on or off is the same to the eye.
    std::string written = by_timer ? kind.cpp.shows : "{value}";
    put(written, "{value}", shows);
    outputs_.push_back({form.fill(by_timer ? kind.cpp.dimmed : kind.cpp.switched), written, shows});
}

void DeviceWriter::self_test() {
    if (!rig_.self_test.when.given())
        return;
    test_ = names_.take("self_test");
    member("SelfTestState", test_);
    member("bool", names_.take("tests"), "false");
    statement(fmt::format("tests = {}.pass({}, {}, now, {});", test_,
                          cpp_quantity(rig_.self_test.each.thousandths(), Kind::duration),
                          rig_.drives.size(), condition(rig_.self_test.when)));
}

} // namespace zorilla::rig
