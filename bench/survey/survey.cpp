// SPDX-License-Identifier: MIT
#include "bench/survey/survey.hpp"

#include "bench/ahead.hpp"
#include "bench/survey/separate.hpp"
#include "rig/rig_file.hpp"
#include "rig/text/files.hpp"
#include "rig/text/text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <future>

namespace zorilla::bench {

using rig::count_to_text;

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

/// The mean of each stretch of samples, as many stretches as fit; then they become twice as long.
class Survey::Blocks {
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

void Survey::add(const SampleReader::Row& row, size_t columns) {
    const size_t condition = row.condition;
    if (condition >= cells_.size()) {
        cells_.resize(condition + 1);
        cells_[condition].resize(columns);
    }
    const double now = row.milliseconds;
    const bool same = condition == condition_;
    if (same && now >= milliseconds_)
        steps_.add(now - milliseconds_);
    else if (same)
        ++backwards_;
    const bool goes_on = same && now >= milliseconds_;
    const double minutes = now / 60'000;
    auto& cells = cells_[condition];
    for (size_t i = 0; i < columns; ++i) {
        if (std::isnan(row.values[i]))
            continue;
        const bool is_new = !cells[i];
        if (is_new)
            cells[i] = std::make_unique<Cell>();
        cells[i]->add(row.values[i], minutes, goes_on && !is_new);
    }
    condition_ = condition;
    milliseconds_ = now;
    ++rows_;
}

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

namespace {

/// What a threshold makes of the samples of two conditions, in their order.
class JudgedPoint {
  public:
    struct Found {
        uint64_t switched = 0, misjudged = 0;
        Truth truth = Truth::no;
    };

    /// \param low, high  conditions, as numbers  \param on_either  it may have been yes before
    JudgedPoint(const ThresholdSpec<rig::AnyQuantity>& spec, size_t low, size_t high,
                bool on_either)
        : spec_(spec), low_(low), high_(high), either_(on_either) {
        yes_.state.decide(spec_, rig::AnyReading::of_bounded(
                                     rig::AnyQuantity::from_thousandths(detail::largest_int32)));
        yes_.found.truth = Truth::yes;
    }
    void add(const rig::AnyReading& reading, size_t condition) {
        go_on(no_, reading, condition);
        if (!either_)
            return;
        go_on(yes_, reading, condition);
        if (yes_.found.truth != no_.found.truth)
            return;
        // From here on both are one, and only by how much they differ is kept.
        either_ = false;
        yes_.found.switched -= no_.found.switched;
        yes_.found.misjudged -= no_.found.misjudged;
    }
    Found found(Truth before) const {
        if (before != Truth::yes)
            return no_.found;
        if (either_)
            return yes_.found;
        return {no_.found.switched + yes_.found.switched,
                no_.found.misjudged + yes_.found.misjudged, no_.found.truth};
    }

  private:
    struct From {
        ThresholdState state{};
        Found found{};
    };
    void go_on(From& from, const rig::AnyReading& reading, size_t condition) const {
        const Truth is = from.state.decide(spec_, reading);
        from.found.switched += is == Truth::yes && from.found.truth != Truth::yes;
        from.found.truth = is;
        from.found.misjudged += condition == (is == Truth::yes ? low_ : high_);
    }

    ThresholdSpec<rig::AnyQuantity> spec_;
    size_t low_, high_;
    bool either_;
    From no_{}, yes_{}; ///< what they were before
};

/// The points of one column.
struct JudgedColumn {
    size_t place; ///< in a row
    std::vector<JudgedPoint> points;
};

rig::AnyQuantity value_of(double value) {
    const double exact = std::clamp(value * 1000, -2147483647.0, 2147483647.0);
    const auto whole = static_cast<int32_t>(exact);
    const double rest = exact - whole; // halves go away from zero
    return rig::AnyQuantity::from_thousandths(whole + (rest >= 0.5) - (rest <= -0.5));
}

/// The points of a survey beside a part of its rows. \param first  of them, in the file
std::vector<JudgedColumn> judged(const SurveyResult& survey, const SampleReader& read,
                                 const SampleReader::Mark& first, uint64_t rows) {
    SampleReader reader(read.path(), [](uint64_t, const std::string&) {});
    if (first.rows != 0)
        reader.go_on(first, read);
    std::vector<JudgedColumn> out;
    for (const ColumnSurvey& column : survey.columns) {
        const auto found = std::find_if(
            reader.columns().begin(), reader.columns().end(),
            [&column](const SampleColumn& other) { return other.name == column.column.name; });
        out.push_back({static_cast<size_t>(found - reader.columns().begin()), {}});
        for (const Separation& part : column.separations)
            out.back().points.emplace_back(ThresholdSpec<rig::AnyQuantity>{Side::above,
                                                                           value_of(part.threshold),
                                                                           value_of(part.release)},
                                           column.conditions[part.low].condition,
                                           column.conditions[part.high].condition, first.rows != 0);
    }
    for (; rows > 0 && reader.next(); --rows) {
        const SampleReader::Row row = reader.row();
        for (JudgedColumn& column : out) {
            const double value = row.values[column.place];
            if (std::isnan(value))
                continue;
            const auto reading = rig::AnyReading::of_bounded(value_of(value));
            for (JudgedPoint& point : column.points)
                point.add(reading, row.condition);
        }
    }
    return out;
}

/// Judges every sample once more, in its order, at the very points: as the rig will. Two halves of
/// a long file at once.
void judge(SurveyResult& survey, const SampleReader& read) {
    // Of one condition there is nothing to be told apart from another.
    if (std::all_of(survey.columns.begin(), survey.columns.end(),
                    [](const ColumnSurvey& column) { return column.separations.empty(); }))
        return;
    const SampleReader::Mark middle = read.middle();
    std::future<std::vector<JudgedColumn>> other;
    if (middle.rows != 0)
        other = std::async(std::launch::async,
                           [&] { return judged(survey, read, middle, UINT64_MAX); });
    const auto begun = judged(survey, read, {}, middle.rows != 0 ? middle.rows : UINT64_MAX);
    const auto ended = middle.rows != 0 ? other.get() : std::vector<JudgedColumn>();
    for (size_t c = 0; c < begun.size(); ++c)
        for (size_t i = 0; i < begun[c].points.size(); ++i) {
            JudgedPoint::Found all = begun[c].points[i].found(Truth::no);
            if (middle.rows != 0) {
                const JudgedPoint::Found rest = ended[c].points[i].found(all.truth);
                all.switched += rest.switched;
                all.misjudged += rest.misjudged;
            }
            survey.columns[c].separations[i].switched = all.switched;
            survey.columns[c].separations[i].misjudged = all.misjudged;
        }
    for (ColumnSurvey& column : survey.columns)
        for (Separation& part : column.separations)
            part.apart = part.apart && static_cast<double>(part.misjudged) <=
                                           0.05 * static_cast<double>(part.judged);
}

} // namespace

SurveyResult survey_file(const std::string& path, int bits,
                         const SampleReader::Complaint& complain) {
    SampleReader reader(path, complain);
    Survey survey(bits);
    const size_t columns = reader.width();
    for (RowsAhead rows(reader); rows.next();)
        survey.add(rows.row(), columns);
    SurveyResult out = survey.finish(reader);
    if (out.rows == 0)
        throw rig::InputError(fmt::format("{}: there is no row after the header", path));
    judge(out, reader);
    for (ColumnSurvey& column : out.columns)
        warn(column);
    for (const std::string& name : reader.left_out())
        out.warnings.push_back(
            fmt::format("the column \"{}\" is left out: it holds no numbers", name));
    return out;
}

} // namespace zorilla::bench
