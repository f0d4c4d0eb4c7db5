// SPDX-License-Identifier: MIT
/// \file
/// Samples as a capture leaves them: a time, numbers, and the condition under which they were
/// taken, read row by row in bounded memory.
#pragma once

#include "bench/csv.hpp"

#include <cstdint>
#include <functional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

namespace zorilla::bench {

/// A column of numbers.
struct SampleColumn {
    std::string name;
    std::string unit; ///< may be empty
    bool is_code() const { return unit == "code"; }
};

/// Reads a file whose first line names its columns, such as `time (s),light (code),condition`. The
/// columns `time` and `condition` may be missing; a column of frames is left out.
///
/// A field that is no number, or no code where the unit says so, is reported with its line and
/// counts as not taken; an empty one, or the word `none`, just does.
class SampleReader {
  public:
    /// Called with the line number and what is wrong with it.
    using Complaint = std::function<void(uint64_t line, const std::string& text)>;

    /// \throws rig::InputError  if the file cannot be read, has no header, or no column of numbers
    SampleReader(const std::string& path, Complaint complain);

    /// Goes to the next row; false at the end. \throws rig::InputError  if reading fails
    bool next() {
        if (!quick_row() && !next_with_care())
            return false;
        if (++rows_ == next_mark_)
            mark();
        return true;
    }

    /// A place in the file from which one can go on.
    struct Mark {
        uint64_t offset = 0; ///< bytes
        uint64_t rows = 0;   ///< before it
    };
    /// About in the middle of all that was read; of a short file, or a pipe, its beginning.
    Mark middle() const;
    /// Goes on at a mark of another reader of the same file, whose conditions it takes over. The
    /// lines of what it complains of are not known then.
    void go_on(const Mark& from, const SampleReader& other);

    const std::vector<SampleColumn>& columns() const { return columns_; }
    using Value = double;
    struct Head {
        double milliseconds = 0;
        size_t condition = 0; ///< as a number in `conditions`
    };
    struct Row : Head {
        const double* values = nullptr; ///< in the order of the columns; NaN where none was taken
    };
    Row row() const { return {{milliseconds_, condition_}, values_.data()}; }
    /// One by one, since both together cannot be read at once right after they were written.
    void put_head(Head& head) const {
        head.milliseconds = milliseconds_;
        head.condition = condition_;
    }
    size_t width() const { return values_.size(); }
    bool has_time() const { return time_scale_ != 0; }
    const std::string& path() const { return records_.path(); }
    /// \return  who was told before
    Complaint set_complaint(Complaint complain) {
        return std::exchange(complain_, std::move(complain));
    }
    /// The names of the conditions so far; "" where the file has none.
    const std::vector<std::string>& conditions() const { return conditions_; }
    /// Columns that hold no numbers, and are left out.
    const std::vector<std::string>& left_out() const { return left_out_; }
    uint64_t line() const { return records_.line(); }
    uint64_t bad_lines() const { return bad_lines_; }

    /// More conditions than a person can name are a column that means something else.
    static constexpr size_t most_conditions = 64;

  private:
    enum class Role { time, number, condition, left_out };
    struct Field {
        Role role;
        size_t index; ///< of the column
        bool is_code;
    };

    void add_column(std::string_view field);
    bool quick_row();
    bool next_with_care();
    void set_condition(std::string_view name);
    bool is_same_condition(const char* at, const char* end) const;
    void take(const Field& field, std::string_view text);
    void bad(const std::string& text);
    void mark();

    CsvRecords records_;
    Complaint complain_;
    std::vector<Field> fields_;
    std::vector<SampleColumn> columns_;
    std::vector<std::string> left_out_;
    std::vector<std::string> conditions_;
    std::vector<double> values_;
    double time_scale_ = 0;
    double milliseconds_ = 0;
    size_t condition_ = 0;
    /// Its name as two numbers, the first and the last eight characters of it; none where it is
    /// empty, or too long for that.
    struct {
        uint64_t first = 0, mask = 0, last = 0;
        size_t size = 0;
    } name_;
    bool row_is_bad_ = false;
    uint64_t bad_lines_ = 0;
    std::vector<Mark> marks_; ///< at every `mark_every_` rows
    uint64_t mark_every_ = 4096, next_mark_ = 4096, rows_ = 0;
};

} // namespace zorilla::bench
