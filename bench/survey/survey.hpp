// SPDX-License-Identifier: MIT
/// \file
/// What a set of raw readings looks like: noise, drift, whether it has two values or many, and
/// where a threshold belongs between two conditions.
#pragma once

#include "bench/histogram.hpp"
#include "bench/samples.hpp"

#include <cstdint>
#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace zorilla::bench {

/// One column under one condition.
struct ConditionSurvey {
    std::string name; ///< of the condition; "" where the file has none
    size_t condition = 0;
    Histogram values;
    double spread = 0; ///< deviation over all its time, robust
    double noise = 0;  ///< deviation from one sample to the next, robust: drift does not count
    std::optional<double> drift_per_minute; ///< known if it has a time, and lasts long enough
    double minutes = 0;                     ///< how long it lasted
    double at_low_end = 0, at_high_end = 0; ///< share of samples at the converter's ends

    uint64_t count() const { return values.count(); }
    double median() const { return values.median(); }
    /// Not one digit has moved.
    bool stands_still() const { return values.lowest() == values.highest(); }
    /// Whether it moves by more than its noise while it should hold still.
    bool drifts() const;
};

/// Whether a column has two values or many.
struct Nature {
    enum class Kind { unknown, two_valued, continuous } kind = Kind::unknown;
    bool sure = false;
    std::string reason; ///< a clause that begins after a colon
};

/// Where to part two conditions.
struct Separation {
    size_t low = 0, high = 0; ///< the conditions, as places in the column's list
    double centre = 0;
    double threshold = 0;          ///< above this it becomes yes
    double release = 0;            ///< below this it lets go again
    uint64_t misjudged = 0;        ///< samples of both that are judged wrongly at these very points
    uint64_t judged = 0;           ///< of so many
    uint64_t switched = 0;         ///< how often all samples, as they were taken, make it yes
    double expected_share = 0;     ///< of misjudged ones, if the noise is normal
    double switchings = 0;         ///< needless ones a day at the very threshold, at most
    double switchings_without = 0; ///< the same without hysteresis
    bool fits = false;             ///< whether the conditions leave room for the hysteresis
    bool apart = false;            ///< whether they can be told apart at all

    double hysteresis() const { return threshold - release; }
    /// The share of misjudged samples that it is below, with 95 % confidence.
    double share_at_most() const;
};

struct ColumnSurvey {
    SampleColumn column;
    int bits = 0;                            ///< of the converter; 0 if it holds no codes
    std::vector<ConditionSurvey> conditions; ///< from low to high
    Nature nature;
    std::vector<Separation> separations; ///< of neighbours
    std::vector<std::string> warnings;

    bool is_parted() const; ///< whether all of its conditions can be told apart
    double full_scale() const { return bits == 0 ? 0 : static_cast<double>((1 << bits) - 1); }
};

struct SurveyResult {
    std::vector<ColumnSurvey> columns;
    uint64_t rows = 0;
    double samples_per_second = 0;     ///< 0 if the file has no time
    std::vector<std::string> warnings; ///< about the file as a whole
};

/// Takes samples one after the other, then judges them.
class Survey {
  public:
    /// \param bits  of the converter; 0 to take the least that all codes fit in
    explicit Survey(int bits = 0);
    ~Survey();
    Survey(const Survey&) = delete;
    Survey& operator=(const Survey&) = delete;

    /// \param columns  how many values it has
    void add(const SampleReader::Row& row, size_t columns);
    /// Judges what has been taken. \throws rig::InputError  if a code is beyond the converter
    SurveyResult finish(const SampleReader& reader) const;

  private:
    class Blocks;
    class Cell;

    int bits_;
    std::vector<std::vector<std::unique_ptr<Cell>>> cells_; ///< by condition, then column
    Histogram steps_;                                       ///< of the time, in milliseconds
    uint64_t rows_ = 0;
    size_t condition_ = SIZE_MAX;
    double milliseconds_ = 0;
    uint64_t backwards_ = 0;
};

/// Surveys a whole file. \param complain  is told of each line that is not understood
SurveyResult survey_file(const std::string& path, int bits,
                         const SampleReader::Complaint& complain);

/// The survey as a fragment of a rig file: a sensor and a decision for each column with two
/// conditions. \param path  where the samples came from
std::string rig_fragment(const SurveyResult& survey, const std::string& path);

/// How the values of each condition are distributed, with threshold and hysteresis.
/// \throws rig::InputError  if it cannot be drawn
void draw_survey(const std::string& path, const SurveyResult& survey, const std::string& title);

} // namespace zorilla::bench
