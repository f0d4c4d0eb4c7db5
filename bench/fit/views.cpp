// SPDX-License-Identifier: MIT
// A fit as a fragment of a rig file, as a constant in C++, and as a figure.
#include "bench/fit/fit.hpp"
#include "bench/plot.hpp"
#include "bench/sizing.hpp"
#include "rig/text/files.hpp"
#include "rig/text/names.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace zorilla::bench {

namespace {

using rig::Kind;

/// Where the numbers come from: two sentences without what marks a comment.
std::vector<std::string> provenance(const FitTask& task, const FitResult& result) {
    const FitData& data = task.data;
    double least = data.points.front().truth, most = least;
    for (const FitPoint& point : data.points) {
        least = std::min(least, point.truth);
        most = std::max(most, point.truth);
    }
    const FittedPoint& worst = result.points[result.worst];
    size_t left_out = 0;
    for (const FittedPoint& point : result.points)
        left_out += point.outlier ? 1 : 0;
    return {
        fmt::format("Fitted to {}, {}: {} {} from {} to {}{}.", data.file,
                    data.date.empty() ? "without a date" : data.date, data.points.size(),
                    data.medians ? "conditions" : "points", truth_text(task, least),
                    truth_text(task, most),
                    left_out > 0 ? fmt::format(", {} left out", left_out) : ""),
        fmt::format("Worst residual {} in line {}; one point strays by {}.",
                    residual_text(task, std::fabs(worst.residual)), worst.point.line,
                    residual_text(task, result.deviation)),
    };
}

double coefficient(const FitResult& result, std::string_view name) {
    for (const Coefficient& c : result.coefficients)
        if (c.name == name)
            return c.value;
    return 0;
}

/// A value with three digits behind the point, or fewer, and the unit that a kind is shown in.
std::string quantity_text(double value, Kind kind) {
    return rig::to_text(static_cast<int32_t>(std::lround(value * 1000)), kind);
}

/// The divider's resistor as a key, or a line that asks for it.
std::string divider_key(const FitTask& task) {
    if (!task.pull)
        return "pull_up = \"10 kohm\"       # change it to your divider's resistor\n";
    std::string out = fmt::format("{} = \"{}\"\n", task.sensor_to_ground ? "pull_up" : "pull_down",
                                  ohms_text(*task.pull));
    if (task.supply_share != 1)
        out += "# supply and reference are not the same: give both keys, as in the data\n";
    return out;
}

std::string bits_note(const FitTask& task) {
    return task.bits == 10 || task.data.raw_unit != "code"
               ? ""
               : fmt::format("# Codes of {0} bits: the rig needs [board] with chip = \"other\" and "
                             "adc_bits = {0}.\n",
                             task.bits);
}

std::string range_key(const FitTask& task, const FitResult& result) {
    const auto end = [&](double value) {
        return quantity_text(std::round(value * 10) / 10, task.data.kind);
    };
    return fmt::format("range = [\"{}\", \"{}\"]\n", end(std::min(result.from, result.to)),
                       end(std::max(result.from, result.to)));
}

/// The points of a table: of a line, its ends; codes going up.
std::vector<std::pair<long, double>> table_points(const FitTask& task, const FitResult& result) {
    std::vector<double> raws = result.knots;
    if (task.model == FitModel::linear)
        raws = {std::floor(result.least_raw), std::ceil(result.most_raw)};
    std::vector<std::pair<long, double>> out;
    for (const double raw : raws)
        out.emplace_back(std::lround(raw), result.value(std::round(raw)));
    return out;
}

/// Whether raw and true values are of one kind: a reading that is to be trimmed.
bool is_trim(const FitTask& task) {
    Kind kind{};
    return task.model == FitModel::linear && task.data.raw_unit != "code" &&
           rig::kind_of("1 " + task.data.raw_unit, kind) && kind == task.data.kind;
}

std::string literal(double value, std::string_view unit) {
    std::string number = fmt::format("{:.3f}", value);
    while (number.back() == '0')
        number.pop_back();
    if (number.back() == '.')
        number.pop_back();
    return fmt::format("{}_{}", number == "-0" ? "0" : number, unit);
}

std::string divider_call(const FitTask& task) {
    if (!task.pull)
        return ".pull_up(10_kohm /* your divider's resistor */)";
    return fmt::format(".{}({})", task.sensor_to_ground ? "pull_up" : "pull_down",
                       literal(*task.pull, "ohm"));
}

std::string range_call(const FitTask& task, const FitResult& result) {
    const std::string_view unit = rig::cpp_literal_of(task.data.kind);
    return fmt::format(".range({}, {})",
                       literal(std::round(std::min(result.from, result.to) * 10) / 10, unit),
                       literal(std::round(std::max(result.from, result.to) * 10) / 10, unit));
}

std::string bits_call(const FitTask& task) {
    return task.bits == 10 ? "" : fmt::format(".bits({})", task.bits);
}

} // namespace

std::string rig_fragment(const FitTask& task, const FitResult& result) {
    std::string out;
    for (const std::string& sentence : provenance(task, result))
        out += fmt::format("# {}\n", sentence);
    out += bits_note(task);
    rig::NameMaker names;
    const std::string name = names.make(task.data.raw_name == "raw" ? "probe" : task.data.raw_name);
    if (is_trim(task)) {
        const double low = result.least_raw, high = result.most_raw;
        return out + fmt::format("# In the table of the sensor that read these values:\n"
                                 "trim = [[\"{}\", \"{}\"], [\"{}\", \"{}\"]]\n",
                                 quantity_text(low, task.data.kind),
                                 quantity_text(result.value(low), task.data.kind),
                                 quantity_text(high, task.data.kind),
                                 quantity_text(result.value(high), task.data.kind));
    }
    const auto part = [&](std::string_view kind) {
        return fmt::format("[sense.{}]\npart = \"{}\"\npin = \"ADC0\"              # change it to "
                           "yours\n",
                           name, kind);
    };
    switch (task.model) {
    case FitModel::beta:
        return out + part("thermistor") +
               fmt::format("nominal = \"{:.0f} ohm\"\nbeta = \"{:.1f} K\"\n",
                           coefficient(result, "nominal"), coefficient(result, "beta")) +
               divider_key(task) + range_key(task, result);
    case FitModel::steinhart_hart:
        return out + part("thermistor") +
               fmt::format("steinhart_hart = [{:.9e}, {:.9e}, {:.8e}]\n", coefficient(result, "A"),
                           coefficient(result, "B"), coefficient(result, "C")) +
               divider_key(task) + range_key(task, result);
    case FitModel::power:
        if (task.data.kind == Kind::concentration) {
            const double zero = coefficient(result, "resistance");
            const double gamma = coefficient(result, "gamma");
            return out + part("gas_sensor") +
                   fmt::format("points = [[\"{}\", 1.0], [\"{}\", {:.4f}]]\n"
                               "zero = \"{:.0f} ohm\"         # its resistance at {}\n",
                               quantity_text(task.anchor, task.data.kind),
                               quantity_text(task.anchor * 10, task.data.kind),
                               std::pow(10, -gamma), zero,
                               quantity_text(task.anchor, task.data.kind)) +
                   divider_key(task) + range_key(task, result);
        }
        return out + part("photoresistor") +
               fmt::format("resistance = \"{:.0f} ohm\"\nat_light = \"{}\"\ngamma = {:.3f}\n",
                           coefficient(result, "resistance"),
                           quantity_text(task.anchor, task.data.kind),
                           coefficient(result, "gamma")) +
               divider_key(task) + range_key(task, result);
    case FitModel::linear:
    case FitModel::table: break;
    }
    out += part("value_table") + "points = [";
    const auto points = table_points(task, result);
    for (size_t i = 0; i < points.size(); ++i)
        out += fmt::format("{}[{}, \"{}\"]", i == 0 ? "" : ", ", points[i].first,
                           quantity_text(points[i].second, task.data.kind));
    return out + "]\n";
}

std::string cpp_constant(const FitTask& task, const FitResult& result) {
    std::string out;
    for (const std::string& sentence : provenance(task, result))
        out += fmt::format("// {}\n", sentence);
    rig::NameMaker names;
    const std::string name = names.make(task.data.raw_name == "raw" ? "probe" : task.data.raw_name);
    const std::string_view unit = rig::cpp_literal_of(task.data.kind);
    if (is_trim(task))
        return out + fmt::format("// trim.two_point(reading at {}, {}, reading at {}, {});\n",
                                 literal(result.least_raw, unit),
                                 literal(result.value(result.least_raw), unit),
                                 literal(result.most_raw, unit),
                                 literal(result.value(result.most_raw), unit));
    const auto constant = [&](const std::string& expression) {
        return fmt::format("{}constexpr auto {} =\n    {};\n", out, name, expression);
    };
    const std::string tail = divider_call(task) + bits_call(task) + range_call(task, result);
    switch (task.model) {
    case FitModel::beta:
        return constant(fmt::format("thermistor({:.0f}_ohm, {:.1f}_K){}",
                                    coefficient(result, "nominal"), coefficient(result, "beta"),
                                    tail));
    case FitModel::steinhart_hart:
        return constant(fmt::format("thermistor({:.9e}_per_K, {:.9e}_per_K, {:.8e}_per_K){}",
                                    coefficient(result, "A"), coefficient(result, "B"),
                                    coefficient(result, "C"), tail));
    case FitModel::power:
        if (task.data.kind == Kind::concentration)
            return constant(
                fmt::format("gas_sensor(gas_point({}, 1_times), gas_point({}, {:.3f}_times)){}"
                            " /* zero: {:.0f}_ohm */",
                            literal(task.anchor, unit), literal(task.anchor * 10, unit),
                            std::pow(10, -coefficient(result, "gamma")), tail,
                            coefficient(result, "resistance")));
        return constant(fmt::format("photoresistor({:.0f}_ohm, {}, {:.3f}_times){}",
                                    coefficient(result, "resistance"), literal(task.anchor, unit),
                                    coefficient(result, "gamma"), tail));
    case FitModel::linear:
    case FitModel::table: break;
    }
    std::string points;
    for (const auto& [code, value] : table_points(task, result))
        points +=
            fmt::format("{}at({}, {})", points.empty() ? "" : ", ", code, literal(value, unit));
    return constant(fmt::format("value_table({}){}", points, bits_call(task)));
}

void draw_fit(const std::string& path, const FitTask& task, const FitResult& result,
              const std::string& title) {
    constexpr int steps = 300;
    const bool relative = result.relative;
    const std::string unit = rig::unit_of(task.data.kind);
    const std::string raw_unit = task.data.raw_unit == "code"
                                     ? fmt::format("code of the {}-bit converter", task.bits)
                                     : task.data.raw_unit;
    const double margin = 0.05 * (result.most_raw - result.least_raw);
    const bool log_raw = task.data.raw_unit == "ohm" && result.most_raw > 20 * result.least_raw;
    const double low = log_raw ? result.least_raw / 1.2 : result.least_raw - margin;
    const double high = log_raw ? result.most_raw * 1.2 : result.most_raw + margin;
    std::string out = plot::beginning(plot::terminal_of(path), title);
    out += "$curve << END\n";
    for (int i = 0; i <= steps; ++i) {
        const double along = static_cast<double>(i) / steps;
        const double raw = log_raw ? low * std::pow(high / low, along) : low + (high - low) * along;
        const double value = result.value(raw);
        double band = 2 * result.uncertainty(raw);
        if (!std::isfinite(band))
            band = 0;
        if (std::isfinite(value))
            out += fmt::format("{:.9g} {:.9g} {:.6g}\n", raw, value, (relative ? 100 : 1) * band);
    }
    out += "END\n$kept << END\n";
    for (const FittedPoint& point : result.points)
        if (!point.outlier)
            out += fmt::format("{:.9g} {:.9g} {:.6g}\n", point.point.raw, point.point.truth,
                               (relative ? 100 : 1) * point.residual);
    out += "END\n$left << END\n";
    bool any_left = false;
    double reach = 0;
    for (const FittedPoint& point : result.points) {
        any_left = any_left || point.outlier;
        if (point.outlier)
            out += fmt::format("{:.9g} {:.9g}\n", point.point.raw, point.point.truth);
        else
            reach = std::max(reach, std::fabs(point.residual) * (relative ? 100 : 1));
    }
    reach = std::max(reach * 1.3, 1e-6);
    out +=
        fmt::format("END\nset multiplot\nset lmargin at screen 0.12\nset rmargin at screen "
                    "0.97\nset xrange [{:.9g}:{:.9g}]\n{}"
                    "set tmargin at screen 0.90\nset bmargin at screen 0.40\nset format x ''\n"
                    "set key at graph 0, graph 1 left Left reverse bottom horizontal samplen 3\n",
                    low, high, log_raw ? "set logscale x\n" : "");
    const auto [least, most] = std::minmax_element(
        result.points.begin(), result.points.end(),
        [](const FittedPoint& a, const FittedPoint& b) { return a.point.truth < b.point.truth; });
    const double rest = 0.08 * (most->point.truth - least->point.truth);
    out += relative ? fmt::format("set logscale y\nset yrange [{:.9g}:{:.9g}]\n",
                                  least->point.truth / 1.5, most->point.truth * 1.5)
                    : fmt::format("set yrange [{:.9g}:{:.9g}]\n", least->point.truth - rest,
                                  most->point.truth + rest);
    out += plot::axis_label("y", fmt::format("{} ({})", rig::quantity_of(task.data.kind), unit));
    out += fmt::format("plot $curve using 1:2 with lines lw 2 lc rgb '{}' title 'curve', "
                       "$kept using 1:2 with points pt 7 ps 1.1 lc rgb '{}' title 'points'",
                       plot::colours[0], plot::ink);
    if (any_left)
        out += fmt::format(", $left using 1:2 with points pt 2 ps 1.8 lw 2 lc rgb '{}' title 'left "
                           "out'",
                           plot::fault_fill);
    out +=
        fmt::format("\nunset label 1000\nunset logscale y\nset tmargin at screen 0.32\n"
                    "set bmargin at screen 0.10\nset format x '%g'\nset yrange [{0:.6g}:{1:.6g}]\n"
                    "set ytics {2:.6g}\n",
                    -reach, reach, plot::step_of(2 * reach, 5));
    out += plot::axis_label("x", fmt::format("{} ({})", task.data.raw_name, raw_unit));
    out += plot::axis_label(
        "y", fmt::format("residual ({})",
                         relative ? "%" : rig::unit_of(rig::difference_of(task.data.kind))));
    out +=
        fmt::format("plot $curve using 1:(-$3):3 with filledcurves fc rgb '{0}' fs solid noborder "
                    "title 'the curve, uncertain by two standard errors', "
                    "$kept using 1:3 with impulses lw 1.5 lc rgb '{1}' notitle, "
                    "$kept using 1:3 with points pt 7 ps 1.1 lc rgb '{1}' notitle, "
                    "0 with lines lc rgb '{1}' notitle\nunset multiplot\n",
                    plot::band_fill, plot::ink);
    plot::draw(path, out);
}

} // namespace zorilla::bench
