// SPDX-License-Identifier: MIT
// history --compare: days beside days.
#include "cli/history.hpp"
#include "cli/quantities.hpp"
#include "rig/text/files.hpp"
#include "rig/text/text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <cstdio>

namespace zorilla::cli {

namespace {

using bench::DailyOf;
using rig::InputError;

std::optional<double> watts_of(const HistoryOptions& options, const rig::Rig& rig,
                               const std::string& name) {
    std::optional<double> out;
    for (const std::string& given : options.watts) {
        const size_t is = given.find('=');
        double watts = 0;
        char rest = 0;
        const bool known =
            std::any_of(rig.drives.begin(), rig.drives.end(),
                        [&](const rig::Drive& drive) { return drive.name == given.substr(0, is); });
        if (is == std::string::npos || !known ||
            std::sscanf(given.c_str() + is + 1, "%lf%c", &watts, &rest) != 1 || watts < 0)
            throw InputError(
                fmt::format("--watts: \"{}\": write an output and its power, such as {}=60", given,
                            rig.drives.empty() ? "lamp" : rig.drives.front().name));
        if (given.substr(0, is) == name)
            out = watts;
    }
    return out;
}

} // namespace

void compare_days(bench::History& history, const HistoryOptions& options,
                  const bench::KnownDevice& device, const rig::Rig& rig, Page& page) {
    const auto a = bench::history_span(options.compare[0], device.first, device.last);
    const auto b = bench::history_span(options.compare[1], device.first, device.last);
    std::vector<Wish> wishes;
    for (const std::string& given : options.wishes)
        wishes.push_back(wish_of(given, rig, false));
    for (const rig::Drive& drive : rig.drives)
        watts_of(options, rig, drive.name); // what is wrong with it is told before all else
    const size_t column = std::max({size_t{20}, a.text.size(), b.text.size()});
    page.line(page.bold(fmt::format("{:<32}  {:>{}}  {:>{}}  difference, at 95 %", rig.name, a.text,
                                    column, b.text, column)));
    size_t days[2] = {0, 0};
    const auto line = [&](const std::string& what, const bench::DailyDifference& is,
                          const std::string& unit, double scale) {
        const auto number = [&](double value, const std::string& in) {
            return fmt::format("{:.{}f}{}{}", value * scale, std::abs(value * scale) < 100 ? 2 : 1,
                               in.empty() ? "" : " ", in);
        };
        const auto side = [&](const bench::Daily& daily) {
            return daily.days == 0 ? std::string("no whole day") : number(daily.mean, unit);
        };
        days[0] = std::max(days[0], is.a.days);
        days[1] = std::max(days[1], is.b.days);
        // Two temperatures are so many kelvins apart.
        const std::string apart = unit.rfind("deg", 0) == 0 ? "K" : unit;
        std::string by = "needs whole days on both sides";
        if (is.a.days > 0 && is.b.days > 0)
            by = fmt::format("{}{} +- {}", is.by > 0 ? "+" : "", number(is.by, apart),
                             std::isnan(is.error) ? "?" : number(is.error, apart));
        page.line(fmt::format("{:<32}  {:>{}}  {:>{}}  {}", what, side(is.a), column, side(is.b),
                              column, by));
    };
    const auto compare = [&](const bench::DailyPart& part) {
        return bench::compare(history, device.id, part, a, b);
    };
    for (size_t i = 0; i < rig.sources.size(); ++i) {
        const rig::Source& source = rig.sources[i];
        if (source.kind == rig::Kind::truth)
            continue;
        line(source.name, compare({source.name, DailyOf::mean}), rig::stored_unit_of(source.kind),
             1);
        for (const Wish& wish : wishes)
            if (wish.source == i)
                line(fmt::format("  a day not in {}", wish.text),
                     compare({source.name, DailyOf::outside_hours, wish.lowest, wish.highest}), "h",
                     1);
    }
    for (const rig::Drive& drive : rig.drives) {
        const auto on = compare({drive.name, DailyOf::on_hours});
        line(drive.name + ", on a day", on, "h", 1);
        line(drive.name + ", times a day", compare({drive.name, DailyOf::switched}), "", 1);
        if (const auto watts = watts_of(options, rig, drive.name))
            line(drive.name + ", energy a day", on, "kWh", *watts / 1000);
    }
    page.line(
        fmt::format("{:<32}  {:>{}}  {:>{}}", "whole days", days[0], column, days[1], column));
    page.line();
    page.line(
        "Days are those of UTC of which at least 20 hours were seen. An error is from how much the "
        "days of each");
    page.line(
        "side differ; of a single day there is none: ? What the weather did besides is in the "
        "difference, too.");
}

} // namespace zorilla::cli
