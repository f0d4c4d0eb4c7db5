// SPDX-License-Identifier: MIT
// survey: what a set of raw readings looks like.
#include "bench/survey/survey.hpp"
#include "cli/command.hpp"
#include "rig/text/files.hpp"
#include "rig/text/text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <filesystem>

namespace zorilla::cli {

namespace {

using bench::ColumnSurvey;
using bench::ConditionSurvey;
using bench::Nature;
using bench::Separation;
using rig::count_to_text;

struct SurveyOptions {
    std::string file;
    std::string figure;
    int bits = 0;
    bool rig = false;
};

std::string name_of(const ConditionSurvey& condition) {
    return condition.name.empty() ? "all" : condition.name;
}

std::string rough_share(double part) {
    return part == 0 ? "0 %" : part < 0.0005 ? "< 0.1 %" : fmt::format("{:.1f} %", 100 * part);
}

/// A number of times that is not to be taken for more exact than it is.
std::string about(double count) {
    return count < 0.01  ? "less than one in a hundred days"
           : count < 10  ? fmt::format("{:.2g}", count)
           : count < 1e4 ? fmt::format("{:.0f}", count)
                         : count_to_text(static_cast<uint64_t>(std::llround(count / 100) * 100));
}

void print_conditions(Page& page, const ColumnSurvey& column) {
    size_t width = 9;
    for (const ConditionSurvey& condition : column.conditions)
        width = std::max(width, name_of(condition).size());
    page.line(fmt::format("  {:<{}}  {:>11}  {:>8}  {:>8}  {:>8}  {:>7}  {:>7}  {:>10}{}",
                          "condition", width, "samples", "lowest", "median", "highest", "spread",
                          "noise", "drift/min", column.bits > 0 ? "  at 0   at end" : ""));
    for (const ConditionSurvey& condition : column.conditions)
        page.line(fmt::format(
            "  {:<{}}  {:>11}  {:>8.6g}  {:>8.6g}  {:>8.6g}  {:>7.3g}  {:>7.3g}  {:>10}{}",
            name_of(condition), width, count_to_text(condition.count()), condition.values.lowest(),
            std::round(condition.median() * 1000) / 1000, condition.values.highest(),
            condition.spread, condition.noise,
            condition.drift_per_minute
                ? (condition.drifts() ? fmt::format("{:+.3g}", *condition.drift_per_minute)
                                      : std::string("none"))
                : std::string("-"),
            column.bits > 0 ? fmt::format("  {:<7}{}", rough_share(condition.at_low_end),
                                          rough_share(condition.at_high_end))
                            : std::string()));
}

void print_separation(Page& page, const ColumnSurvey& column, const Separation& part,
                      double per_second) {
    const std::string low = name_of(column.conditions[part.low]);
    const std::string high = name_of(column.conditions[part.high]);
    page.line(page.bold(fmt::format("  Between {} and {}", low, high)));
    if (!part.apart) {
        page.line(page.warning(
            fmt::format("    they cannot be told apart: even at the best threshold {} of "
                        "{} samples would be misjudged",
                        count_to_text(part.misjudged), count_to_text(part.judged))));
        return;
    }
    page.line(fmt::format("    threshold   above {:.6g} it is {}; it lets go at {:.6g}: hysteresis "
                          "{:.4g}{}",
                          part.threshold, high, part.release, part.hysteresis(),
                          column.bits > 0 ? " counts" : ""));
    page.line(fmt::format("    misjudged   {} of {} samples; {}", count_to_text(part.misjudged),
                          count_to_text(part.judged),
                          part.misjudged == 0
                              ? fmt::format("that is fewer than {} with 95 % confidence",
                                            rough_share(part.share_at_most()))
                              : fmt::format("{} of them, at most {} with 95 % confidence",
                                            rough_share(static_cast<double>(part.misjudged) /
                                                        static_cast<double>(part.judged)),
                                            rough_share(part.share_at_most()))));
    page.line(fmt::format("    replayed    these samples, in their order, make it {} {}", high,
                          how_often(part.switched)));
    if (per_second > 0)
        page.line(fmt::format("    chatter     should it stay right at the threshold: needless "
                              "switchings a day {}, without hysteresis {}",
                              about(part.switchings), about(part.switchings_without)));
}

Status survey(const SurveyOptions& options, Page& page) {
    Complaints complaints(options.file);
    const bench::SurveyResult result =
        bench::survey_file(options.file, options.bits, std::ref(complaints));
    if (!options.figure.empty())
        rig::check_output(options.figure);
    complaints.finish();
    const std::string file_name = std::filesystem::path(options.file).filename().string();
    bool wanting = complaints.any();
    for (const ColumnSurvey& column : result.columns)
        wanting = wanting || (column.conditions.size() > 1 && !column.is_parted());
    if (options.rig) {
        const std::string fragment = bench::rig_fragment(result, options.file);
        if (fragment.empty())
            page.line(page.warning("No fragment: no column has conditions that can be told apart; "
                                   "without --rig the survey says why"));
        else
            page.line(fragment);
    } else {
        page.line(page.bold(fmt::format(
            "{}: {} {}{}", file_name, count_to_text(result.rows), result.rows == 1 ? "row" : "rows",
            result.samples_per_second > 0
                ? fmt::format(", {:.4g} a second", result.samples_per_second)
                : ", without a time")));
        for (const ColumnSurvey& column : result.columns) {
            page.line();
            page.line(page.bold(fmt::format(
                "{}{}", column.column.name,
                column.bits > 0 ? fmt::format(", codes of a {}-bit converter", column.bits)
                : column.column.unit.empty() ? std::string()
                                             : ", " + column.column.unit)));
            print_conditions(page, column);
            page.line(fmt::format(
                "  {}: {}",
                column.nature.kind == Nature::Kind::unknown ? "two values or many, that cannot be "
                                                              "told"
                : column.nature.kind == Nature::Kind::two_valued
                    ? (column.nature.sure ? "two values, surely" : "two values, probably")
                    : (column.nature.sure ? "many values, surely" : "many values, probably"),
                column.nature.reason));
            for (const Separation& part : column.separations)
                print_separation(page, column, part, result.samples_per_second);
        }
    }
    for (const std::string& warning : result.warnings)
        message(fmt::format("{}: {}", file_name, warning));
    for (const ColumnSurvey& column : result.columns)
        for (const std::string& warning : column.warnings) {
            message(fmt::format("{}: {}: {}", file_name, column.column.name, warning));
            wanting = true;
        }
    page.finish();
    if (!options.figure.empty())
        bench::draw_survey(options.figure, result, file_name);
    return wanting ? found_wanting : done;
}

} // namespace

void add_survey(Command& app, Chosen& chosen) {
    auto options = std::make_shared<SurveyOptions>();
    Command* command = app.add_subcommand(
        "survey", "Tell what raw readings look like under each condition: noise, drift, two values "
                  "or many,\nand where a threshold belongs between two conditions.\n"
                  "Example: zorilla survey light.csv --figure light.png");
    command
        ->add_option("FILE", options->file,
                     "The samples: CSV with a header such as \"time (s),light (code),condition\", "
                     "as zorilla capture writes it.")
        ->required();
    command
        ->add_option("--bits", options->bits,
                     "The converter's bits. Without it, the fewest that all codes fit in, at "
                     "least 10.")
        ->between(8, 16);
    command
        ->add_option("--figure", options->figure,
                     "Draw how the values of each condition are distributed here.")
        ->type_name("FILE.png|.svg");
    command->add_flag("--rig", options->rig,
                      "Print only a fragment of a rig file: the sensor and its thresholds.");
    command->callback(
        [options, &chosen] { chosen = [options](Page& page) { return survey(*options, page); }; });
}

} // namespace zorilla::cli
