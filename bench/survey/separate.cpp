// SPDX-License-Identifier: MIT
// Two values or many, and where a threshold belongs.
#include "bench/survey/separate.hpp"

#include "rig/text/text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace zorilla::bench {

namespace {

using rig::count_to_text;

/// The share of a normal distribution that lies more than so many deviations above its middle.
double tail(double deviations) { return 0.5 * std::erfc(deviations / std::sqrt(2.0)); }

/// How many deviations leave such a share above them.
double deviations_for(double share) {
    double low = 0, high = 40;
    for (int i = 0; i < 80; ++i) {
        const double middle = (low + high) / 2;
        (tail(middle) > share ? low : high) = middle;
    }
    return high;
}

std::string percent(double share) {
    return share == 0     ? "0 %"
           : share < 1e-6 ? "less than 0.0001 %"
           : share < 0.01 ? fmt::format("{:.2g} %", 100 * share)
                          : fmt::format("{:.1f} %", 100 * share);
}

constexpr double seconds_a_day = 86'400;

} // namespace

/// Parts values in two where the variance between both sides is greatest (N. Otsu, 1979), and
/// looks at what lies between them.
struct Halves {
    double low = 0, high = 0;               ///< the middle of each
    double low_spread = 0, high_spread = 0; ///< deviations
    uint64_t between = 0;                   ///< values clear of both
};

Halves halves_of(const Histogram& all) {
    double sum = 0;
    all.each([&](double value, uint64_t n) { sum += value * static_cast<double>(n); });
    const auto total = static_cast<double>(all.count());
    double below = 0, below_sum = 0, best = -1, bound = 0, last = 0;
    all.each([&](double value, uint64_t n) {
        if (below > 0) {
            const double difference = below_sum / below - (sum - below_sum) / (total - below);
            const double between = below * (total - below) * difference * difference;
            if (between > best) {
                best = between;
                bound = (last + value) / 2;
            }
        }
        below += static_cast<double>(n);
        below_sum += value * static_cast<double>(n);
        last = value;
    });
    Histogram low, high;
    all.each([&](double value, uint64_t n) { (value < bound ? low : high).add(value, n); });
    Halves out;
    out.low = low.median();
    out.high = high.median();
    out.low_spread = low.deviation();
    out.high_spread = high.deviation();
    const double gap = out.high - out.low;
    out.between = all.between(out.low + gap / 8, out.high - gap / 8);
    return out;
}

Nature nature_of(const ColumnSurvey& column) {
    Histogram all;
    for (const ConditionSurvey& condition : column.conditions)
        all.add(condition.values);
    if (all.distinct() == 1)
        return {
            Nature::Kind::unknown, false,
            fmt::format("all samples are {:.6g}; capture something that changes", all.lowest())};
    const Halves halves = halves_of(all);
    const double gap = halves.high - halves.low;
    const double share = static_cast<double>(halves.between) / static_cast<double>(all.count());
    const std::string of_all =
        fmt::format("{} of {} samples lie between {:.6g} and {:.6g}", count_to_text(halves.between),
                    count_to_text(all.count()), halves.low + gap / 8, halves.high - gap / 8);
    const bool tight = halves.low_spread < gap / 16 && halves.high_spread < gap / 16;
    if (!tight || share >= 0.01)
        return {Nature::Kind::continuous, all.count() >= 100, of_all};
    const double full = column.full_scale();
    const bool at_ends = full > 0 && halves.low < full / 16 && halves.high > full * 15 / 16;
    bool jumps = false; // while nothing is changed, from one to the other
    for (const ConditionSurvey& condition : column.conditions) {
        const auto n = static_cast<double>(condition.count());
        const auto above =
            static_cast<double>(condition.values.above((halves.low + halves.high) / 2));
        jumps = jumps || (above > 0.02 * n && above < 0.98 * n && n >= 50);
    }
    if (at_ends && !jumps)
        return {Nature::Kind::two_valued, false,
                of_all +
                    "; but a part of many values that reaches both ends of the converter looks the "
                    "same: move it slowly from one to the other, and capture that too"};
    if (all.distinct() == 2 || jumps)
        return {Nature::Kind::two_valued, all.count() >= 100 && jumps, of_all};
    return {Nature::Kind::continuous, false,
            of_all + ", but both are away from the converter's ends; capture a slow change between "
                     "them to be sure"};
}

/// Puts both points on values that can be read, within the converter and, where they leave room,
/// between the samples of both conditions.
void place(Separation& out, const ConditionSurvey& low, const ConditionSurvey& high,
           double hysteresis, double width, double full) {
    const double step = std::max(width, 0.001); // the finest that a rig file tells
    const auto on_step = [step](double value) { return std::round(value / step) * step; };
    double release = on_step(out.centre - hysteresis / 2);
    double threshold = release + on_step(hysteresis);
    const double highest_low = low.values.highest(), lowest_high = high.values.lowest();
    if (lowest_high - highest_low >= 3 * step) {
        threshold = std::min(threshold, lowest_high - step);
        release = std::min(std::max(release, highest_low + step), threshold - step);
        threshold = std::max(threshold, release + step);
    } else if (lowest_high > highest_low) {
        // No room for both: the threshold at least is between them.
        threshold = std::min(threshold, lowest_high - step);
        release = std::min(release, threshold - step);
    }
    if (full > 0) {
        threshold = std::clamp(threshold, 1.0, full - 1);
        release = std::clamp(release, 0.0, threshold - 1);
    }
    out.threshold = threshold;
    out.release = release;
}

/// Where the fewest samples are misjudged; of several such places, where both conditions are as
/// many of their own deviations away.
Separation separate(const ColumnSurvey& column, size_t low_index, double per_second) {
    const ConditionSurvey& low = column.conditions[low_index];
    const ConditionSurvey& high = column.conditions[low_index + 1];
    Separation out;
    out.low = low_index;
    out.high = low_index + 1;
    const double width = std::max(low.values.width(), high.values.width());
    const double low_spread = std::max({low.spread, low.noise, width / 2});
    const double high_spread = std::max({high.spread, high.noise, width / 2});
    const double even =
        (low.median() * high_spread + high.median() * low_spread) / (low_spread + high_spread);

    const auto low_count = static_cast<double>(low.count());
    const auto high_count = static_cast<double>(high.count());
    const auto cost = [&](double at) {
        return static_cast<double>(low.values.above(at)) / low_count +
               static_cast<double>(high.values.below(at)) / high_count;
    };
    const double from = std::floor(low.median() / width) * width + width / 2;
    double best = cost(even);
    double begin = even, end = even;
    // Only where a value lies can the cost change; a walk over both histograms would be exact too,
    // but two hundred places in between are as good.
    const double step = std::max(width, std::ceil((high.median() - from) / 200 / width) * width);
    for (double at = from; at < high.median(); at += step) {
        const double here = cost(at);
        if (here < best - 1e-12) {
            best = here;
            begin = end = at;
        } else if (here <= best + 1e-12) {
            begin = std::min(begin, at);
            end = std::max(end, at);
        }
    }
    out.centre = std::clamp(even, begin, end);
    out.judged = low.count() + high.count();
    out.expected_share = (tail((out.centre - low.median()) / low_spread) +
                          tail((high.median() - out.centre) / high_spread)) /
                         2;

    // A value that stays right between both points switches whenever the noise reaches the far
    // one: with normal noise, independent from sample to sample, tail(h / 2 sigma) of them.
    const double noise = std::max({low.noise, high.noise, width * 0.29});
    const double a_day = (per_second > 0 ? per_second : 1) * seconds_a_day;
    double hysteresis = 2 * noise * deviations_for(1 / std::max(a_day, 2.5));
    hysteresis = std::max(std::ceil(hysteresis / width), 2.0) * width;
    place(out, low, high, hysteresis, width, column.full_scale());
    hysteresis = out.hysteresis();
    out.switchings = a_day * tail(hysteresis / 2 / noise);
    out.switchings_without = a_day / 2;
    out.fits = out.threshold + 3 * high_spread < high.median() &&
               out.release - 3 * low_spread > low.median();
    out.apart = high.median() - low.median() >= 2 * std::max({low.spread, high.spread, width / 2});
    return out;
}

std::string name_of(const ConditionSurvey& condition) {
    return condition.name.empty() ? "all" : condition.name;
}

void warn(ColumnSurvey& column) {
    const double full = column.full_scale();
    const auto add = [&column](std::string text) { column.warnings.push_back(std::move(text)); };
    bool all_still = true;
    for (const ConditionSurvey& condition : column.conditions) {
        all_still = all_still && condition.stands_still();
        if (column.nature.kind != Nature::Kind::two_valued &&
            condition.at_low_end + condition.at_high_end > 0.01)
            add(fmt::format(
                "under \"{}\" {} of the samples are at an end of the converter ({}): "
                "what lies beyond is lost; see zorilla size divider",
                name_of(condition), percent(condition.at_low_end + condition.at_high_end),
                condition.at_low_end > condition.at_high_end ? "0" : fmt::format("{:.0f}", full)));
        if (condition.drifts())
            add(fmt::format("under \"{}\" it drifts by {:+.2g} in {:.2g} min: wait until it has "
                            "settled, and capture again",
                            name_of(condition), *condition.drift_per_minute * condition.minutes,
                            condition.minutes));
    }
    const bool many = column.conditions.size() > 1;
    if (all_still && column.conditions.front().count() >= 20) {
        const bool same = column.conditions.front().median() == column.conditions.back().median();
        if (same)
            add(fmt::format("it stands at {:.6g}{}: the sensor is stuck, or is not connected to "
                            "this pin",
                            column.conditions.front().median(),
                            many ? " under every condition" : ""));
        else if (column.nature.kind != Nature::Kind::two_valued)
            add("not one digit moves within a condition; a real part wanders by a count or so");
    }
    if (!many) {
        add("only one condition: a threshold needs two. Capture another one into the same file, "
            "such as zorilla capture PORT --condition \"lamp on\" --out FILE --append");
        return;
    }
    const double span = column.conditions.back().median() - column.conditions.front().median();
    if (full > 0 && span < full / 8 && span > 0)
        add(fmt::format(
            "all of it happens within {:.0f} of {:.0f} counts: another resistor spreads "
            "it wider; see zorilla size divider",
            span, full + 1));
    for (const Separation& part : column.separations) {
        const ConditionSurvey& low = column.conditions[part.low];
        const ConditionSurvey& high = column.conditions[part.high];
        const std::string pair = fmt::format("\"{}\" and \"{}\"", name_of(low), name_of(high));
        const double reach = 4 * std::max(low.noise, high.noise);
        if (!part.apart)
            add(fmt::format("{} cannot be told apart: their medians are {:.3g} apart, their spread "
                            "is {:.2g}",
                            pair, high.median() - low.median(), std::max(low.spread, high.spread)));
        else if (!part.fits)
            add(fmt::format("between {} there is no room for the hysteresis that the noise needs; "
                            "take the median of several samples or smooth them, then survey again",
                            pair));
        if (full > 0 && column.nature.kind != Nature::Kind::two_valued &&
            (part.release < std::max(reach, 4.0) || part.threshold > full - std::max(reach, 4.0)))
            add(fmt::format("the threshold between {} lies within the noise of an end of the "
                            "converter's range; see zorilla size divider",
                            pair));
    }
}

} // namespace zorilla::bench
