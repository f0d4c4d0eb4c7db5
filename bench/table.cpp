// SPDX-License-Identifier: MIT
#include "bench/table.hpp"

#include "rig/text/text.hpp"

#include <iterator>

namespace zorilla::bench {

namespace {

/// Facts that only what must never be looks at are not known while a rig runs.
bool is_shown(const rig::Fact& fact) {
    return fact.kind != rig::Fact::Kind::is_on && fact.kind != rig::Fact::Kind::at_full;
}

std::string cause_to_text(const rig::Drive& drive, const rig::Driven& driven) {
    if (driven.tested)
        return "self_test";
    switch (driven.cause) {
    case Cause::rest: return "rest";
    case Cause::claim: {
        const rig::RigClaim& claim = drive.claims[driven.claim];
        return claim.by == rig::RigClaim::By::rule ? fmt::format("claim {}", claim.number)
                                                   : rig::label_of(claim);
    }
    case Cause::safe: return "safe";
    case Cause::minimum_on: return "min_on";
    case Cause::minimum_off: return "min_off";
    case Cause::longest_on: return "longest_on";
    case Cause::warning: return "warn";
    case Cause::interlock: return "never_with";
    case Cause::kick_start: return "kick";
    case Cause::ramp: return "ramp";
    case Cause::stalled: return "stalled";
    case Cause::failed: break;
    }
    return "failed";
}

} // namespace

TableWriter::TableWriter(const std::string& path, const rig::Rig& rig) : file_(path) {
    auto out = std::back_inserter(text_);
    fmt::format_to(out, "time (s)");
    for (const auto& source : rig.sources)
        if (source.kind != rig::Kind::truth)
            fmt::format_to(out, ",{0} ({1}),{0} health", source.name,
                           rig::stored_unit_of(source.kind));
    for (const rig::Fact& fact : rig.facts)
        if (is_shown(fact))
            fmt::format_to(out, ",{}", fact.name);
    for (const rig::Decide& decide : rig.decides)
        if (!decide.has_truth())
            fmt::format_to(out, ",{}{}", decide.name,
                           decide.gives == rig::Gives::duty ? " (%)" : "");
    for (const rig::RigMachine& machine : rig.machines)
        fmt::format_to(out, ",{}", machine.name);
    for (const auto& drive : rig.drives)
        fmt::format_to(out, ",{0},{0} cause", drive.name);
    text_.push_back('\n');
}

void TableWriter::add(int64_t now, const rig::RunningRig& running) {
    auto out = std::back_inserter(text_);
    const int64_t size = now < 0 ? -now : now;
    fmt::format_to(out, "{}{}.{:03}", now < 0 ? "-" : "", size / 1000, size % 1000);
    for (size_t i = 0; i < running.readings().size(); ++i) {
        if (running.rig().sources[i].kind == rig::Kind::truth)
            continue;
        const rig::AnyReading reading = running.readings()[i];
        // An unhealthy reading has no value: its field is empty.
        if (reading.ok()) {
            const int32_t value = reading.value_or({}).thousandths();
            const int32_t whole = value < 0 ? -value : value;
            fmt::format_to(out, ",{}{}.{:03}", value < 0 ? "-" : "", whole / 1000, whole % 1000);
        } else {
            text_.push_back(',');
        }
        fmt::format_to(out, ",{}", rig::to_text(reading.health()));
    }
    for (size_t i = 0; i < running.truths().size(); ++i)
        if (is_shown(running.rig().facts[i]))
            fmt::format_to(out, ",{}", rig::to_text(running.truths()[i]));
    for (size_t i = 0; i < running.rig().decides.size(); ++i) {
        const rig::Decide& decide = running.rig().decides[i];
        if (decide.gives == rig::Gives::stage && running.stage(i).ok())
            fmt::format_to(out, ",{}", running.stage(i).value_or(Stage()).number());
        else if (decide.gives == rig::Gives::duty && running.duty(i).ok())
            fmt::format_to(out, ",{:.1f}", running.duty(i).value_or(Duty()).of_255() * 100.0 / 255);
        else if (!decide.has_truth())
            text_.push_back(',');
    }
    for (size_t i = 0; i < running.rig().machines.size(); ++i)
        fmt::format_to(out, ",{}", running.rig().machines[i].states[running.state(i)]);
    for (size_t i = 0; i < running.drivens().size(); ++i) {
        const rig::Drive& drive = running.rig().drives[i];
        const rig::Driven& driven = running.drivens()[i];
        const std::string value = rig::to_text(driven.value, drive.kind());
        const bool quoted = value.find(',') != std::string::npos;
        fmt::format_to(out, ",{0}{1}{0},{2}", quoted ? "\"" : "", value,
                       cause_to_text(drive, driven));
    }
    text_.push_back('\n');
    if (text_.size() > 1 << 16) {
        file_.write({text_.data(), text_.size()});
        text_.clear();
    }
}

void TableWriter::commit() {
    file_.write({text_.data(), text_.size()});
    text_.clear();
    file_.commit();
}

} // namespace zorilla::bench
