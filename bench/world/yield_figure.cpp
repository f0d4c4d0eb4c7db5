// SPDX-License-Identifier: MIT
// The figure of a yield: shares with their intervals, and what is to blame for the rest.
#include "bench/plot.hpp"
#include "bench/world/yield.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <iterator>

namespace zorilla::bench {

namespace {

/// A label that leaves room for its panel.
std::string shortened(const std::string& text, size_t most) {
    return text.size() <= most ? text : text.substr(0, most - 3) + "...";
}

struct Row {
    std::string name;
    double value, lowest, highest;
    bool main;
};

/// Bars one below the other, the first on top, each with its interval.
void panel(std::string& script, int& label, const std::vector<Row>& rows, double bottom, double top,
           double most, const std::string& heading, const char* unit) {
    auto out = std::back_inserter(script);
    fmt::format_to(out,
                   "set tmargin at screen {}\nset bmargin at screen {}\nset xrange [0:{}]\n"
                   "set yrange [{}:-0.6]\nunset ytics\n",
                   top, bottom, most, static_cast<double>(rows.size()) - 0.4);
    fmt::format_to(out,
                   "set label {} {} at screen 0.02,{} left font ',12' textcolor rgb '{}' "
                   "noenhanced\n",
                   label++, plot::quoted(heading), top + 0.028, plot::ink);
    std::string data;
    const int first = label;
    for (size_t i = 0; i < rows.size(); ++i) {
        const Row& row = rows[i];
        data += fmt::format("{} {} {} {} {}\n", i, row.value, row.lowest, row.highest,
                            row.main ? 1 : 0);
        fmt::format_to(out,
                       "set label {} {} at graph -0.01, first {} right font ',10' textcolor "
                       "rgb '{}' noenhanced\n",
                       label++, plot::quoted(shortened(row.name, 58)), i, plot::ink);
        fmt::format_to(out,
                       "set label {} {} at first {}, first {} left offset 0.8,0 font ',10' "
                       "textcolor rgb '{}' noenhanced front\n",
                       label++, plot::quoted(fmt::format("{:.4g}{}", row.value, unit)),
                       std::max(row.value, row.highest), i, plot::ink);
    }
    fmt::format_to(out, "$rows{} << EOD\n{}EOD\n", first, data);
    fmt::format_to(out,
                   "plot $rows{0} using (0):1:(0):2:($1-0.32):($1+0.32) with boxxyerror fs solid "
                   "0.9 noborder lc rgb '{1}' notitle, $rows{0} using 2:1:3:4 with xerrorbars pt 0 "
                   "lw 2 lc rgb '{2}' notitle\n",
                   first, plot::lane_fill, plot::ink);
    for (int i = first - 1; i < label; ++i)
        fmt::format_to(out, "unset label {}\n", i);
}

} // namespace

void draw_yield(const std::string& path, const std::string& title, const Yielded& is) {
    std::string script = plot::beginning(plot::terminal_of(path), title);
    script +=
        "set lmargin at screen 0.42\nset rmargin at screen 0.93\nset border 1\nset multiplot\n";
    const auto row = [](std::string name, const Share& share, bool main) {
        return Row{std::move(name), 100 * share.value(), 100 * share.lowest(),
                   100 * share.highest(), main};
    };
    std::vector<Row> shares = {row("every promise", is.kept, true)};
    for (size_t i = 0; i < is.says.size(); ++i)
        shares.push_back(row(is.says[i], is.each[i], false));
    for (const auto& how : is.calibrated)
        shares.push_back(
            row(fmt::format("every promise, calibration: {}", how.how), how.kept, false));
    std::vector<Row> blames;
    for (const auto& blame : is.blames)
        if (blame.mended > 0 && blames.size() < 10) {
            const auto mended = static_cast<double>(blame.mended);
            blames.push_back(
                {blame.stray.sensor + "." + blame.stray.key, mended, mended, mended, false});
        }
    if (is.looked_at > 0) {
        const auto weather = static_cast<double>(is.weather);
        blames.push_back({"none: fails with every part exact", weather, weather, weather, false});
    }
    const double all = static_cast<double>(shares.size() + blames.size()) + 3;
    const double split =
        blames.empty() ? 0.08 : 0.08 + 0.8 * (static_cast<double>(blames.size()) + 1.5) / all;
    int label = 1;
    panel(script, label, shares, split + (blames.empty() ? 0 : 0.09), 0.9, 112,
          "Share that keeps it, with 95 % interval", " %");
    script += "unset label 1000\n";
    if (!blames.empty())
        panel(script, label, blames, 0.07, split - 0.02, static_cast<double>(is.looked_at) * 1.12,
              fmt::format("Of {} that fail, so many keep all once that is exact", is.looked_at),
              "");
    script += "unset multiplot\n";
    plot::draw(path, script);
}

} // namespace zorilla::bench
