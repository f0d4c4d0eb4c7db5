// SPDX-License-Identifier: MIT
#include "cli/page.hpp"

#include "rig/text/files.hpp"
#include "rig/text/text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cerrno>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <unistd.h>

namespace zorilla::cli {

namespace {

using rig::count_to_text;
using rig::span_to_text;
using rig::to_text;

size_t widest_name(const rig::Rig& rig) {
    size_t width = 8;
    for (const auto& source : rig.sources)
        width = std::max(width, source.name.size());
    for (const auto& decide : rig.decides)
        width = std::max(width, decide.name.size());
    for (const auto& machine : rig.machines)
        width = std::max(width, machine.name.size());
    for (const auto& drive : rig.drives)
        width = std::max(width, drive.name.size());
    return width;
}

std::string share(int64_t part, int64_t whole) {
    return whole <= 0 ? "0 %"
                      : fmt::format("{:.1f} %",
                                    100.0 * static_cast<double>(part) / static_cast<double>(whole));
}

std::string about(const rig::Rig& rig, const rig::Sense& sense) {
    const rig::Source& source = rig.sources[sense.source];
    const size_t semicolon = std::min(sense.about.find(';'), sense.about.size());
    const std::string range = sense.sources > 1 || source.kind == rig::Kind::truth
                                  ? std::string()
                                  : fmt::format(", {} to {}", to_text(source.lowest, source.kind),
                                                to_text(source.highest, source.kind));
    return fmt::format("{}{}{}{}", sense.about.substr(0, semicolon),
                       sense.pin.empty() ? "" : " on " + sense.pin, range,
                       sense.about.substr(semicolon));
}

/// What a decision waits for, or counts.
std::string timing(const rig::Decide& decide) {
    std::string out;
    const auto add = [&out](std::string_view name, Duration time) {
        if (time > Duration{})
            out += fmt::format(", {} {}", name, span_to_text(time.thousandths()));
    };
    if (decide.lasting) {
        add("for_at_least", decide.lasting->yes_for);
        add("gone_for", decide.lasting->no_for);
    }
    if (decide.times > 0)
        out += fmt::format(", after {} of them", decide.times);
    if (decide.reset.given())
        out += fmt::format(", reset when {}", decide.reset.text);
    return out;
}

std::string about(const rig::Rig& rig, const rig::Decide& decide) {
    return decide.part->about({decide, rig}) + timing(decide);
}

/// A part in a line, and what belongs to it in lines below.
using Lines = std::vector<std::string>;

Lines about(const rig::RigMachine& machine) {
    Lines out = {fmt::format("machine, starts in {}", machine.states[machine.start])};
    for (const MachineMove& move : machine.moves) {
        std::string line = fmt::format(
            "{} to {}", move.from == MachineMove::any ? "any" : machine.states[move.from],
            machine.states[move.to]);
        if (move.has_event())
            line += fmt::format(" when {}", machine.events[move.when].text);
        if (move.after > 0)
            line += fmt::format(" after {}", span_to_text(move.after));
        out.push_back(std::move(line));
    }
    return out;
}

/// How wide the column of what has come about must be.
size_t what_width(const rig::Rig& rig) {
    size_t width = 13;
    for (const rig::Drive& drive : rig.drives)
        for (const rig::RigClaim& claim : drive.claims)
            width = std::max(width, claim.says.size() +
                                        (claim.pattern.empty() ? 0 : std::strlen("pattern ")));
    return std::min<size_t>(width, 32);
}

std::string about(const rig::Rig& rig, const rig::Drive& drive, const rig::RigClaim& claim) {
    switch (claim.by) {
    case rig::RigClaim::By::hand:
        return fmt::format("{} by hand when {}, for at most {}{}", claim.says,
                           drive.hand->take.text, span_to_text(drive.hand->longest.thousandths()),
                           drive.hand->back.given() ? " or until " + drive.hand->back.text
                                                    : ", or until it is once more");
    case rig::RigClaim::By::shutdown:
        return fmt::format("{} in the shutdown, as number {}", claim.says,
                           rig.facts[claim.when.facts().front()].number + 1);
    case rig::RigClaim::By::rest: return claim.says + " otherwise";
    case rig::RigClaim::By::rule: break;
    }
    return claim.always() ? claim.says + " otherwise"
                          : fmt::format("{} when {}", claim.says, claim.text);
}

Lines about(const rig::Rig& rig, const rig::Drive& drive) {
    std::string name = drive.word;
    std::replace(name.begin(), name.end(), '_', ' ');
    Lines out = {fmt::format(
        "{} on {}{}; safe {}, rest {}{}", name, fmt::join(drive.pins, ", "),
        drive.has_level
            ? fmt::format(", on when the pin is {}", drive.active == active_low ? "low" : "high")
            : std::string(),
        drive.says(drive.safe), drive.says(drive.rest), drive.part->about({drive, rig}))};
    for (const rig::RigClaim& claim : drive.claims)
        out.push_back(about(rig, drive, claim));
    return out;
}

std::string about(const rig::RigMachine& machine, const bench::MachineSummary& summary,
                  int64_t span) {
    std::string out =
        summary.moves == 0 ? "never moved" : fmt::format("moved {}", how_often(summary.moves));
    for (size_t i = 0; i < machine.states.size(); ++i)
        if (summary.time_in[i] > 0)
            out += fmt::format("; {} for {} ({})", machine.states[i],
                               span_to_text(summary.time_in[i]), share(summary.time_in[i], span));
    return out;
}

std::string about(const rig::Source& source, const bench::SourceSummary& summary, int64_t span) {
    if (!summary.any)
        return "never healthy";
    const bool is_truth = source.kind == rig::Kind::truth;
    std::string out =
        is_truth
            ? fmt::format("yes for {} ({})", span_to_text(summary.yes), share(summary.yes, span))
            : fmt::format("{} to {}", rig::reading_text(summary.lowest, source.kind),
                          rig::reading_text(summary.highest, source.kind));
    if (summary.held > 0)
        out += fmt::format("; held for {}", span_to_text(summary.held));
    if (summary.unhealthy > 0)
        return out + fmt::format("; not healthy for {} ({})", span_to_text(summary.unhealthy),
                                 share(summary.unhealthy, span));
    return out + "; healthy all the time";
}

std::string about(const bench::LadderSummary& ladder, int64_t span) {
    std::string out =
        ladder.moves == 0 ? "never moved" : fmt::format("moved {}", how_often(ladder.moves));
    for (size_t i = 0; i < ladder.time_at.size(); ++i)
        if (ladder.time_at[i] > 0)
            out += fmt::format("; stage {} for {} ({})", i, span_to_text(ladder.time_at[i]),
                               share(ladder.time_at[i], span));
    return out;
}

/// Of an output that is more than on or off: how long each claim had it.
std::string by_claim(const rig::Drive& spec, const bench::DriveSummary& drive, int64_t span) {
    std::string out;
    const auto add = [&](const std::string& name, int64_t time) {
        if (time > 0)
            out += fmt::format("{}{} for {} ({})", out.empty() ? "" : "; ", name,
                               span_to_text(time), share(time, span));
    };
    const size_t claims = spec.claims.size();
    for (size_t i = 0; i < claims; ++i)
        add(spec.claims[i].says, drive.by_claim[i]);
    add(fmt::format("rest, {},", spec.says(spec.rest)), drive.by_claim[claims]);
    add(fmt::format("safe, {},", spec.says(spec.safe)), drive.by_claim[claims + 1]);
    add("guards and self-tests", drive.by_claim[claims + 2]);
    return out;
}

std::string about(const rig::Drive& spec, const bench::DriveSummary& drive, int64_t span) {
    if (spec.kind() == rig::ValueKind::colour || spec.kind() == rig::ValueKind::stage)
        return by_claim(spec, drive, span);
    std::string out = "never switched on";
    if (drive.times_on > 0)
        out = fmt::format("switched on {}; on for {} ({}), {} at the longest",
                          how_often(drive.times_on), span_to_text(drive.on_time),
                          share(drive.on_time, span), span_to_text(drive.longest_on));
    if (drive.shortest_on > 0)
        out += fmt::format(", {} at the shortest", span_to_text(drive.shortest_on));
    if (drive.held_back > 0)
        out += fmt::format("; made to wait {}", how_often(drive.held_back));
    if (drive.on_at_end)
        out += "; still on at the end";
    return out;
}

/// Stands before a letter for a way of painting, within a line.
constexpr char paint_mark = '\x01';
std::string one_line_of(std::string_view text) {
    std::string out(text);
    std::replace(out.begin(), out.end(), paint_mark, ' ');
    return out;
}

} // namespace

Page::Page() {
    const char* no_color = std::getenv("NO_COLOR");
    const char* terminal = std::getenv("TERM");
    colour_ = isatty(STDOUT_FILENO) != 0 && (no_color == nullptr || *no_color == '\0') &&
              terminal != nullptr && std::strcmp(terminal, "dumb") != 0;
}

void Page::line(std::string_view text) {
    // Only what `painted` has added may steer the terminal.
    std::string out;
    for (size_t at = 0; at < text.size();) {
        const size_t mark = std::min(text.find(paint_mark, at), text.size());
        out += shown_text(text.substr(at, mark - at));
        at = mark;
        if (at < text.size()) {
            out += fmt::format("\x1b[{}m", static_cast<int>(text[at + 1]) - 'A');
            at += 2;
        }
    }
    out += '\n';
    std::fwrite(out.data(), 1, out.size(), stdout);
}

std::string Page::painted(std::string_view text, int code) const {
    return colour_ ? fmt::format("{0}{1}{2}{0}A", paint_mark, static_cast<char>('A' + code),
                                 one_line_of(text))
                   : std::string(text);
}

std::string Page::clock(const std::string& time) {
    const size_t point = std::min(time.find('.'), time.size());
    parts_of_seconds_ = parts_of_seconds_ || point < time.size();
    return fmt::format("{:>12}{:<{}}", time.substr(0, point), time.substr(point),
                       parts_of_seconds_ ? 4 : 0);
}

std::string Page::bold(std::string_view text) const { return painted(text, 1); }
std::string Page::warning(std::string_view text) const { return painted(text, 31); }

void Page::finish() {
    const bool written = std::fflush(stdout) == 0 && std::ferror(stdout) == 0;
    if (!written && errno == EPIPE)
        return; // whoever reads has had enough, as `head` has
    if (!written)
        throw rig::InputError(
            fmt::format("standard output: cannot be written: {}", std::strerror(errno)));
}

std::string shown_text(std::string_view text) {
    std::string out;
    for (const char c : text) {
        const auto byte = static_cast<unsigned char>(c);
        if (c == '\n' || c == '\t' || (byte >= 0x20 && byte != 0x7f))
            out += c;
        else
            out += fmt::format("\\x{:02x}", byte);
    }
    return out;
}

void message(std::string_view text) {
    std::fflush(stdout); // so that both read in order on a terminal
    // Where nobody can be told, the exit status still tells.
    const std::string line = shown_text(text) + "\n";
    std::fwrite(line.data(), 1, line.size(), stderr);
}

void print_mistakes(const std::string& path, const std::vector<rig::Mistake>& mistakes) {
    for (const rig::Mistake& mistake : mistakes)
        message(fmt::format("{}:{}:{}: {}", path, mistake.line, mistake.column, mistake.text));
    message(fmt::format("{}: {} {}", path, count_to_text(mistakes.size()),
                        mistakes.size() == 1 ? "mistake" : "mistakes"));
}

void print_rig(Page& page, const rig::Rig& rig) {
    const size_t width = widest_name(rig);
    for (const auto& sense : rig.senses)
        page.line(fmt::format("  {:<{}}  {}", sense.name, width, about(rig, sense)));
    for (const auto& derive : rig.derives)
        page.line(fmt::format("  {:<{}}  {}", derive.name, width, derive.about));
    for (const auto& decide : rig.decides)
        page.line(fmt::format("  {:<{}}  {}", decide.name, width, about(rig, decide)));
    const auto print = [&page, width](const std::string& name, const Lines& lines) {
        for (size_t i = 0; i < lines.size(); ++i)
            page.line(fmt::format("  {:<{}}  {}{}", i == 0 ? name : "", width, i == 0 ? "" : "  ",
                                  lines[i]));
    };
    for (const auto& machine : rig.machines)
        print(machine.name, about(machine));
    for (const auto& drive : rig.drives)
        print(drive.name, about(rig, drive));
}

std::string how_often(uint64_t count) {
    return count == 1 ? "once" : count == 2 ? "twice" : rig::count_to_text(count) + " times";
}

void print_event(Page& page, const rig::Rig& rig, const bench::Event& event,
                 const std::string& before) {
    if (event.who.empty())
        return page.line(fmt::format("{}{}  {}", before,
                                     page.clock(rig::time_to_text(event.milliseconds)),
                                     event.is_good ? event.what : page.warning(event.what)));
    const std::string padded = fmt::format("{:<{}}", event.what, what_width(rig));
    page.line(fmt::format("{}{}  {:<{}}  {}  {}", before,
                          page.clock(rig::time_to_text(event.milliseconds)), event.who,
                          widest_name(rig),
                          !event.is_good    ? page.warning(padded)
                          : event.is_output ? page.bold(padded)
                                            : padded,
                          event.reason));
}

void print_summary(Page& page, const rig::Rig& rig, const bench::Summary& summary,
                   uint64_t bad_lines) {
    const int64_t span = summary.end - summary.begin;
    const size_t width = widest_name(rig);
    std::string steps = summary.shortest_step == summary.longest_step
                            ? fmt::format("{} apart", span_to_text(summary.longest_step))
                            : fmt::format("{} to {} apart", span_to_text(summary.shortest_step),
                                          span_to_text(summary.longest_step));
    const std::string anew = summary.begun_anew == 0
                                 ? std::string()
                                 : "; the device has begun anew " + how_often(summary.begun_anew);
    page.line(fmt::format("  {:<{}}  {} {} over {}{}{}", "samples", width,
                          count_to_text(summary.rows), summary.rows == 1 ? "row" : "rows",
                          span_to_text(span), summary.rows > 1 ? ", " + steps : "", anew));
    for (size_t i = 0; i < rig.sources.size(); ++i)
        page.line(fmt::format("  {:<{}}  {}", rig.sources[i].name, width,
                              about(rig.sources[i], summary.sources[i], span)));
    for (size_t i = 0; i < rig.decides.size(); ++i)
        if (!summary.ladders[i].time_at.empty())
            page.line(fmt::format("  {:<{}}  {}", rig.decides[i].name, width,
                                  about(summary.ladders[i], span)));
    for (size_t i = 0; i < rig.machines.size(); ++i)
        page.line(fmt::format("  {:<{}}  {}", rig.machines[i].name, width,
                              about(rig.machines[i], summary.machines[i], span)));
    for (size_t i = 0; i < rig.drives.size(); ++i)
        page.line(fmt::format("  {:<{}}  {}", rig.drives[i].name, width,
                              about(rig.drives[i], summary.drives[i], span)));
    if (const bench::Beside& device = summary.device; device.passes > 0)
        page.line(fmt::format(
            "  {:<{}}  {}", "the device", width,
            device.different == 0
                ? fmt::format("told its outputs in {} passes: they are the rig's",
                              count_to_text(device.passes))
                : page.warning(fmt::format(
                      "did otherwise in {} of {} passes, from {} on: {} was {}, the rig says {}",
                      count_to_text(device.different), count_to_text(device.passes),
                      rig::time_to_text(device.since), rig.drives[device.drive].name,
                      rig.drives[device.drive].says(device.was),
                      rig.drives[device.drive].says(device.says)))));
    if (bad_lines > 0)
        page.line(
            fmt::format("  {:<{}}  {}", "trace", width,
                        page.warning(fmt::format("{} {} not understood", count_to_text(bad_lines),
                                                 bad_lines == 1 ? "line was" : "lines were"))));
}

} // namespace zorilla::cli
