// SPDX-License-Identifier: MIT
/// \file
/// How a device was on some days, beside some others.
#pragma once

#include "bench/history/history.hpp"

#include <string>
#include <vector>

namespace zorilla::bench {

/// A span of a history: "before 2026-11-20", "after 2026-11-20", "2026-11-20 to 2026-11-27", or a
/// single day.
struct HistorySpan {
    std::string text;
    Utc from = 0, to = 0;
};
/// \param first, last  of what there is  \throws rig::InputError  with what to type instead
HistorySpan history_span(const std::string& text, Utc first, Utc last);

/// A number a day, over whole days.
struct Daily {
    size_t days = 0;
    double mean = 0;
    double error = 0; ///< of the mean, at 95 %, from how much days differ; NaN of a single one
};
struct DailyDifference {
    Daily a, b;
    double by = 0;    ///< b less a
    double error = 0; ///< at 95 %, by B. L. Welch's approximation (Biometrika 34, 1947); NaN where
                      ///< a side has a single day
};

/// What a part is a day: of its minutes, the mean, or the hours of those whose mean lies outside of
/// a range; of an output, hours on and times switched on.
enum class DailyOf : uint8_t { mean, outside_hours, on_hours, switched };
struct DailyPart {
    std::string part;
    DailyOf what;
    int32_t lowest = 0, highest = 0; ///< of the range, in thousandths
};

/// Only days of which most was seen (at least 20 hours) count.
DailyDifference compare(History& history, int64_t device, const DailyPart& part,
                        const HistorySpan& a, const HistorySpan& b);

} // namespace zorilla::bench
