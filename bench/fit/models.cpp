// SPDX-License-Identifier: MIT
// The models that can be fitted.
#include "bench/fit/task.hpp"

#include "bench/sizing.hpp"
#include "rig/text/files.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace zorilla::bench {

namespace {

constexpr double kelvin = 273.15;

VectorXd of(std::initializer_list<double> all) {
    VectorXd out(static_cast<Index>(all.size()));
    Index i = 0;
    for (const double x : all)
        out(i++) = x;
    return out;
}

} // namespace

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

} // namespace zorilla::bench
