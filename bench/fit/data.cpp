// SPDX-License-Identifier: MIT
// Pairs of raw and true values from a file.
#include "bench/fit/fit.hpp"
#include "bench/histogram.hpp"
#include "bench/samples.hpp"
#include "rig/text/files.hpp"

#include <fast_float/fast_float.h>
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <filesystem>

namespace zorilla::bench {

namespace {

using rig::InputError;
using rig::Kind;

constexpr const char* example = "raw (code),true (degC)";

/// No calibration has more pairs; each is printed with what it is off by.
constexpr size_t most_pairs = 10'000;
[[noreturn]] void refuse_more_pairs(const std::string& file, uint64_t line) {
    throw InputError(
        fmt::format("{}:{}: more than {} pairs; a curve is well known from some dozen. "
                    "Keep one of every hundred rows, or the median of each true value",
                    file, line, most_pairs));
}

/// How many ohms are in a unit of resistance; 0 for any other unit.
double ohms_in(std::string_view unit) {
    return unit == "ohm" ? 1 : unit == "kohm" ? 1e3 : unit == "Mohm" ? 1e6 : 0;
}

bool is_quantity(std::string_view unit, Kind& kind) {
    return !unit.empty() && rig::kind_of(fmt::format("1 {}", unit), kind);
}

/// The unit behind a number, such as "degC" of "21.5 degC".
std::string_view unit_of_cell(std::string_view cell) {
    const size_t at = std::min(cell.find_first_not_of("+-0123456789."), cell.size());
    return without_blanks(cell.substr(at));
}

class PairReader {
  public:
    PairReader(const std::string& path, std::string_view raw, std::string_view truth)
        : records_(path), wanted_raw_(raw), wanted_truth_(truth) {
        out_.file = rig::one_line(std::filesystem::path(path).filename().string());
    }

    /// False if the file has no true values, but conditions that may be some.
    bool read() {
        find_columns(records_.header(example));
        if (!raw_)
            throw InputError(
                fmt::format("{}:1: no column of raw values; name it with its unit, such as \"{}\"",
                            out_.file, example));
        if (!truth_ && has_condition_)
            return false;
        if (!truth_)
            throw InputError(
                fmt::format("{}:1: no column of true values; name it with its unit, such as \"{}\"",
                            out_.file, example));
        CsvRecords::Record record;
        std::vector<std::string> cells;
        while (records_.next(record)) {
            if (without_blanks(record.text).empty() && !record.too_long)
                continue;
            if (record.too_long || !split_record(record.text, cells) || cells.size() != columns_)
                refuse(fmt::format("{} where the header has {}",
                                   cells.size() == 1 ? "one field"
                                                     : fmt::format("{} fields", cells.size()),
                                   columns_));
            if (date_)
                out_.date = std::max(out_.date, rig::one_line(without_blanks(cells[*date_])));
            const std::string_view raw = without_blanks(cells[*raw_]);
            const std::string_view truth = without_blanks(cells[*truth_]);
            if (raw.empty() && truth.empty())
                continue;
            if (out_.points.size() == most_pairs)
                refuse_more_pairs(out_.file, records_.line());
            FitPoint point;
            point.line = records_.line();
            point.raw = raw_value(raw);
            point.truth = true_value(truth);
            out_.points.push_back(point);
        }
        if (out_.points.empty())
            throw InputError(fmt::format("{}: there is no row after the header", out_.file));
        return true;
    }
    FitData& data() { return out_; }

  private:
    [[noreturn]] void refuse(const std::string& text) const {
        throw InputError(fmt::format("{}:{}: {}", out_.file, records_.line(), text));
    }

    void find_columns(const std::vector<std::string>& header) {
        columns_ = header.size();
        for (size_t i = 0; i < header.size(); ++i) {
            const auto [name, unit, has_unit] = parse_column_name(header[i]);
            Kind kind{};
            if (name == "time")
                continue;
            if (name == "condition") {
                has_condition_ = true;
            } else if (name == "date") {
                date_ = i;
            } else if (name == wanted_raw_ ||
                       (wanted_raw_.empty() && name != wanted_truth_ &&
                        (name == "raw" || unit == "code" || ohms_in(unit) > 0))) {
                take_column(raw_, i, "raw");
                out_.raw_name = std::string(name);
                raw_scale_ = ohms_in(unit);
                out_.raw_unit = raw_scale_ > 0 ? "ohm" : std::string(unit);
                if (unit.empty())
                    throw InputError(fmt::format("{}:1: what is \"{}\" in? Name the unit, such as "
                                                 "\"{} (code)\" or \"{} (ohm)\"",
                                                 out_.file, name, name, name));
                if (raw_scale_ == 0)
                    raw_scale_ = 1;
            } else if (name == wanted_truth_ || (wanted_truth_.empty() && name != wanted_raw_ &&
                                                 (name == "true" || is_quantity(unit, kind)))) {
                take_column(truth_, i, "true");
                truth_unit_ = std::string(unit);
                if (has_unit && !is_quantity(unit, out_.kind))
                    throw InputError(fmt::format("{}:1: there is no unit \"{}\"; write for example "
                                                 "\"{} (degC)\"",
                                                 out_.file, shown(unit), name));
            }
        }
    }
    void take_column(std::optional<size_t>& column, size_t i, const char* what) {
        if (column)
            throw InputError(fmt::format("{}:1: columns {} and {} both look like {} values; choose "
                                         "one with --{} NAME",
                                         out_.file, *column + 1, i + 1, what, what));
        column = i;
    }

    double raw_value(std::string_view cell) const {
        double value = 0;
        const auto parsed = fast_float::from_chars(cell.data(), cell.data() + cell.size(), value);
        if (parsed.ec != std::errc() || parsed.ptr != cell.data() + cell.size() ||
            !std::isfinite(value))
            refuse(fmt::format("\"{}\" is not a number; the raw value of a pair is one, in {}",
                               shown(cell), out_.raw_unit));
        if (out_.raw_unit == "ohm" && value <= 0)
            refuse(fmt::format("a resistance of {} cannot be; it must be above 0", shown(cell)));
        return value * raw_scale_;
    }

    double true_value(std::string_view cell) {
        const std::string_view own = unit_of_cell(cell);
        if (truth_unit_.empty()) {
            if (own.empty() || !is_quantity(own, out_.kind))
                refuse(fmt::format("\"{}\" has no unit; name it in the header, such as \"true "
                                   "(degC)\", or behind each value",
                                   shown(cell)));
            truth_unit_ = std::string(own);
        }
        if (!own.empty() && own != truth_unit_)
            refuse(fmt::format("\"{}\" is in {}, but the values above are in {}; use one unit for "
                               "all of them",
                               shown(cell), shown(own), truth_unit_));
        const rig::QuantityText value = rig::parse_quantity(
            own.empty() ? fmt::format("{} {}", cell, truth_unit_) : std::string(cell), out_.kind,
            rig::example_of(out_.kind));
        if (!value.problem.empty())
            refuse(value.problem);
        return value.thousandths / 1000.0;
    }

    CsvRecords records_;
    std::string wanted_raw_, wanted_truth_;
    FitData out_;
    size_t columns_ = 0;
    std::optional<size_t> raw_, truth_, date_;
    bool has_condition_ = false;
    double raw_scale_ = 1;
    std::string truth_unit_;
};

/// The median of each condition of a capture, the conditions being the true values.
void read_medians(const std::string& path, FitData& out) {
    SampleReader reader(path, [](uint64_t, const std::string&) {});
    size_t column = 0;
    while (reader.columns()[column].name != out.raw_name)
        ++column;
    std::vector<Histogram> values;
    std::vector<uint64_t> lines;
    while (reader.next()) {
        const size_t condition = reader.row().condition;
        if (condition >= values.size()) {
            if (values.size() == most_pairs)
                refuse_more_pairs(out.file, reader.line());
            values.resize(condition + 1);
            lines.resize(condition + 1, reader.line());
        }
        const double value = reader.row().values[column];
        if (!std::isnan(value))
            values[condition].add(value);
    }
    out.medians = true;
    std::string unit;
    for (size_t i = 0; i < values.size(); ++i) {
        const std::string& name = reader.conditions()[i];
        const std::string_view own = unit_of_cell(name);
        const auto place = fmt::format("{}:{}", out.file, lines[i]);
        if (unit.empty() && is_quantity(own, out.kind))
            unit = std::string(own);
        if (unit.empty() || own.empty())
            throw InputError(fmt::format(
                "{}: the condition \"{}\" is no true value with its unit; to fit a capture, name "
                "its conditions by what is true there, such as --condition \"21.5 degC\"",
                place, shown(name)));
        if (own != unit)
            throw InputError(
                fmt::format("{}: the condition \"{}\" is in {}, but the ones above are "
                            "in {}; use one unit for all of them",
                            place, shown(name), shown(own), unit));
        const rig::QuantityText truth =
            rig::parse_quantity(name, out.kind, rig::example_of(out.kind));
        if (!truth.problem.empty())
            throw InputError(fmt::format("{}: {}", place, truth.problem));
        if (values[i].count() > 0)
            out.points.push_back({lines[i], values[i].median(), truth.thousandths / 1000.0});
    }
    if (out.points.empty())
        throw InputError(fmt::format("{}: there is no row after the header", out.file));
}

} // namespace

FitData read_fit_data(const std::string& path, std::string_view raw, std::string_view truth) {
    PairReader pairs(path, raw, truth);
    if (!pairs.read())
        read_medians(path, pairs.data());
    return std::move(pairs.data());
}

} // namespace zorilla::bench
