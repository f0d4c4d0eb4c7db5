// SPDX-License-Identifier: MIT
#include "bench/history/compare.hpp"

#include "bench/fit/student.hpp"
#include "rig/text/files.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>

namespace zorilla::bench {

namespace {

constexpr Utc day = 86'400'000;

/// Numbers of days, and how much they differ.
struct Sample {
    std::vector<double> days;

    double mean() const {
        double sum = 0;
        for (const double x : days)
            sum += x;
        return days.empty() ? 0 : sum / static_cast<double>(days.size());
    }
    /// Of the mean: variance over number; NaN for less than two.
    double square_error() const {
        const double is = mean(), n = static_cast<double>(days.size());
        double sum = 0;
        for (const double x : days)
            sum += (x - is) * (x - is);
        return days.size() < 2 ? std::numeric_limits<double>::quiet_NaN() : sum / (n - 1) / n;
    }
    double freedom() const { return static_cast<double>(days.size()) - 1; }
};

double error_of(double square, double freedom) {
    return 1.959964 * std::sqrt(square) * widening(freedom);
}

Daily daily(const Sample& sample) {
    return {sample.days.size(), sample.mean(), error_of(sample.square_error(), sample.freedom())};
}

Sample sample_of(History& history, int64_t device, const DailyPart& part, const HistorySpan& span) {
    const Utc from = (span.from + day - 1) / day * day, to = span.to / day * day;
    Sample out;
    if (from >= to)
        return out;
    std::vector<double> outside(static_cast<size_t>((to - from) / day));
    if (part.what == DailyOf::outside_hours) {
        size_t minute = 0;
        for (const MinuteSums& sums : history.sums(device, part.part, from, to, 60'000)) {
            if (sums.known > 0 && (sums.mean() < part.lowest || sums.mean() > part.highest))
                outside[minute / 1440] += static_cast<double>(sums.known);
            ++minute;
        }
    }
    size_t index = 0;
    for (const MinuteSums& sums : history.sums(device, part.part, from, to, day)) {
        const size_t at = index++;
        if (sums.known < day / 24 * 20)
            continue;
        const double whole = static_cast<double>(day) / static_cast<double>(sums.known);
        switch (part.what) {
        case DailyOf::mean: out.days.push_back(sums.mean() / 1000); break;
        case DailyOf::outside_hours: out.days.push_back(outside[at] * whole / 3'600'000); break;
        case DailyOf::on_hours: out.days.push_back(sums.on() * whole / 3'600'000); break;
        case DailyOf::switched:
            out.days.push_back(static_cast<double>(sums.switched) * whole);
            break;
        }
    }
    return out;
}

} // namespace

HistorySpan history_span(const std::string& text, Utc first, Utc last) {
    const auto rest = [&text](size_t from) { return utc_of(text.substr(from)); };
    // Both ends are whole days, so that the last one counts as a whole.
    const Utc begin = first / day * day, end = (last / day + 1) * day;
    if (text.rfind("before ", 0) == 0)
        if (const auto at = rest(7))
            return {text, begin, *at};
    if (text.rfind("after ", 0) == 0)
        if (const auto at = rest(6))
            return {text, *at, end};
    const size_t to = text.find(" to ");
    if (to != std::string::npos) {
        const auto from = utc_of(text.substr(0, to)), until = rest(to + 4);
        if (from && until && *from < *until)
            return {text, *from, *until};
    }
    if (const auto at = utc_of(text))
        return {text, *at, *at + day};
    throw rig::InputError(fmt::format("\"{}\" is no span of time; write \"before 2026-11-20\", "
                                      "\"after 2026-11-20\", \"2026-11-20 "
                                      "to 2026-11-27\" or \"2026-11-20\", in UTC",
                                      text));
}

DailyDifference compare(History& history, int64_t device, const DailyPart& part,
                        const HistorySpan& a, const HistorySpan& b) {
    const Sample first = sample_of(history, device, part, a);
    const Sample second = sample_of(history, device, part, b);
    DailyDifference out{daily(first), daily(second), second.mean() - first.mean(), 0};
    const double one = first.square_error(), two = second.square_error(), both = one + two;
    const double freedom =
        both > 0 ? both * both / (one * one / first.freedom() + two * two / second.freedom()) : 1e9;
    out.error = error_of(both, freedom);
    return out;
}

} // namespace zorilla::bench
