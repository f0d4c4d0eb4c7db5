// SPDX-License-Identifier: MIT
// The matrix of parts by faults.
#include "bench/plot.hpp"
#include "bench/world/breaking.hpp"
#include "rig/text/text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <iterator>

namespace zorilla::bench {

void draw_breaking(const std::string& path, const std::string& title, const Broken& broken) {
    std::vector<std::string> parts, hows;
    const auto place = [](std::vector<std::string>& names, const std::string& name) {
        const auto is = std::find(names.begin(), names.end(), name);
        if (is != names.end())
            return static_cast<size_t>(is - names.begin());
        names.push_back(name);
        return names.size() - 1;
    };
    for (const Breaking& one : broken.all) {
        place(parts, one.part);
        place(hows, one.how);
    }
    std::string script = plot::beginning(plot::terminal_of(path), title);
    auto out = std::back_inserter(script);
    fmt::format_to(out,
                   "set lmargin at screen 0.15\nset rmargin at screen 0.98\nset tmargin at screen "
                   "0.84\nset bmargin at screen 0.12\nunset border\nunset grid\nunset xtics\nunset "
                   "ytics\nset xrange [0:{}]\nset yrange [{}:0]\n",
                   hows.size(), parts.size());
    int label = 1, object = 1;
    for (size_t i = 0; i < hows.size(); ++i)
        script +=
            plot::label(label++, hows[i],
                        fmt::format("first {}, graph 1.03 center", static_cast<double>(i) + 0.5));
    for (size_t i = 0; i < parts.size(); ++i)
        script +=
            plot::label(label++, parts[i],
                        fmt::format("graph -0.01, first {} right", static_cast<double>(i) + 0.5));
    for (const Breaking& one : broken.all) {
        const auto x = static_cast<double>(place(hows, one.how));
        const auto y = static_cast<double>(place(parts, one.part));
        const bool breaks = one.kept < one.moments;
        const bool all_told = one.told == one.moments;
        const bool untold = one.to_be_told && !all_told;
        const char* colour = breaks     ? plot::fault_fill
                             : untold   ? plot::colours[1]
                             : all_told ? plot::lane_fill
                                        : plot::band_fill;
        fmt::format_to(out,
                       "set object {} rectangle from first {},{} to first {},{} fc rgb '{}' fs "
                       "solid {} border lc rgb '{}' back\n",
                       object++, x + 0.03, y + 0.06, x + 0.97, y + 0.94, colour,
                       breaks     ? "0.45"
                       : untold   ? "0.18"
                       : all_told ? "0.25"
                                  : "0.9",
                       breaks || untold ? colour : plot::grid);
        const std::string kept =
            breaks ? fmt::format("{} of {} break", one.moments - one.kept, one.moments) : "kept";
        const std::string told = one.told == 0 ? "not told"
                                 : all_told    ? "told in " + rig::span_to_text(*one.longest_told)
                                            : fmt::format("{} of {} told", one.told, one.moments);
        const std::string well =
            one.recovered == one.moments
                ? "well again"
                : fmt::format("{} of {} well again", one.recovered, one.moments);
        const std::string* lines[] = {&kept, &told, &well};
        for (size_t i = 0; i < 3; ++i)
            fmt::format_to(out,
                           "set label {} {} at first {},{} center font ',{}' textcolor rgb '{}' "
                           "noenhanced front\n",
                           label++, plot::quoted(*lines[i]), x + 0.5,
                           y + 0.26 + 0.25 * static_cast<double>(i),
                           parts.size() > 9 || hows.size() > 9 ? 7 : 9, plot::ink);
    }
    script += plot::label(label++,
                          "dark orange: a promise or a never breaks; light orange: not told, "
                          "though it is promised; blue: told; green: kept, and need not be told; "
                          "empty: there is no such fault",
                          "screen 0.15, screen 0.06 left");
    script += "plot -1 notitle\n";
    plot::draw(path, script);
}

} // namespace zorilla::bench
