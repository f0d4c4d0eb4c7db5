// SPDX-License-Identifier: MIT
/// \file
/// What the steps of a fit hand to each other. Only for bench/fit/ itself.
#pragma once

#include "bench/fit/fit.hpp"
#include "bench/fit/robust.hpp"

#include <string>
#include <vector>

namespace zorilla::bench {

/// ohms of a raw value, in the divider of the task.
double ohms_of(const FitTask& task, double raw);
/// Whether a model goes by the resistance of a sensor.
bool by_resistance(FitModel model);
std::string point_text(const FitTask& task, const FitPoint& point);

/// Refuses what cannot be fitted at all. \throws rig::InputError
void look_at(const FitTask& task);
/// The raw values between which a table is straight.
std::vector<double> knots_of(const FitTask& task);
/// The model as a curve that is linear in its unknowns.
Curve curve_of(const FitTask& task, const std::vector<double>& knots);
/// What a person calls the unknowns.
std::vector<Coefficient> coefficients_of(const FitTask& task, const Solution& solved,
                                         const std::vector<double>& knots);
/// Refuses a result that no such sensor can have. \throws rig::InputError
void look_at_result(const FitTask& task, const FitResult& out);
/// Says what is doubtful about a result.
void warn(const FitTask& task, FitResult& out);

} // namespace zorilla::bench
