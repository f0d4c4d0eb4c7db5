// SPDX-License-Identifier: MIT
/// \file
/// From pairs of a raw and a true value to the coefficients of a curve, by least squares that a
/// mistyped pair cannot spoil.
#pragma once

#include "rig/text/text.hpp"

#include <cstdint>
#include <functional>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace zorilla::bench {

enum class FitModel {
    beta,           ///< 1/T = 1/T0 + ln(R / R0) / B
    steinhart_hart, ///< 1/T = A + B ln R + C (ln R)^3 (J. S. Steinhart, S. R. Hart, 1968)
    power,          ///< value = E0 (R / R0)^(-1 / gamma)
    linear,         ///< value = offset + gain raw
    table,          ///< straight lines between knots
};

/// One pair, and where it stands in its file.
struct FitPoint {
    uint64_t line = 0;
    double raw = 0;
    double truth = 0; ///< in the unit in which its kind is shown
};

/// The pairs of a file.
struct FitData {
    std::string file;
    std::string raw_name;
    std::string raw_unit; ///< "code", "ohm", or that of the true values
    rig::Kind kind = rig::Kind::temperature;
    std::string date; ///< the latest in the file; empty if it has none
    std::vector<FitPoint> points;
    bool medians = false; ///< whether each point is the median of a condition
};

/// Reads pairs: a CSV file with a column of raw values, such as "raw (code)", and one of true ones,
/// such as "true (degC)"; or a capture whose conditions are the true values, such as "21.5 degC".
/// A column "date" is kept.
/// \param raw, truth  the columns' names, where they cannot be told by their units; may be empty
/// \throws rig::InputError  naming file and line
FitData read_fit_data(const std::string& path, std::string_view raw, std::string_view truth);

/// How the raw value comes about.
struct FitTask {
    FitModel model = FitModel::beta;
    FitData data;
    int bits = 10;
    std::optional<double> pull;     ///< ohms of the divider's resistor
    bool sensor_to_ground = true;   ///< the resistor goes to the supply then
    double supply_share = 1;        ///< the divider's supply over the converter's reference
    std::vector<double> knots;      ///< raw values at which the lines of a table meet
    size_t knot_count = 6;          ///< of a table, where they are not given
    std::optional<double> from, to; ///< the range of interest, in true values
    double anchor = 10;             ///< of a power law: the value that its resistance is told at
};

struct Coefficient {
    std::string name;
    double value = 0;
    double error = 0; ///< standard error, widened where it is known from few points only, so that
                      ///< twice of it holds in 95 % of cases; NaN if there is no point to spare
    std::string unit;
};

struct FittedPoint {
    FitPoint point;
    double fitted = 0;
    double residual = 0; ///< truth less fitted; of a power law, as a share of the fitted value
    double weight = 1;   ///< 0 if it was left out
    bool outlier = false;
};

struct FitResult {
    std::vector<Coefficient> coefficients;
    std::vector<FittedPoint> points;
    double deviation = 0;      ///< of a single pair from the curve; like a residual
    size_t worst = 0;          ///< the point with the largest residual that is no outlier
    std::vector<double> knots; ///< of a table
    double from = 0, to = 0;   ///< the range: the one that was asked for, or that of the points
    bool rises = false;        ///< whether the value rises with the raw one
    double uncertainty_from = 0, uncertainty_to = 0, uncertainty_inside = 0; ///< like a residual
    std::vector<std::string> warnings;

    std::function<double(double raw)> value;       ///< the curve
    std::function<double(double raw)> uncertainty; ///< standard error of the curve there
    double least_raw = 0, most_raw = 0;            ///< of the points

    bool relative = false; ///< whether residuals are shares
};

/// \throws rig::InputError  if the pairs cannot be those of such a sensor
FitResult fit(const FitTask& task);

/// How many coefficients a model has.
size_t coefficient_count(const FitTask& task);

/// A fragment of a rig file, and a constant in C++; both say where they come from.
std::string rig_fragment(const FitTask& task, const FitResult& result);
std::string cpp_constant(const FitTask& task, const FitResult& result);

/// The pairs, the curve, and below the residuals. \throws rig::InputError
void draw_fit(const std::string& path, const FitTask& task, const FitResult& result,
              const std::string& title);

/// A residual for a person: "0.12 K", "3.4 %".
std::string residual_text(const FitTask& task, double residual);
/// A true value: "21.5 degC".
std::string truth_text(const FitTask& task, double value);

} // namespace zorilla::bench
