// SPDX-License-Identifier: MIT
/// \file
/// What a survey makes of its histograms. Only for bench/survey/ itself.
#pragma once

#include "bench/survey/survey.hpp"

namespace zorilla::bench {

/// Whether a column has two values, or many.
Nature nature_of(const ColumnSurvey& column);
/// The best threshold between two conditions.
Separation separate(const ColumnSurvey& column, size_t low_index, double per_second);
/// Says what is doubtful about a column.
void warn(ColumnSurvey& column);
std::string name_of(const ConditionSurvey& condition);

} // namespace zorilla::bench
