// SPDX-License-Identifier: MIT
#include "bench/fit/task.hpp"

#include "bench/sizing.hpp"
#include "rig/text/files.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace zorilla::bench {

namespace {

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

} // namespace

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
