// SPDX-License-Identifier: MIT
// The figure of a tuning: what is traded for fewer switchings.
#include "bench/plot.hpp"
#include "bench/world/tune.hpp"
#include "rig/text/text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <iterator>

namespace zorilla::bench {

namespace {

std::string name_of(const std::vector<Vary>& vary, const TunePoint& point) {
    std::string out;
    for (size_t i = 0; i < vary.size(); ++i)
        out += (i == 0 ? "" : ", ") + rig::to_text(point.values[i], vary[i].kind);
    return out;
}

/// Below: what that costs in energy.
std::string energy_panel(const Tuned& tuned, const std::string& times) {
    std::string rows, out;
    double least = 1e300, most = 0;
    for (const TunePoint& point : tuned.points)
        if (point.impossible.empty()) {
            rows += fmt::format("{} {}\n", point.times_a_day, point.kwh_a_day);
            least = std::min(least, point.kwh_a_day);
            most = std::max(most, point.kwh_a_day);
        }
    out = fmt::format("unset label\nunset key\nset tmargin at screen 0.31\nset bmargin at screen "
                      "0.1\nset yrange [{}:{}]\n",
                      std::max(0.0, least - 0.2 * (most - least)),
                      most + 0.2 * (most - least) + 1e-6);
    out += plot::axis_label("x", times) + plot::axis_label("y", "energy, in kWh a day");
    return out +
           fmt::format("$energy << EOD\n{}EOD\nplot $energy using 1:2 with points pt 7 ps 0.9 "
                       "lc rgb '{}' notitle\n",
                       rows, plot::lane_fill);
}

} // namespace

void draw_trade(const std::string& path, const std::string& title, const rig::Rig& rig,
                const std::vector<Vary>& vary, const TunePlan& plan, const Tuned& tuned) {
    const auto cost = [&](const TunePoint& point) {
        return plan.has_wish ? point.lived.deviation : point.kwh_a_day;
    };
    std::string script = plot::beginning(plot::terminal_of(path), title);
    auto out = std::back_inserter(script);
    double right = 0, top = 0, bottom = 1e300;
    for (const TunePoint& point : tuned.points)
        if (point.impossible.empty()) {
            right = std::max(right, point.times_a_day);
            top = std::max(top, cost(point));
            bottom = std::min(bottom, cost(point));
        }
    fmt::format_to(out,
                   "set lmargin at screen 0.09\nset rmargin at screen 0.96\n"
                   "set key at graph 0.98,0.97 right top reverse Left samplen 1 textcolor rgb "
                   "'{}'\nset xrange [0:{}]\nset multiplot\nset tmargin at screen 0.9\n"
                   "set bmargin at screen {}\nset yrange [{}:{}]\n",
                   plot::ink, right * 1.12 + 0.5, plan.has_wish ? 0.37 : 0.1,
                   std::max(0.0, bottom - 0.15 * (top - bottom)),
                   top + 0.15 * (top - bottom) + 1e-6);
    const std::string times =
        fmt::format("{}: switched on so many times a day", rig.drives[plan.output].name);
    if (!plan.has_wish)
        script += plot::axis_label("x", times);
    script += plot::axis_label("y", plan.has_wish
                                        ? fmt::format("{}: off by so much on average, in {}",
                                                      rig.sources[plan.wished.source].name,
                                                      rig::stored_unit_of(rig::difference_of(
                                                          rig.sources[plan.wished.source].kind)))
                                        : std::string("energy, in kWh a day"));
    std::string kept, broken, now, best, line;
    int label = 1;
    for (size_t i = 0; i < tuned.points.size(); ++i) {
        const TunePoint& point = tuned.points[i];
        if (!point.impossible.empty())
            continue;
        const std::string row = fmt::format("{} {}\n", point.times_a_day, cost(point));
        (point.usable() ? kept : broken) += row;
        if (i == 0)
            now += row;
        if (tuned.best == i)
            best += row;
    }
    // Names that would lie over each other are left out; those that matter come first.
    std::vector<std::pair<double, double>> placed;
    for (const bool mattering : {true, false})
        for (size_t i = 0; i < tuned.points.size(); ++i) {
            const TunePoint& point = tuned.points[i];
            const bool matters = i == 0 || tuned.best == i;
            if (matters != mattering || !point.impossible.empty() || (!matters && vary.size() > 1))
                continue;
            const double x = point.times_a_day / (right * 1.12 + 0.5);
            const double y = (cost(point) - bottom) / (top - bottom + 1e-9) / 1.3;
            if (std::any_of(placed.begin(), placed.end(), [&](const auto& other) {
                    return std::abs(x - other.first) < 0.075 && std::abs(y - other.second) < 0.05;
                }))
                continue;
            placed.emplace_back(x, y);
            script += plot::label(label++, name_of(vary, point),
                                  fmt::format("first {}, first {} left offset 1.4,0.5",
                                              point.times_a_day, cost(point)));
        }
    for (const size_t i : tuned.front)
        line += fmt::format("{} {}\n", tuned.points[i].times_a_day, cost(tuned.points[i]));
    const auto data = [&](const char* name, const std::string& rows) {
        fmt::format_to(std::back_inserter(script), "${} << EOD\n{}EOD\n", name, rows);
    };
    data("kept", kept);
    data("broken", broken);
    data("now", now);
    data("best", best);
    data("line", line);
    script += "plot 0 notitle lc rgb '#ffffff'";
    const auto draw = [&](const char* name, const std::string& rows, const std::string& how) {
        if (!rows.empty())
            script += fmt::format(", ${} using 1:2 {}", name, how);
    };
    draw("line", line, fmt::format("with lines lw 1 lc rgb '{}' notitle", plot::faint));
    draw("kept", kept,
         fmt::format("with points pt 7 ps 1.2 lc rgb '{}' title 'keeps every promise'",
                     plot::colours[0]));
    draw("broken", broken,
         fmt::format("with points pt 2 ps 1.4 lw 2 lc rgb '{}' title 'breaks one'",
                     plot::fault_fill));
    draw("now", now,
         fmt::format("with points pt 4 ps 2.6 lw 2 lc rgb '{}' title 'as it is'", plot::ink));
    draw("best", best,
         fmt::format("with points pt 6 ps 3 lw 3 lc rgb '{}' title 'recommended'",
                     plot::colours[1]));
    script += "\n";
    if (plan.has_wish) {
        script += energy_panel(tuned, times);
    }
    script += "unset multiplot\n";
    plot::draw(path, script);
}

} // namespace zorilla::bench
