// SPDX-License-Identifier: MIT
// What cannot be fitted, and what is doubtful about a fit.
#include "bench/fit/task.hpp"

#include "bench/sizing.hpp"
#include "rig/text/files.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace zorilla::bench {

using rig::InputError;

std::string point_text(const FitTask& task, const FitPoint& point) {
    return fmt::format("{:.6g} {} and {}", point.raw, task.data.raw_unit,
                       truth_text(task, point.truth));
}

/// Whether all this can be fitted at all.
void look_at(const FitTask& task) {
    const FitData& data = task.data;
    const auto at = [&](const FitPoint& point) {
        return fmt::format("{}:{}", data.file, point.line);
    };
    const bool temperature = data.kind == rig::Kind::temperature;
    const bool thermistor = task.model == FitModel::beta || task.model == FitModel::steinhart_hart;
    if (thermistor && !temperature)
        throw InputError(
            fmt::format("{}: the true values are {}, but this model is of a thermistor "
                        "and needs temperatures; see --model power, linear or table",
                        data.file, rig::quantity_of(data.kind)));
    if (task.model == FitModel::power && temperature)
        throw InputError(
            fmt::format("{}: a power law is of light or of a gas; for temperatures see "
                        "--model beta or steinhart-hart",
                        data.file));
    const bool codes = data.raw_unit == "code";
    if (by_resistance(task.model) && !codes && data.raw_unit != "ohm")
        throw InputError(
            fmt::format("{}: \"{}\" must hold codes or resistances for this model; name "
                        "its unit, \"{} (code)\" or \"{} (ohm)\"",
                        data.file, data.raw_name, data.raw_name, data.raw_name));
    if (by_resistance(task.model) && codes && !task.pull)
        throw InputError(fmt::format("{}: to make resistances of codes, the divider's resistor is "
                                     "needed: --pull-up \"10 kohm\" if it goes to the supply, "
                                     "--pull-down if it goes to ground",
                                     data.file));
    const double full = std::pow(2, task.bits) - 1;
    for (const FitPoint& point : data.points) {
        if (codes && (point.raw < 0 || point.raw > full))
            throw InputError(
                fmt::format("{}: {:.6g} is no code of a {}-bit converter, 0 to {:.0f}; "
                            "say --bits 12, or mend the number",
                            at(point), point.raw, task.bits, full));
        if (!by_resistance(task.model))
            continue;
        const double ohms = ohms_of(task, point.raw);
        if (!(ohms > 0 && std::isfinite(ohms)))
            throw InputError(
                fmt::format("{}: {} stands for {}, which is no resistance of a sensor; "
                            "leave the line out, or mend it",
                            at(point), point_text(task, point),
                            std::isfinite(ohms) ? fmt::format("{:.4g} ohm", ohms)
                                                : std::string("a broken wire")));
        if (task.model == FitModel::power && point.truth <= 0)
            throw InputError(fmt::format("{}: {} cannot lie on a power law; values must be above 0",
                                         at(point), truth_text(task, point.truth)));
    }
    const size_t needed = coefficient_count(task);
    if (data.points.size() < needed)
        throw InputError(fmt::format("{}: {} {}, but this model has {} coefficients and needs at "
                                     "least as many points, better {}",
                                     data.file, data.points.size(),
                                     data.points.size() == 1 ? "point" : "points", needed,
                                     needed + 3));
    const auto constant = [&](double FitPoint::*member) {
        return std::all_of(data.points.begin(), data.points.end(), [&](const FitPoint& point) {
            return point.*member == data.points.front().*member;
        });
    };
    if (constant(&FitPoint::raw))
        throw InputError(
            fmt::format("{}: every raw value is {:.6g}; take pairs at different values "
                        "of what is measured",
                        data.file, data.points.front().raw));
    if (constant(&FitPoint::truth))
        throw InputError(fmt::format("{}: every true value is {}; take pairs at different ones",
                                     data.file, truth_text(task, data.points.front().truth)));
    std::vector<double> raws;
    for (const FitPoint& point : data.points)
        raws.push_back(point.raw);
    std::sort(raws.begin(), raws.end());
    const auto different =
        static_cast<size_t>(std::unique(raws.begin(), raws.end()) - raws.begin());
    if (different < needed)
        throw InputError(fmt::format("{}: only {} different raw values, but this model has {} "
                                     "coefficients; take pairs at more places",
                                     data.file, different, needed));
}

/// Whether what came out can be such a sensor.
void look_at_result(const FitTask& task, const FitResult& out) {
    const std::string& file = task.data.file;
    const double first = out.coefficients.front().value;
    if (task.model == FitModel::beta && !(first >= 500 && first <= 10'000))
        throw InputError(fmt::format(
            "{}: the best Beta would be {:.0f} K, and thermistors have 500 to 10,000 K{}", file,
            first,
            first < 0 ? (task.data.raw_unit == "code"
                             ? "; is the resistor on the other side? Its resistance would rise as "
                               "it gets warmer: try --pull-down instead of --pull-up, or the other "
                               "way round"
                             : "; its resistance rises as it gets warmer: see --model table")
                      : "; look at the resistor and the units"));
    if (task.model == FitModel::power && !(first > 0))
        throw InputError(
            fmt::format("{}: its resistance would rise with the value (gamma {:.2f}); "
                        "is the resistor on the other side? Try --pull-down instead of "
                        "--pull-up, or the other way round",
                        file, first));
    if (task.model == FitModel::table)
        for (size_t i = 0; i + 2 < out.coefficients.size(); ++i) {
            const double one = out.coefficients[i + 1].value - out.coefficients[i].value;
            const double next = out.coefficients[i + 2].value - out.coefficients[i + 1].value;
            if (one * next <= 0)
                throw InputError(fmt::format(
                    "{}: the table goes {} from {:.6g} to {:.6g} and {} from there to {:.6g}, so a "
                    "value would have two raw ones; take fewer --knots, or more points there",
                    file, one > 0 ? "up" : "down", out.knots[i], out.knots[i + 1],
                    next > 0   ? "up"
                    : next < 0 ? "down"
                               : "level",
                    out.knots[i + 2]));
        }
}

namespace {

/// Whether neighbours, in the order of their raw values, are off the curve by nearly the same. If
/// points stray by chance, the squares of their differences are twice their own on the average, and
/// in one of a hundred cases so few as here (J. von Neumann, 1941).
bool goes_in_a_wave(const FitResult& out) {
    std::vector<std::pair<double, double>> all;
    for (const FittedPoint& fitted : out.points)
        all.emplace_back(fitted.point.raw, fitted.residual);
    std::sort(all.begin(), all.end());
    double steps = 0, squares = all.front().second * all.front().second;
    for (size_t i = 1; i < all.size(); ++i) {
        steps += std::pow(all[i].second - all[i - 1].second, 2);
        squares += all[i].second * all[i].second;
    }
    const auto n = static_cast<double>(all.size());
    return n >= 6 && steps / squares < 2 - 2.33 * 2 * std::sqrt((n - 2) / (n * n - 1));
}

} // namespace

void warn(const FitTask& task, FitResult& out) {
    const size_t needed = coefficient_count(task);
    const size_t count = task.data.points.size();
    const auto add = [&out](std::string text) { out.warnings.push_back(std::move(text)); };
    for (const FittedPoint& fitted : out.points)
        if (fitted.outlier)
            add(fmt::format(
                "line {}: {} is {} off the curve that the others agree on, and was left "
                "out; was it mistyped, or read too early?",
                fitted.point.line, point_text(task, fitted.point),
                residual_text(task, std::fabs(fitted.residual))));
    if (count == needed)
        add(fmt::format("{} points for {} coefficients: the curve goes through all of them, and "
                        "nothing tells how good it is; take at least {}",
                        count, needed, needed + 3));
    else if (count < needed + 3)
        add(fmt::format("{} points for {} coefficients are few: no outlier can be told; take at "
                        "least {}",
                        count, needed, needed + 3));
    double least = task.data.points.front().truth, most = least;
    for (const FitPoint& point : task.data.points) {
        least = std::min(least, point.truth);
        most = std::max(most, point.truth);
    }
    const bool log = task.model == FitModel::power;
    const double covered = log ? std::log(most / least) : most - least;
    const double wanted = log ? std::log(out.to / out.from) : out.to - out.from;
    if ((task.from || task.to) && covered < wanted / 3)
        add(fmt::format("the points lie close together, from {} to {}, and the range goes from {} "
                        "to {}: add points near its ends",
                        truth_text(task, least), truth_text(task, most), truth_text(task, out.from),
                        truth_text(task, out.to)));
    if (task.model != FitModel::table && out.deviation > 0 && goes_in_a_wave(out))
        add("the residuals go in a wave along the raw values: the points lie on a curve of another "
            "shape; try --model table");
    const double ends = std::max(out.uncertainty_from, out.uncertainty_to);
    if (std::isfinite(ends) && ends > 3 * out.deviation && out.deviation > 0)
        add(fmt::format(
            "at {} the curve itself is uncertain by {}: add points there",
            truth_text(task, out.uncertainty_from > out.uncertainty_to ? out.from : out.to),
            residual_text(task, 2 * ends)));
}

} // namespace zorilla::bench
