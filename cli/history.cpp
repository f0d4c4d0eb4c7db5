// SPDX-License-Identifier: MIT
// history: what devices have done, for as long as they were watched.
#include "bench/history/history.hpp"
#include "bench/figure/figure.hpp"
#include "bench/history/compare.hpp"
#include "bench/live/receiver.hpp"
#include "bench/replaying.hpp"
#include "cli/command.hpp"
#include "cli/history.hpp"
#include "rig/rig_file.hpp"
#include "rig/text/files.hpp"
#include "rig/text/text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <optional>

namespace zorilla::cli {

namespace {

using bench::Utc;
using bench::utc_text;
using rig::InputError;

constexpr Utc minute = 60'000, hour = 60 * minute, day = 24 * hour;

Utc time_given(const std::string& option, const std::string& text) {
    if (const auto at = bench::utc_of(text))
        return *at;
    throw InputError(
        fmt::format("{}: \"{}\" is no time; write it as \"2026-11-20\" or \"2026-11-20 "
                    "06:30\", in UTC",
                    option, text));
}

/// A time that may be longer than a device's clock can tell.
int64_t long_time(const std::string& option, const std::string& text) {
    double days = 0;
    int length = 0;
    if (std::sscanf(text.c_str(), "%lf d%n", &days, &length) == 1 &&
        length == static_cast<int>(text.size()) && days > 0 && days < 100'000)
        return std::llround(days * static_cast<double>(day));
    return time_option(option, text, "36 h");
}

/// What of the history is asked for; all of it where nothing is said.
bench::HistorySpan span_of(const HistoryOptions& options, const bench::KnownDevice& device) {
    bench::HistorySpan out{"", device.first, device.last + 1};
    if (!options.last.empty())
        out.from = device.last - (options.last == "day"    ? day
                                  : options.last == "week" ? 7 * day
                                                           : long_time("--last", options.last));
    if (!options.from.empty())
        out.from = time_given("--from", options.from);
    if (!options.to.empty())
        out.to = time_given("--to", options.to);
    if (out.from >= out.to)
        throw InputError(
            fmt::format("--from: {} is not before {}", utc_text(out.from), utc_text(out.to)));
    return out;
}

const bench::KnownDevice& chosen_device(const std::vector<bench::KnownDevice>& devices,
                                        const HistoryOptions& options) {
    std::vector<std::string> names;
    const bench::KnownDevice* found = nullptr;
    size_t count = 0;
    for (const bench::KnownDevice& device : devices) {
        const std::string number = fmt::format("{:08x}", device.number);
        names.push_back(device.name);
        if (options.device.empty() || options.device == device.name || options.device == number) {
            found = &device;
            ++count;
        }
    }
    if (count == 1)
        return *found;
    std::string all;
    for (const bench::KnownDevice& device : devices)
        all += fmt::format("\n  {:08x}  {}", device.number, device.name);
    if (count == 0 && !devices.empty())
        throw InputError(fmt::format("--device: nothing is called \"{}\"{}; there are{}",
                                     options.device, rig::suggestion(options.device, names), all));
    throw InputError(devices.empty()
                         ? options.path + ": holds no device yet"
                         : "say which device, by its name or number, with --device:" + all);
}

rig::RigFile rig_of(const bench::KnownDevice& device) {
    rig::RigFile file = rig::parse_rig(device.rig);
    if (!file.mistakes.empty())
        throw InputError(fmt::format("the rig file of {} is not understood any more: {}",
                                     device.name, file.mistakes.front().text));
    return file;
}

std::string share_known(double part, double whole) {
    return fmt::format("{:.1f} %", whole > 0 ? 100 * part / whole : 0);
}
std::string span_text(double milliseconds) {
    return rig::span_to_text(std::llround(milliseconds / 1000) * 1000);
}

void list(bench::History& history, const HistoryOptions& options, Page& page) {
    const auto devices = history.devices();
    std::error_code ignored;
    page.line(page.bold(
        fmt::format("{}: {} {}, {} kB", options.path, devices.size(),
                    devices.size() == 1 ? "device" : "devices",
                    rig::count_to_text(std::filesystem::file_size(options.path, ignored) / 1000))));
    for (const bench::KnownDevice& device : devices) {
        page.line();
        page.line(fmt::format("{} ({:08x})", page.bold(device.name), device.number));
        if (device.rows == 0) {
            page.line("  nothing of it has come yet");
            continue;
        }
        page.line(fmt::format("  {} to {} UTC", utc_text(device.first), utc_text(device.last)));
        page.line(fmt::format("  {} rows kept, in {} {}; {} events",
                              rig::count_to_text(static_cast<uint64_t>(device.rows)),
                              device.stretches, device.stretches == 1 ? "stretch" : "stretches",
                              rig::count_to_text(static_cast<uint64_t>(device.events))));
    }
}

/// How each part was, of its minutes; then what has come about last.
void tell(bench::History& history, const bench::KnownDevice& device, const rig::Rig& rig,
          const bench::HistorySpan& span, Page& page) {
    page.line(page.bold(
        fmt::format("{}, {} to {} UTC", rig.name, utc_text(span.from), utc_text(span.to))));
    const Utc to = (span.to + minute - 1) / minute * minute;
    const auto whole = static_cast<double>(span.to - span.from);
    const auto sums = [&](const std::string& part) {
        return history.sums(device.id, part, span.from, to, to - span.from).front();
    };
    size_t width = 8;
    for (const rig::Source& source : rig.sources)
        width = std::max(width, source.name.size());
    for (const rig::Drive& drive : rig.drives)
        width = std::max(width, drive.name.size());
    for (const rig::Source& source : rig.sources) {
        const bench::MinuteSums is = sums(source.name);
        std::string text = "was never healthy";
        if (is.known > 0 && source.kind == rig::Kind::truth)
            text = "yes for " + span_text(is.on());
        else if (is.known > 0)
            text = fmt::format(
                "{} to {}, on average {}",
                rig::reading_text(static_cast<int32_t>(is.least), source.kind),
                rig::reading_text(static_cast<int32_t>(is.most), source.kind),
                rig::reading_text(static_cast<int32_t>(std::lround(is.mean())), source.kind));
        page.line(fmt::format("  {:<{}}  {}; known for {}", source.name, width, text,
                              share_known(static_cast<double>(is.known), whole)));
    }
    for (const rig::Drive& drive : rig.drives) {
        const bench::MinuteSums is = sums(drive.name);
        page.line(fmt::format("  {:<{}}  switched on {}; on for {} ({}); known for {}", drive.name,
                              width, how_often(static_cast<uint64_t>(is.switched)),
                              span_text(is.on()),
                              share_known(is.on(), static_cast<double>(is.known)),
                              share_known(static_cast<double>(is.known), whole)));
    }
    const auto events = history.events(device.id, span.from, span.to);
    constexpr size_t most = 12;
    page.line();
    page.line(page.bold(events.size() > most ? fmt::format("The last {} of {} events", most,
                                                           rig::count_to_text(events.size()))
                                             : "What came about"));
    for (size_t i = events.size() - std::min(most, events.size()); i < events.size(); ++i) {
        const auto& [at, event] = events[i];
        const std::string what =
            event.who.empty() ? event.what
                              : fmt::format("{} {}: {}", event.who, event.what, event.reason);
        page.line(fmt::format("  {}  {}", utc_text(at),
                              event.is_good ? shown_text(what) : page.warning(shown_text(what))));
    }
}

/// The stretches that are asked for.
std::vector<bench::Stretch> stretches_of(bench::History& history, const bench::KnownDevice& device,
                                         const bench::HistorySpan& span) {
    auto out = history.stretches(device.id, span.from, span.to);
    if (out.empty())
        throw InputError(fmt::format("no rows are kept of {} from {} to {}", device.name,
                                     utc_text(span.from), utc_text(span.to)));
    return out;
}

/// One stretch as a trace, which runs as the device did.
void write_trace(bench::History& history, const HistoryOptions& options,
                 const bench::KnownDevice& device, const rig::Rig& rig,
                 const bench::HistorySpan& span, Page& page) {
    const auto all = stretches_of(history, device, span);
    std::string listed;
    for (size_t i = 0; i < all.size(); ++i)
        listed += fmt::format("\n  --stretch {}  {} to {}, {} rows, {}", i + 1,
                              utc_text(all[i].begin), utc_text(all[i].end), all[i].rows,
                              all[i].whole ? "from its power-up" : "joined later");
    if (all.size() > 1 && !options.stretch)
        throw InputError("--csv: the device's clock has run anew; a trace is of one run:" + listed);
    const auto place = static_cast<size_t>(options.stretch.value_or(1));
    if (place < 1 || place > all.size())
        throw InputError(fmt::format("--stretch: there is none of that number:{}", listed));
    const bench::Stretch& stretch = all[place - 1];
    std::string text = bench::History::header(rig) + "\n";
    history.rows(stretch.id, INT64_MAX, [&](int64_t clock, const std::string& rest) {
        text += fmt::format("{}.{:03},{}\n", clock / 1000, clock % 1000, rest);
    });
    write_file(options.csv, text);
    page.line(fmt::format(
        "{}: {} rows from {} on, {}", options.csv, stretch.rows, utc_text(stretch.begin),
        stretch.whole ? "from its power-up"
                      : "not from its power-up: what it remembered is not known"));
}

/// Of what is kept for ever: minutes, several together where there are many.
void draw_minutes(bench::History& history, const bench::KnownDevice& device, const rig::Rig& rig,
                  const bench::HistorySpan& span, bench::Figure& figure) {
    constexpr Utc most = 700;
    const Utc whole = span.to - span.from;
    const Utc piece = (whole / most / minute + 1) * minute;
    const Utc from = span.from / piece * piece, to = (span.to / piece + 1) * piece;
    std::vector<std::vector<bench::MinuteSums>> parts;
    for (const rig::Source& source : rig.sources)
        parts.push_back(history.sums(device.id, source.name, from, to, piece));
    for (const rig::Drive& drive : rig.drives)
        parts.push_back(history.sums(device.id, drive.name, from, to, piece));
    std::vector<bench::Figure::Piece> now(parts.size());
    for (size_t i = 0; i < parts.front().size(); ++i) {
        for (size_t part = 0; part < parts.size(); ++part) {
            const bench::MinuteSums& is = parts[part][i];
            now[part] = {is.known > 0, static_cast<int32_t>(is.least),
                         static_cast<int32_t>(is.most), std::clamp(is.mean() / 1000, 0.0, 1.0)};
        }
        figure.add_piece(piece, now);
    }
}

void draw_figure(bench::History& history, const HistoryOptions& options,
                 const bench::KnownDevice& device, const rig::Rig& rig,
                 const bench::HistorySpan& span) {
    bench::Figure figure(options.figure, rig);
    const std::string title = fmt::format("{} from {} UTC on", rig.name, utc_text(span.from));
    // Row by row as long as that is quick and there are rows.
    if (span.to - span.from > 4 * day || history.stretches(device.id, span.from, span.to).empty()) {
        draw_minutes(history, device, rig, span, figure);
        figure.write(title);
        return;
    }
    const std::function<void(const bench::Event&)> nobody = [](const bench::Event&) {};
    Utc before = 0;
    for (const bench::Stretch& stretch : stretches_of(history, device, span)) {
        bench::Replaying replaying(rig, nobody);
        each_row(history, rig, stretch, [&](int64_t clock, Utc at, const rig::Raw* raws) {
            replaying.pass(clock, raws);
            if (at < span.from || at >= span.to || at < before)
                return;
            before = at;
            figure.add(at - span.from, replaying.running());
        });
    }
    figure.write(title);
}

Status history(const HistoryOptions& options, Page& page) {
    bench::History history(options.path);
    const auto devices = history.devices();
    const bool asks = !options.device.empty() || !options.last.empty() || !options.from.empty() ||
                      !options.to.empty() || !options.csv.empty() || !options.figure.empty() ||
                      !options.compare.empty() || options.promises;
    if (!asks && devices.size() != 1) {
        list(history, options, page);
        page.finish();
        return done;
    }
    if (!asks)
        list(history, options, page);
    const bench::KnownDevice& device = chosen_device(devices, options);
    if (device.rows == 0) {
        if (asks)
            throw InputError(
                fmt::format("{}: nothing has come of {} yet", options.path, device.name));
        page.finish();
        return done;
    }
    const rig::RigFile file = rig_of(device);
    const rig::ShownUnits units(file.rig.show);
    if (options.promises) {
        const bool kept = judge_history(history, device, file.rig, span_of(options, device), page);
        page.finish();
        return kept ? done : found_wanting;
    }
    if (!options.compare.empty()) {
        compare_days(history, options, device, file.rig, page);
    } else {
        const bench::HistorySpan span = span_of(options, device);
        if (!options.csv.empty())
            write_trace(history, options, device, file.rig, span, page);
        if (!options.figure.empty())
            draw_figure(history, options, device, file.rig, span);
        if (options.csv.empty() && options.figure.empty()) {
            if (!asks)
                page.line();
            tell(history, device, file.rig, span, page);
        }
    }
    page.finish();
    return done;
}

} // namespace

void each_row(bench::History& history, const rig::Rig& rig, const bench::Stretch& stretch,
              const std::function<void(int64_t clock, Utc at, const rig::Raw* raws)>& row) {
    bench::Receiver receiver(rig);
    const auto take = [&](std::string_view line) {
        const auto kind = receiver.next(line);
        return kind && *kind == bench::Receiver::Kind::row;
    };
    take(bench::History::header(rig) + "\n");
    const bench::ClockMap map = history.clock_of(stretch.id);
    history.rows(stretch.id, INT64_MAX, [&](int64_t clock, const std::string& rest) {
        if (take(fmt::format("{}.{:03},{}\n", clock / 1000, clock % 1000, rest)))
            row(clock, map.at(clock), receiver.row().raws.data());
    });
}

void add_history(Command& app, Chosen& chosen) {
    auto options = std::make_shared<HistoryOptions>();
    Command* command = app.add_subcommand(
        "history", "What a device has done for as long as it was watched: as a table, a figure, a "
                   "trace, or beside other days.\n"
                   "Example: zorilla history hens.db --last week --figure week.png");
    command->add_option("FILE", options->path, "What zorilla live --history has written.")
        ->required();
    command
        ->add_option("--device", options->device,
                     "Of several devices, this one: by its name, or the number of its rig.")
        ->type_name("NAME");
    command->add_flag("--promises", options->promises,
                      "Only whether it has kept what its rig promises, by the rows that are kept.");
    command->add_option("--last", options->last, "The last day, week, or time such as \"36 h\".")
        ->type_name("TIME");
    command
        ->add_option("--from", options->from, "From this moment on, in UTC: \"2026-11-20 06:30\".")
        ->type_name("TIME");
    command->add_option("--to", options->to, "Up to this moment.")->type_name("TIME");
    command->add_option("--csv", options->csv, "Write the rows here, as a trace for zorilla run.")
        ->type_name("FILE.csv");
    command
        ->add_option("--stretch", options->stretch,
                     "Of several runs of the device's clock, this one.")
        ->type_name("N");
    command->add_option("--figure", options->figure, "Draw readings, thresholds and outputs here.")
        ->type_name("FILE.png|.svg");
    command
        ->add_option("--compare", options->compare,
                     "Two spans of days beside each other: \"before 2026-11-20\" \"after "
                     "2026-11-20\".")
        ->expected(2)
        ->type_name("DAYS DAYS");
    command
        ->add_option("--watts", options->watts,
                     "With --compare: what an output takes while it is on, such as heat_lamp=60.")
        ->delimiter(',')
        ->type_name("NAME=W,...");
    command
        ->add_option("--wish", options->wishes,
                     "With --compare: between what a reading is to be, to see for how long it was "
                     "not, by its minutes: \"roost=2 degC..8 degC\".")
        ->repeatable()
        ->type_name("NAME=FROM..TO");
    command->callback(
        [options, &chosen] { chosen = [options](Page& page) { return history(*options, page); }; });
}

} // namespace zorilla::cli
