// SPDX-License-Identifier: MIT
// A survey as a fragment of a rig file, and as a figure.
#include "bench/plot.hpp"
#include "bench/survey/survey.hpp"
#include "rig/text/files.hpp"
#include "rig/text/names.hpp"
#include "rig/text/text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <filesystem>

namespace zorilla::bench {

namespace {

std::string unit_behind(const SampleColumn& column) {
    return column.unit.empty() || column.is_code() ? "" : " " + column.unit;
}

std::string sensor_of(const ColumnSurvey& column, const std::string& name) {
    return fmt::format("[sense.{}]\n"
                       "part = \"raw\"              # codes as they are{}\n"
                       "pin = \"ADC0\"              # change it to yours\n",
                       name,
                       column.nature.kind == Nature::Kind::two_valued
                           ? "; of two values, a digital pin may do too"
                           : "");
}

std::string decision_of(const ColumnSurvey& column, const Separation& part, const std::string& name,
                        rig::NameMaker& names) {
    const auto shown = [&](double value) {
        return column.bits > 0 ? fmt::format("{:.0f} counts", value)
                               : fmt::format("{:.10g}{}", value, unit_behind(column.column));
    };
    return fmt::format("\n[decide.{}]                # against \"{}\"\n"
                       "of = \"{}\"\n"
                       "above = \"{}\"\n"
                       "release = \"{}\"\n",
                       names.make(column.conditions[part.high].name),
                       rig::one_line(column.conditions[part.low].name), name, shown(part.threshold),
                       shown(part.release));
}

} // namespace

std::string rig_fragment(const SurveyResult& survey, const std::string& path) {
    std::string out;
    rig::NameMaker names;
    for (const ColumnSurvey& column : survey.columns) {
        if (!column.is_parted())
            continue;
        const std::string name = names.make(column.column.name);
        out += fmt::format("{}# From the survey of {}: {} samples of \"{}\" under {} conditions.\n",
                           out.empty() ? "" : "\n",
                           rig::one_line(std::filesystem::path(path).filename().string()),
                           rig::count_to_text(survey.rows), rig::one_line(column.column.name),
                           column.conditions.size());
        if (column.bits > 10)
            out +=
                fmt::format("# Codes of {} bits: the rig needs [board] with chip = \"other\" and "
                            "adc_bits = {}.\n",
                            column.bits, column.bits);
        if (column.bits > 0)
            out += sensor_of(column, name);
        for (const Separation& part : column.separations)
            out += decision_of(column, part, name, names);
    }
    const bool several = std::any_of(survey.columns.begin(), survey.columns.end(),
                                     [](const ColumnSurvey& c) { return c.conditions.size() > 1; });
    if (!several)
        throw rig::InputError(fmt::format(
            "{}: a fragment needs a column with at least two conditions; capture another one into "
            "the same file with --append",
            path));
    return out;
}

void draw_survey(const std::string& path, const SurveyResult& survey, const std::string& title) {
    constexpr size_t most_panels = 3;
    constexpr const char* fillings[] = {"solid 0.35", "pattern 4", "pattern 1", "pattern 5"};
    std::string out = plot::beginning(plot::terminal_of(path), title);
    const size_t count = std::min(survey.columns.size(), most_panels);
    out += "set multiplot\nset lmargin at screen 0.12\nset rmargin at screen 0.97\n";
    const double height = 0.93 / static_cast<double>(std::max<size_t>(count, 1));
    for (size_t i = 0; i < count; ++i) {
        const ColumnSurvey& column = survey.columns[i];
        const double top = 0.93 - static_cast<double>(i) * height;
        double lowest = column.conditions.front().values.lowest();
        double highest = lowest, width = 0, tallest = 0;
        for (const ConditionSurvey& condition : column.conditions) {
            lowest = std::min(lowest, condition.values.lowest());
            highest = std::max(highest, condition.values.highest());
            width = std::max(width, condition.values.width());
        }
        // So wide that it can be seen: about three hundred of them over the panel.
        const double bar = width * std::max(1.0, std::ceil((highest - lowest) / 300 / width));
        for (size_t c = 0; c < column.conditions.size(); ++c) {
            out += fmt::format("$c{} << END\n", c);
            double at = lowest - bar / 2;
            const Histogram& values = column.conditions[c].values;
            for (; at < highest + bar; at += bar) {
                const double share = 100 * static_cast<double>(values.between(at, at + bar)) /
                                     static_cast<double>(values.count());
                tallest = std::max(tallest, share);
                out += fmt::format("{:.9g} {:.6g}\n{:.9g} {:.6g}\n", at, share, at + bar, share);
            }
            out += "END\n";
        }
        const double margin = std::max(0.06 * (highest - lowest), bar);
        const std::string unit = column.bits > 0
                                     ? fmt::format("code of the {}-bit converter", column.bits)
                                 : column.column.unit.empty() ? "as printed"
                                                              : column.column.unit;
        out += fmt::format("set tmargin at screen {:.4f}\nset bmargin at screen {:.4f}\n"
                           "set xrange [{:.9g}:{:.9g}]\nset yrange [0:{:.6g}]\n"
                           "set key at graph 0, graph 1.0 left Left reverse bottom horizontal "
                           "samplen 2 height 0\n",
                           top - 0.03, top - height + 0.10, lowest - margin, highest + margin,
                           std::max(tallest * 1.08, 1.0));
        out += plot::axis_label("x", fmt::format("{} ({})", column.column.name, unit));
        out += plot::axis_label("y", "share of the samples (%)");
        int number = 1;
        double label_height = 0.97;
        for (const Separation& part : column.separations) {
            out += fmt::format("set object {} rectangle from first {:.9g}, graph 0 to first "
                               "{:.9g}, graph 1 fc rgb '{}' fs solid noborder behind\n",
                               number, part.release, part.threshold, plot::band_fill);
            out += fmt::format("set arrow from first {0:.9g}, graph 0 to first {0:.9g}, graph 1 "
                               "nohead lw 1.5 lc rgb '{1}'\n"
                               "set arrow from first {2:.9g}, graph 0 to first {2:.9g}, graph 1 "
                               "nohead dt 2 lc rgb '{1}'\n",
                               part.threshold, plot::ink, part.release);
            const bool left = part.centre > (lowest + highest) / 2;
            out += plot::label(number++,
                               fmt::format("{} above {:.6g}, lets go at {:.6g}",
                                           column.conditions[part.high].name, part.threshold,
                                           part.release),
                               left ? fmt::format("first {:.9g}, graph {:.3f} right offset -1,0",
                                                  part.release, label_height)
                                    : fmt::format("first {:.9g}, graph {:.3f} left offset 1,0",
                                                  part.threshold, label_height));
            label_height -= 0.06;
        }
        out += "plot ";
        for (size_t c = 0; c < column.conditions.size(); ++c) {
            const ConditionSurvey& condition = column.conditions[c];
            out += fmt::format(
                "{}$c{} using 1:2 with filledcurves y1=0 fc rgb '{}' fs {} notitle, "
                "$c{} using 1:2 with lines lw 1.6 dt {} lc rgb '{}' title {} "
                "noenhanced",
                c == 0 ? "" : ", ", c, plot::colours[c % plot::colour_count],
                fillings[c % std::size(fillings)], c, c % 4 + 1,
                plot::colours[c % plot::colour_count],
                plot::quoted(fmt::format("{}: median {:.1f}, spread {:.1f}",
                                         condition.name.empty() ? "all" : condition.name,
                                         condition.median(), condition.spread)));
        }
        out += "\nunset object\nunset arrow\n";
        for (int label = 1; label < number; ++label)
            out += fmt::format("unset label {}\n", label);
        out += "unset label 1000\n";
    }
    plot::draw(path, out + "unset multiplot\n");
}

} // namespace zorilla::bench
