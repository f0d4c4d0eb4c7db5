// SPDX-License-Identifier: MIT
#include "bench/survey.hpp"

#include "rig/read/file.hpp"
#include "rig/text/files.hpp"
#include "rig/text/text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace zorilla::bench {

namespace {

using rig::count_to_text;

/// The mean of each stretch of samples, as many stretches as fit; then they become twice as long.
class Blocks {
  public:
    void add(double minutes, double value) {
        if (filled_ == 0)
            begin_ = minutes;
        sum_ += value;
        if (++filled_ == size_)
            close(minutes);
    }
    /// The line through the means that most pairs of them agree on: the median of the slopes of
    /// all pairs (H. Theil, 1950; P. K. Sen, 1968). Units for each minute.
    std::optional<double> slope() const {
        std::vector<double> slopes;
        for (size_t i = 0; i < blocks_.size(); ++i)
            for (size_t j = i + 1; j < blocks_.size(); ++j)
                if (blocks_[j].minutes > blocks_[i].minutes)
                    slopes.push_back((blocks_[j].mean - blocks_[i].mean) /
                                     (blocks_[j].minutes - blocks_[i].minutes));
        if (blocks_.size() < 8 || slopes.empty())
            return std::nullopt;
        const auto middle = slopes.begin() + static_cast<ptrdiff_t>(slopes.size() / 2);
        std::nth_element(slopes.begin(), middle, slopes.end());
        return *middle;
    }

  private:
    struct Block {
        double minutes;
        double mean;
    };
    void close(double minutes) {
        blocks_.push_back({(begin_ + minutes) / 2, sum_ / static_cast<double>(filled_)});
        filled_ = 0;
        sum_ = 0;
        if (blocks_.size() < most)
            return;
        for (size_t i = 0; i < most / 2; ++i)
            blocks_[i] = {(blocks_[2 * i].minutes + blocks_[2 * i + 1].minutes) / 2,
                          (blocks_[2 * i].mean + blocks_[2 * i + 1].mean) / 2};
        blocks_.resize(most / 2);
        size_ *= 2;
    }
    static constexpr size_t most = 128;

    std::vector<Block> blocks_;
    uint64_t size_ = 1;
    uint64_t filled_ = 0;
    double begin_ = 0;
    double sum_ = 0;
};

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

double Separation::share_at_most() const {
    // Of n samples none: 1 - 0.05^(1/n), about 3/n. Of some: the normal approximation (E. B.
    // Wilson, 1927), one-sided.
    const auto n = static_cast<double>(judged);
    if (judged == 0)
        return 1;
    if (misjudged == 0)
        return 1 - std::pow(0.05, 1 / n);
    constexpr double z = 1.6449;
    const double share = static_cast<double>(misjudged) / n;
    return (share + z * z / (2 * n) +
            z * std::sqrt(share * (1 - share) / n + z * z / (4 * n * n))) /
           (1 + z * z / n);
}

bool ConditionSurvey::drifts() const {
    const double least = std::max(2 * noise, 2 * values.width());
    return drift_per_minute && std::fabs(*drift_per_minute) * minutes > least;
}

/// What is kept of one column under one condition.
class Survey::Cell {
  public:
    void add(double value, double minutes, bool goes_on) {
        values.add(value);
        blocks.add(minutes, value);
        // Pauses between stretches of one condition are not part of it.
        if (goes_on) {
            changes.add(std::fabs(value - last_));
            length += minutes - last_minutes_;
        }
        last_ = value;
        last_minutes_ = minutes;
    }

    Histogram values;
    Histogram changes; ///< from one sample to the next
    Blocks blocks;
    double length = 0;

  private:
    double last_ = 0;
    double last_minutes_ = 0;
};

Survey::Survey(int bits) : bits_(bits) {}
Survey::~Survey() = default;

Survey::Cell& Survey::cell(size_t column, size_t condition) {
    auto& row = cells_[condition];
    if (!row[column])
        row[column] = std::make_unique<Cell>();
    return *row[column];
}

void Survey::add(const SampleReader& reader) {
    const size_t condition = reader.condition();
    const size_t columns = reader.columns().size();
    if (condition >= cells_.size()) {
        cells_.resize(condition + 1);
        cells_[condition].resize(columns);
    }
    const double now = reader.milliseconds();
    const bool same = condition == condition_;
    if (same && now >= milliseconds_)
        steps_.add(now - milliseconds_);
    else if (same)
        ++backwards_;
    const bool goes_on = same && now >= milliseconds_;
    const double minutes = now / 60'000;
    const double* const values = reader.values();
    for (size_t i = 0; i < columns; ++i)
        if (!std::isnan(values[i]))
            cell(i, condition).add(values[i], minutes, goes_on && cells_[condition][i]);
    condition_ = condition;
    milliseconds_ = now;
    ++rows_;
}

namespace {

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
                    count_to_text(all.count()), halves.low, halves.high);
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

} // namespace

SurveyResult Survey::finish(const SampleReader& reader) const {
    SurveyResult out;
    out.rows = rows_;
    const double step = steps_.count() == 0 ? 0 : steps_.median();
    // Bursts of lines that came at once have steps of 0; their number over their time still holds.
    double total = 0;
    steps_.each([&total](double ms, uint64_t n) { total += ms * static_cast<double>(n); });
    if (reader.has_time() && total > 0)
        out.samples_per_second = static_cast<double>(steps_.count()) * 1000 / total;
    if (reader.has_time() && step > 0) {
        const double longest = std::max(3 * step, step + 50);
        const uint64_t gaps = steps_.above(longest);
        if (gaps > 0)
            out.warnings.push_back(fmt::format(
                "samples are not even: {} of {} steps {} longer than {:.3g} ms, the "
                "longest {}; most are {:.3g} ms",
                count_to_text(gaps), count_to_text(steps_.count()), gaps == 1 ? "is" : "are",
                longest, rig::span_to_text(std::llround(steps_.highest())), step));
    }
    if (backwards_ > 0)
        out.warnings.push_back(fmt::format("the time goes back {} {}: were two captures joined?",
                                           backwards_, backwards_ == 1 ? "time" : "times"));
    for (size_t i = 0; i < reader.columns().size(); ++i) {
        ColumnSurvey column;
        column.column = reader.columns()[i];
        double highest = 0;
        for (size_t c = 0; c < cells_.size(); ++c) {
            if (!cells_[c][i])
                continue;
            const Cell& cell = *cells_[c][i];
            ConditionSurvey condition;
            condition.name = reader.conditions()[c];
            condition.condition = c;
            condition.values = cell.values;
            condition.spread = cell.values.deviation();
            // The change from one sample to the next is wider by the root of two, and half of all
            // changes are less than 0.6745 deviations.
            condition.noise = cell.changes.count() == 0 || condition.stands_still()
                                  ? 0
                                  : std::max(cell.changes.median(), 0.0) / 0.6745 / std::sqrt(2.0);
            condition.minutes = cell.length;
            if (reader.has_time() && cell.length > 0)
                condition.drift_per_minute = cell.blocks.slope();
            highest = std::max(highest, cell.values.highest());
            column.conditions.push_back(std::move(condition));
        }
        if (column.conditions.empty()) {
            out.warnings.push_back(
                fmt::format("the column \"{}\" holds no numbers at all", column.column.name));
            continue;
        }
        if (column.column.is_code()) {
            if (bits_ > 0 && highest >= static_cast<double>(int64_t{1} << bits_))
                throw rig::InputError(
                    fmt::format("{}: \"{}\" holds the code {:.0f}, which a converter of {} bits "
                                "cannot give (its largest is {}); say --bits {}",
                                "survey", column.column.name, highest, bits_, (1 << bits_) - 1,
                                static_cast<int>(std::floor(std::log2(highest))) + 1));
            int bits = bits_ > 0 ? bits_ : 10;
            for (; highest > static_cast<double>((1 << bits) - 1); bits += 2) {
            }
            column.bits = bits;
            for (ConditionSurvey& condition : column.conditions) {
                const auto n = static_cast<double>(condition.count());
                condition.at_low_end = static_cast<double>(condition.values.below(0.5)) / n;
                condition.at_high_end =
                    static_cast<double>(condition.values.above(column.full_scale() - 0.5)) / n;
            }
        }
        std::sort(column.conditions.begin(), column.conditions.end(),
                  [](const ConditionSurvey& a, const ConditionSurvey& b) {
                      return a.median() != b.median() ? a.median() < b.median()
                                                      : a.condition < b.condition;
                  });
        column.nature = nature_of(column);
        for (size_t c = 0; c + 1 < column.conditions.size(); ++c)
            column.separations.push_back(separate(column, c, out.samples_per_second));
        out.columns.push_back(std::move(column));
    }
    return out;
}

bool ColumnSurvey::is_parted() const {
    return !separations.empty() && std::all_of(separations.begin(), separations.end(),
                                               [](const Separation& part) { return part.apart; });
}

/// Judges every sample once more, in its order, at the very points: as the rig will.
static void judge(const std::string& path, SurveyResult& survey) {
    SampleReader reader(path, [](uint64_t, const std::string&) {});
    std::vector<std::vector<ThresholdState>> states;
    for (const ColumnSurvey& column : survey.columns)
        states.emplace_back(column.separations.size());
    const auto value_of = [](double value) {
        return rig::AnyQuantity::from_thousandths(static_cast<int32_t>(
            std::clamp(std::round(value * 1000), -2147483647.0, 2147483647.0)));
    };
    std::vector<std::vector<Truth>> truths;
    for (const ColumnSurvey& column : survey.columns)
        truths.emplace_back(column.separations.size(), Truth::no);
    while (reader.next())
        for (size_t c = 0; c < survey.columns.size(); ++c) {
            ColumnSurvey& column = survey.columns[c];
            const auto at = std::find_if(reader.columns().begin(), reader.columns().end(),
                                         [&column](const SampleColumn& other) {
                                             return other.name == column.column.name;
                                         }) -
                            reader.columns().begin();
            const double value = reader.values()[at];
            for (size_t i = 0; !std::isnan(value) && i < column.separations.size(); ++i) {
                Separation& part = column.separations[i];
                const ThresholdSpec<rig::AnyQuantity> spec{Side::above, value_of(part.threshold),
                                                           value_of(part.release)};
                const Truth is =
                    states[c][i].decide(spec, rig::AnyReading::of_bounded(value_of(value)));
                part.switched += is == Truth::yes && truths[c][i] != Truth::yes;
                truths[c][i] = is;
                const size_t condition = reader.condition();
                part.misjudged +=
                    (is == Truth::yes && condition == column.conditions[part.low].condition) ||
                    (is == Truth::no && condition == column.conditions[part.high].condition);
            }
        }
    for (ColumnSurvey& column : survey.columns)
        for (Separation& part : column.separations)
            part.apart = part.apart && static_cast<double>(part.misjudged) <=
                                           0.05 * static_cast<double>(part.judged);
}

SurveyResult survey_file(const std::string& path, int bits,
                         const SampleReader::Complaint& complain) {
    SampleReader reader(path, complain);
    Survey survey(bits);
    while (reader.next())
        survey.add(reader);
    SurveyResult out = survey.finish(reader);
    if (out.rows == 0)
        throw rig::InputError(fmt::format("{}: there is no row after the header", path));
    judge(path, out);
    for (ColumnSurvey& column : out.columns)
        warn(column);
    for (const std::string& name : reader.left_out())
        out.warnings.push_back(
            fmt::format("the column \"{}\" is left out: it holds no numbers", name));
    return out;
}

} // namespace zorilla::bench
