// SPDX-License-Identifier: MIT
/// \file
/// A capture: what a program prints, taken down line by line with its time and the condition.
#pragma once

#include "bench/printed.hpp"

#include <cstdint>
#include <cstdio>
#include <deque>
#include <map>
#include <string>
#include <string_view>
#include <vector>

namespace zorilla::bench {

/// How a column has been in the present condition, for who looks at it.
struct LiveColumn {
    double now = 0, lowest = 0, highest = 0;
    bool any = false;
    std::deque<double> history; ///< the mean of each second, the newest last
    double sum = 0;             ///< of the second that runs
    uint64_t count = 0;
};

/// Takes bytes as they come, makes rows of them, and writes each into a CSV file that is complete
/// up to the last `flush` whatever happens.
class Capture {
  public:
    struct Options {
        std::string path;
        bool append = false;
        std::string condition;
        std::vector<std::string> names; ///< of columns that come without
        std::map<std::string, std::string>
            units;                   ///< of columns by name, where the lines do not tell
        bool may_begin_torn = false; ///< whether the first line may be the rest of one
        uint64_t most_rows = UINT64_MAX;
    };
    /// Opens the file. \throws rig::InputError  if it is there already and is not to be added to,
    /// or
    ///     cannot be written
    explicit Capture(Options options);
    ~Capture();
    Capture(const Capture&) = delete;
    Capture& operator=(const Capture&) = delete;

    /// Takes what has come. \param milliseconds  since the capture began
    /// \throws rig::InputError  if it cannot be written, or does not fit the file it is added to
    void take(std::string_view bytes, int64_t milliseconds);
    /// The sender is gone: what it left of a line is no line, and what comes next may begin in one.
    void interrupted();
    /// The sender has ended: what it left is the last line.
    void ended(int64_t milliseconds);
    void set_condition(std::string name);
    /// Settles on columns with what has come, however little that is.
    void settle() {
        if (!agreed_)
            agree();
    }
    /// Hands all rows to the system. \throws rig::InputError
    void flush();

    const std::string& condition() const { return options_.condition; }
    bool full() const { return rows_ >= options_.most_rows; }
    uint64_t rows() const { return rows_; }
    /// How often a device has answered to a command ("ok", "no: ..."), and what last.
    uint64_t answers() const { return answers_; }
    const std::string& answer() const { return answer_; }
    uint64_t nonsense() const { return nonsense_; }
    /// The last line that was not understood, and why; empty if there was none.
    const std::string& last_problem() const { return last_problem_; }
    bool first_was_torn() const { return first_was_torn_; }
    const std::vector<SampleColumn>& columns() const { return lines_.columns(); }
    const std::vector<LiveColumn>& live() const { return live_; }
    /// Rows in the last whole second.
    uint64_t rate() const { return rate_; }
    /// How long the rows of this capture span, by the device's clock if it has one.
    double span_milliseconds() const { return last_time_ - first_time_; }
    bool has_device_clock() const { return device_clock_; }
    /// How often that clock has begun anew in between.
    uint64_t begun_anew() const { return begun_anew_; }

    static constexpr size_t longest_line = 4096;
    static constexpr size_t history_seconds = 120;

  private:
    void take_line(std::string_view line, int64_t milliseconds);
    void wait_for_agreement(std::string_view line, int64_t milliseconds);
    void find_check(size_t enough);
    void agree();
    void take_settled(std::string_view line, int64_t milliseconds);
    void begin_file();
    void read_end_of_file();
    void write_row(double milliseconds);
    void look_at(int64_t milliseconds);

    Options options_;
    std::FILE* file_ = nullptr;
    std::string header_; ///< of a file that is added to
    double offset_ = 0;  ///< added to all times, in milliseconds
    std::string text_;   ///< rows not yet written
    std::string rest_;   ///< the beginning of a line
    bool torn_ = false;  ///< whether `rest_` is, or will be, the end of a line only
    bool skips_ = false; ///< whether a line is too long, and goes on
    bool begun_ = false;
    bool first_was_torn_ = false;
    PrintedLines lines_;
    struct Waiting {
        std::string line;
        int64_t milliseconds;
        std::string shape;
        std::string condition;
    };
    std::vector<Waiting> waiting_; ///< until enough of them agree on the columns
    bool agreed_ = false;
    std::vector<LiveColumn> live_;
    uint64_t rows_ = 0;
    uint64_t nonsense_ = 0, answers_ = 0;
    std::string answer_;
    std::string last_problem_;
    int64_t second_ = 0;
    uint64_t in_second_ = 0;
    uint64_t rate_ = 0;
    bool device_clock_ = false;
    double first_time_ = 0, last_time_ = 0;
    uint64_t begun_anew_ = 0;
    double wrapped_ = 0; ///< what the device's clock lost by starting anew
    double device_time_ = 0;
};

} // namespace zorilla::bench
