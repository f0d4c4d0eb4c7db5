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

TableWriter::TableWriter(const std::string& path, const rig::Rig& rig)
    : file_(path), duties_(rig.decides.size()), drives_(rig.drives.size()) {
    auto out = std::back_inserter(text_);
    fmt::format_to(out, "time (s)");
    for (size_t i = 0; i < rig.sources.size(); ++i) {
        const auto& source = rig.sources[i];
        if (source.kind == rig::Kind::truth)
            continue;
        sources_.push_back(i);
        fmt::format_to(out, ",{0} ({1}),{0} health", source.name, rig::stored_unit_of(source.kind));
    }
    for (size_t i = 0; i < rig.facts.size(); ++i)
        if (is_shown(rig.facts[i])) {
            facts_.push_back(i);
            fmt::format_to(out, ",{}", rig.facts[i].name);
        }
    for (size_t i = 0; i < rig.decides.size(); ++i) {
        const rig::Decide& decide = rig.decides[i];
        if (decide.has_truth())
            continue;
        decides_.push_back(i);
        fmt::format_to(out, ",{}{}", decide.name, decide.gives == rig::Gives::duty ? " (%)" : "");
    }
    for (const rig::RigMachine& machine : rig.machines)
        fmt::format_to(out, ",{}", machine.name);
    for (const auto& drive : rig.drives)
        fmt::format_to(out, ",{0},{0} cause", drive.name);
    text_.push_back('\n');
}

void TableWriter::add_thousandths(int64_t number) {
    if (number < 0) {
        text_.push_back('-');
        number = -number;
    }
    const fmt::format_int whole(number / 1000);
    const auto rest = static_cast<int>(number % 1000);
    add_text({whole.data(), whole.size()});
    const char digits[] = {'.', static_cast<char>('0' + rest / 100),
                           static_cast<char>('0' + rest / 10 % 10),
                           static_cast<char>('0' + rest % 10)};
    add_text({digits, sizeof digits});
}

void TableWriter::add_readings(const rig::RunningRig& running) {
    for (const size_t i : sources_) {
        const rig::AnyReading reading = running.readings()[i];
        text_.push_back(',');
        // An unhealthy reading has no value: its field is empty.
        if (reading.ok())
            add_thousandths(reading.value_or({}).thousandths());
        text_.push_back(',');
        add_text(rig::to_text(reading.health()));
    }
}

void TableWriter::add_decisions(const rig::RunningRig& running) {
    for (const size_t i : facts_) {
        text_.push_back(',');
        add_text(rig::to_text(running.truths()[i]));
    }
    for (const size_t i : decides_) {
        text_.push_back(',');
        if (running.stage(i).ok()) {
            const fmt::format_int stage(running.stage(i).value_or(Stage()).number());
            add_text({stage.data(), stage.size()});
        } else if (running.duty(i).ok()) {
            const Duty duty = running.duty(i).value_or(Duty());
            DutyText& kept = duties_[i];
            if (kept.text.empty() || kept.of != duty)
                kept = {duty, fmt::format("{:.1f}", duty.of_255() * 100.0 / 255)};
            add_text(kept.text);
        }
    }
    for (size_t i = 0; i < running.rig().machines.size(); ++i) {
        text_.push_back(',');
        add_text(running.rig().machines[i].states[running.state(i)]);
    }
}

const std::string& TableWriter::text_of(size_t i, const rig::RunningRig& running) {
    const rig::Driven& driven = running.drivens()[i];
    DriveText& kept = drives_[i];
    if (kept.text.empty() || kept.of.value.bits() != driven.value.bits() ||
        kept.of.cause != driven.cause || kept.of.claim != driven.claim ||
        kept.of.tested != driven.tested) {
        const rig::Drive& drive = running.rig().drives[i];
        const std::string value = rig::to_text(driven.value, drive.kind());
        const bool quoted = value.find(',') != std::string::npos;
        kept = {driven, fmt::format(",{0}{1}{0},{2}", quoted ? "\"" : "", value,
                                    cause_to_text(drive, driven))};
    }
    return kept.text;
}

void TableWriter::add(int64_t now, const rig::RunningRig& running) {
    add_thousandths(now);
    add_readings(running);
    add_decisions(running);
    for (size_t i = 0; i < drives_.size(); ++i)
        add_text(text_of(i, running));
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
