// SPDX-License-Identifier: MIT
#include "bench/fit.hpp"

#include "bench/robust_fit.hpp"
#include "bench/sizing.hpp"
#include "rig/text/files.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace zorilla::bench {

namespace {

using rig::InputError;

constexpr double kelvin = 273.15;

VectorXd of(std::initializer_list<double> all) {
    VectorXd out(static_cast<Index>(all.size()));
    Index i = 0;
    for (const double x : all)
        out(i++) = x;
    return out;
}

/// ohms of a code, in the divider of the task.
double ohms_of(const FitTask& task, double raw) {
    if (task.data.raw_unit == "ohm")
        return raw;
    const double share = raw / std::pow(2, task.bits) / task.supply_share;
    return task.sensor_to_ground ? *task.pull * share / (1 - share)
                                 : *task.pull * (1 - share) / share;
}

bool by_resistance(FitModel model) {
    return model == FitModel::beta || model == FitModel::steinhart_hart || model == FitModel::power;
}

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

/// Where the lines of a table meet: as asked for, or with as many points between any two.
std::vector<double> knots_of(const FitTask& task) {
    std::vector<double> knots = task.knots;
    std::sort(knots.begin(), knots.end());
    if (!knots.empty())
        return knots;
    std::vector<double> raws;
    for (const FitPoint& point : task.data.points)
        raws.push_back(point.raw);
    std::sort(raws.begin(), raws.end());
    raws.erase(std::unique(raws.begin(), raws.end()), raws.end());
    const size_t count = std::min({task.knot_count, raws.size(), size_t{32}});
    for (size_t i = 0; i < count; ++i)
        knots.push_back(raws[i * (raws.size() - 1) / (count - 1)]);
    return knots;
}

Curve curve_of(const FitTask& task, const std::vector<double>& knots) {
    const auto same = [](double x) { return x; };
    const auto one = [](double) { return 1.0; };
    const auto log_ohms = [task](double raw) { return std::log(ohms_of(task, raw)); };
    switch (task.model) {
    case FitModel::beta:
    case FitModel::steinhart_hart: {
        const bool cubic = task.model == FitModel::steinhart_hart;
        return {[log_ohms, cubic](double raw) {
                    const double x = log_ohms(raw);
                    return cubic ? of({1, x, x * x * x}) : of({1, x});
                },
                [](double inverse) { return 1 / inverse - kelvin; },
                [](double inverse) { return -1 / (inverse * inverse); },
                [](double celsius) { return 1 / (celsius + kelvin); }};
    }
    case FitModel::power:
        return {[log_ohms](double raw) { return of({1, log_ohms(raw)}); }, same, one, same};
    case FitModel::linear: return {[](double raw) { return of({1, raw}); }, same, one, same};
    case FitModel::table: break;
    }
    return {[knots](double raw) {
                VectorXd row = VectorXd::Zero(static_cast<Index>(knots.size()));
                size_t line = 0;
                while (line + 2 < knots.size() && raw > knots[line + 1])
                    ++line;
                const double along = (raw - knots[line]) / (knots[line + 1] - knots[line]);
                row(static_cast<Index>(line)) = 1 - along;
                row(static_cast<Index>(line) + 1) = along;
                return row;
            },
            same, one, same};
}

/// The coefficients that a data sheet would give, with their errors.
std::vector<Coefficient> coefficients_of(const FitTask& task, const Solution& s,
                                         const std::vector<double>& knots) {
    const auto error = [&s](const VectorXd& gradient) {
        return std::sqrt(std::max(0.0, gradient.dot(s.covariance * gradient)));
    };
    const auto plain = [&](Index i) {
        VectorXd gradient = VectorXd::Zero(s.p.size());
        gradient(i) = 1;
        return error(gradient);
    };
    const std::string unit = rig::unit_of(task.data.kind);
    switch (task.model) {
    case FitModel::beta: {
        const double a = s.p(0), q = s.p(1);
        const double log_nominal = (1 / (25 + kelvin) - a) / q;
        const double nominal = std::exp(log_nominal);
        return {{"beta", 1 / q, plain(1) / (q * q), "K"},
                {"nominal", nominal, nominal * error(of({-1 / q, -log_nominal / q})), "ohm"}};
    }
    case FitModel::steinhart_hart:
        return {{"A", s.p(0), plain(0), "1/K"},
                {"B", s.p(1), plain(1), "1/K"},
                {"C", s.p(2), plain(2), "1/K"}};
    case FitModel::power: {
        const double a = s.p(0), b = s.p(1);
        const double log_ohms = (std::log(task.anchor) - a) / b;
        const double ohms = std::exp(log_ohms);
        return {{"gamma", -1 / b, plain(1) / (b * b), ""},
                {"resistance", ohms, ohms * error(of({-1 / b, -log_ohms / b})), "ohm"}};
    }
    case FitModel::linear:
        return {{"gain", s.p(1), plain(1), fmt::format("{}/{}", unit, task.data.raw_unit)},
                {"offset", s.p(0), plain(0), unit}};
    case FitModel::table: break;
    }
    std::vector<Coefficient> out;
    for (size_t i = 0; i < knots.size(); ++i)
        out.push_back({fmt::format("at {:.6g}", knots[i]), s.p(static_cast<Index>(i)),
                       plain(static_cast<Index>(i)), unit});
    return out;
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

/// The raw value at which the curve has a value, somewhere from `low` to `high`.
double raw_at(const FitResult& out, double value, double low, double high) {
    for (int i = 0; i < 80; ++i) {
        const double middle =
            low > 0 && high / low > 100 ? std::sqrt(low * high) : (low + high) / 2;
        ((out.value(middle) < value) == out.rises ? low : high) = middle;
    }
    return (low + high) / 2;
}

void set_range(const FitTask& task, FitResult& out) {
    double least = task.data.points.front().truth, most = least;
    for (const FitPoint& point : task.data.points) {
        least = std::min(least, point.truth);
        most = std::max(most, point.truth);
    }
    out.from = task.from.value_or(least);
    out.to = task.to.value_or(most);
    const double span = out.most_raw - out.least_raw;
    const bool codes = task.data.raw_unit == "code";
    const double low = codes                       ? 0.5
                       : by_resistance(task.model) ? out.least_raw / 1000
                                                   : out.least_raw - 10 * span;
    const double high = codes                       ? std::pow(2, task.bits) - 0.5
                        : by_resistance(task.model) ? out.most_raw * 1000
                                                    : out.most_raw + 10 * span;
    const double first = raw_at(out, out.from, low, high);
    const double last = raw_at(out, out.to, low, high);
    out.uncertainty_from = out.uncertainty(first);
    out.uncertainty_to = out.uncertainty(last);
    for (int i = 0; i <= 100; ++i)
        out.uncertainty_inside =
            std::max(out.uncertainty_inside, out.uncertainty(first + (last - first) * i / 100));
}

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

} // namespace

size_t coefficient_count(const FitTask& task) {
    switch (task.model) {
    case FitModel::beta:
    case FitModel::power:
    case FitModel::linear: return 2;
    case FitModel::steinhart_hart: return 3;
    case FitModel::table: break;
    }
    return task.knots.empty() ? 2 : task.knots.size();
}

FitResult fit(const FitTask& task) {
    look_at(task);
    FitResult out;
    out.relative = task.model == FitModel::power;
    if (task.model == FitModel::table)
        out.knots = knots_of(task);
    const Curve curve = curve_of(task, out.knots);
    const bool log = out.relative;
    const auto target = [log](double truth) { return log ? std::log(truth) : truth; };
    // What a count of the converter is worth, about.
    double finest = 0;
    if (task.data.raw_unit == "code") {
        double least = task.data.points[0].raw, most = least;
        double lowest = target(task.data.points[0].truth), highest = lowest;
        for (const FitPoint& point : task.data.points) {
            least = std::min(least, point.raw);
            most = std::max(most, point.raw);
            lowest = std::min(lowest, target(point.truth));
            highest = std::max(highest, target(point.truth));
        }
        finest = (highest - lowest) / (most - least);
    }
    const Solution solved = solve_robustly(curve, task.data.points, target, finest);

    out.coefficients = coefficients_of(task, solved, out.knots);
    out.deviation = solved.deviation;
    out.value = [curve, p = solved.p, log](double raw) {
        const double value = curve.value(curve.basis(raw).dot(p));
        return log ? std::exp(value) : value;
    };
    out.uncertainty = [curve, p = solved.p, covariance = solved.covariance](double raw) {
        const VectorXd basis = curve.basis(raw);
        const VectorXd gradient = curve.slope(basis.dot(p)) * basis;
        return std::sqrt(std::max(0.0, gradient.dot(covariance * gradient)));
    };
    out.least_raw = out.most_raw = task.data.points.front().raw;
    double largest = -1;
    for (size_t i = 0; i < task.data.points.size(); ++i) {
        const auto at = static_cast<Index>(i);
        FittedPoint fitted;
        fitted.point = task.data.points[i];
        fitted.fitted = out.value(fitted.point.raw);
        fitted.residual = log ? std::expm1(solved.residuals(at)) : solved.residuals(at);
        fitted.weight = solved.weights(at);
        fitted.outlier = fitted.weight == 0;
        if (!fitted.outlier && std::fabs(fitted.residual) > largest) {
            largest = std::fabs(fitted.residual);
            out.worst = i;
        }
        out.least_raw = std::min(out.least_raw, fitted.point.raw);
        out.most_raw = std::max(out.most_raw, fitted.point.raw);
        out.points.push_back(fitted);
    }
    look_at_result(task, out);
    out.rises = out.value(out.most_raw) > out.value(out.least_raw);
    set_range(task, out);
    warn(task, out);
    return out;
}

std::string truth_text(const FitTask& task, double value) {
    const auto thousandths =
        static_cast<int32_t>(std::clamp(std::round(value * 1000), -2.1e9, 2.1e9));
    if (task.data.kind == rig::Kind::temperature)
        return fmt::format("{:.1f} degC", std::round(value * 10) / 10 + 0.0);
    return rig::reading_text(thousandths, task.data.kind);
}

std::string residual_text(const FitTask& task, double residual) {
    if (std::isnan(residual))
        return "unknown";
    if (task.model == FitModel::power)
        return fmt::format("{:.2g} %", 100 * residual);
    return fmt::format("{:.2g} {}", residual, rig::unit_of(rig::difference_of(task.data.kind)));
}

} // namespace zorilla::bench
