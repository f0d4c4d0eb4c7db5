// SPDX-License-Identifier: MIT
// fit: from pairs of raw and true values to coefficients.
#include "bench/fit/fit.hpp"
#include "bench/sizing.hpp"
#include "cli/command.hpp"
#include "cli/quantities.hpp"
#include "rig/text/files.hpp"

#include <fmt/format.h>

#include <map>

#include <algorithm>
#include <cmath>

namespace zorilla::cli {

namespace {

using bench::FitModel;
using rig::InputError;
using rig::Kind;

struct FitOptions {
    std::string file, model, pull_up, pull_down, supply, reference, at, figure, raw, truth;
    std::vector<std::string> range;
    std::vector<double> knots;
    int bits = 10;
    bool rig = false;
    bool cpp = false;
};

const std::map<std::string, FitModel> models = {{"beta", FitModel::beta},
                                                {"steinhart-hart", FitModel::steinhart_hart},
                                                {"power", FitModel::power},
                                                {"linear", FitModel::linear},
                                                {"table", FitModel::table}};

bench::FitTask task_of(const FitOptions& options) {
    bench::FitTask task;
    task.model = models.at(options.model);
    task.data = bench::read_fit_data(options.file, options.raw, options.truth);
    task.bits = options.bits;
    if (!options.pull_up.empty() && !options.pull_down.empty())
        throw InputError("give --pull-up or --pull-down, not both");
    if (!options.pull_up.empty())
        task.pull = above_zero("--pull-up", options.pull_up, Kind::resistance, "10 kohm");
    if (!options.pull_down.empty()) {
        task.pull = above_zero("--pull-down", options.pull_down, Kind::resistance, "10 kohm");
        task.sensor_to_ground = false;
    }
    if (options.supply.empty() != options.reference.empty())
        throw InputError("give --supply and --reference together, or neither where the converter "
                         "measures against the divider's supply");
    if (!options.supply.empty())
        task.supply_share = above_zero("--supply", options.supply, Kind::voltage, "5 V") /
                            above_zero("--reference", options.reference, Kind::voltage, "3.3 V");
    const Kind kind = task.data.kind;
    if (!options.range.empty()) {
        task.from = quantity("--range", options.range[0], kind, rig::example_of(kind));
        task.to = quantity("--range", options.range[1], kind, rig::example_of(kind));
        if (*task.from >= *task.to)
            throw InputError(
                fmt::format("--range: {} must lie below {}", options.range[0], options.range[1]));
    }
    if (!options.at.empty())
        task.anchor = above_zero("--at", options.at, kind, rig::example_of(kind));
    if (!options.knots.empty() && task.model != FitModel::table)
        throw InputError("--knots belongs to --model table");
    if (options.knots.size() == 1) {
        if (options.knots[0] < 2 || options.knots[0] > 32 ||
            options.knots[0] != std::floor(options.knots[0]))
            throw InputError("--knots: give how many, 2 to 32, or the codes themselves, such as "
                             "--knots 100,300,700");
        task.knot_count = static_cast<size_t>(options.knots[0]);
    } else {
        task.knots = options.knots;
    }
    return task;
}

std::string number(double value) {
    return std::isnan(value)        ? "unknown"
           : std::fabs(value) < 0.1 ? fmt::format("{:.6g}", value)
                                    : fmt::format("{:.5g}", value);
}

void print_coefficients(Page& page, const bench::FitResult& result) {
    for (const bench::Coefficient& c : result.coefficients) {
        const std::string unit = c.unit.empty() ? "" : " " + c.unit;
        page.line(
            fmt::format("  {:<10}  {}{}, standard error {}", c.name, number(c.value), unit,
                        std::isnan(c.error) ? "unknown" : fmt::format("{:.2g}{}", c.error, unit)));
    }
}

Status fit(const FitOptions& options, Page& page) {
    const bench::FitTask task = task_of(options);
    if (!options.figure.empty())
        rig::check_output(options.figure);
    const bench::FitResult result = bench::fit(task);
    if (options.rig)
        page.line(bench::rig_fragment(task, result));
    if (options.cpp)
        page.line(bench::cpp_constant(task, result));
    if (!options.rig && !options.cpp) {
        page.line(page.bold(fmt::format(
            "{}: {} {}, model {}", task.data.file, task.data.points.size(),
            task.data.medians ? "conditions, the median of each" : "points", options.model)));
        page.line();
        page.line(fmt::format("  {:>6}  {:>14}  {:>14}  {:>14}  {:>10}", "line",
                              fmt::format("{}", task.data.raw_unit), "true", "fitted", "off by"));
        for (const bench::FittedPoint& point : result.points)
            page.line(fmt::format(
                "  {:>6}  {:>14.6g}  {:>14}  {:>14}  {:>10}{}", point.point.line,
                std::round(point.point.raw * 100) / 100, bench::truth_text(task, point.point.truth),
                bench::truth_text(task, point.fitted), bench::residual_text(task, point.residual),
                point.outlier                                                        ? "  left out"
                : &point - &result.points[0] == static_cast<ptrdiff_t>(result.worst) ? "  worst"
                                                                                     : ""));
        page.line();
        print_coefficients(page, result);
        page.line(fmt::format("  one point strays by {} from the curve",
                              bench::residual_text(task, result.deviation)));
        page.line(fmt::format(
            "  the curve itself is known to {} at {}, {} at {}; at most {} in between (two "
            "standard errors)",
            bench::residual_text(task, 2 * result.uncertainty_from),
            bench::truth_text(task, result.from),
            bench::residual_text(task, 2 * result.uncertainty_to),
            bench::truth_text(task, result.to),
            bench::residual_text(task, 2 * result.uncertainty_inside)));
        page.line();
        page.line(page.bold("For the rig file"));
        page.line(bench::rig_fragment(task, result));
        page.line(page.bold("In C++"));
        page.line(bench::cpp_constant(task, result));
    }
    for (const std::string& warning : result.warnings)
        message(fmt::format("{}: {}", task.data.file, warning));
    page.finish();
    if (!options.figure.empty())
        bench::draw_fit(options.figure, task, result,
                        fmt::format("{}, model {}", task.data.file, options.model));
    return result.warnings.empty() ? done : found_wanting;
}

} // namespace

void add_fit(Command& app, Chosen& chosen) {
    auto options = std::make_shared<FitOptions>();
    Command* command = app.add_subcommand(
        "fit", "Calibrate: from pairs of raw and true values to the coefficients of a curve.\n"
               "Example: zorilla fit probe.csv --model beta --pull-up \"10 kohm\" --figure "
               "probe.png");
    command
        ->add_option(
            "FILE", options->file,
            "The pairs: CSV with a header such as \"raw (code),true (degC)\"; or a capture "
            "whose conditions are the true values.")
        ->required();
    std::vector<std::string> names;
    for (const auto& [name, model] : models)
        names.push_back(name);
    command
        ->add_option("--model", options->model,
                     "beta or steinhart-hart of a thermistor, power of a photoresistor or a gas "
                     "sensor, linear, or a table of straight lines.")
        ->required()
        ->one_of(names)
        ->type_name("MODEL");
    command->add_option("--pull-up", options->pull_up, "The divider's resistor, to the supply.")
        ->type_name("RESISTANCE");
    command->add_option("--pull-down", options->pull_down, "The divider's resistor, to ground.")
        ->type_name("RESISTANCE");
    command->add_option("--bits", options->bits, "The converter's bits.")
        ->between(8, 16)
        ->capture_default_str();
    command
        ->add_option("--supply", options->supply,
                     "The divider's supply, where the converter measures against something else.")
        ->type_name("VOLTAGE");
    command->add_option("--reference", options->reference, "And what it measures against.")
        ->type_name("VOLTAGE");
    command
        ->add_option("--range", options->range,
                     "The range of interest: how well is the curve known at its ends?")
        ->expected(2)
        ->type_name("FROM TO");
    command
        ->add_option("--at", options->at,
                     "Of a power law: the value that its resistance is told at. Default: 10.")
        ->type_name("VALUE");
    command
        ->add_option("--knots", options->knots,
                     "Of a table: at how many codes its lines meet, or at which.")
        ->delimiter(',')
        ->type_name("N|CODE,CODE,...");
    command->add_option("--raw", options->raw, "The column of raw values, where that is not clear.")
        ->type_name("NAME");
    command
        ->add_option("--true", options->truth,
                     "The column of true values, where that is not clear.")
        ->type_name("NAME");
    command->add_option("--figure", options->figure, "Draw points, curve and residuals here.")
        ->type_name("FILE.png|.svg");
    command->add_flag("--rig", options->rig, "Print only the fragment for a rig file.");
    command->add_flag("--cpp", options->cpp, "Print only the constant in C++.");
    command->callback(
        [options, &chosen] { chosen = [options](Page& page) { return fit(*options, page); }; });
}

} // namespace zorilla::cli
