// SPDX-License-Identifier: MIT
/// \file
/// Traces: recorded raw samples as CSV (RFC 4180), read row by row in bounded memory.
#pragma once

#include "bench/csv.hpp"
#include "bench/trace/field.hpp"
#include "rig/model/raw.hpp"

#include <cstdint>
#include <functional>
#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

namespace zorilla::bench {

/// A column of the trace that somebody wants.
struct WantedColumn {
    std::string name;
    FieldKind holds; ///< what a device says that an output is need not be there
};

/// Reads a trace whose first line names its columns with their units, such as
/// `time (s),roost (code)`. Units of time: ms, s, min, h. What a sensor delivered is a whole
/// number, or ten hexadecimal digits for a frame; an empty field means that no sample was taken,
/// the word `none` that a sensor was asked and did not answer. Where the last column is the check
/// of what a device has sent, a row whose check is wrong is not understood.
///
/// A line that cannot be understood is reported, and its samples count as not taken; its time is
/// that of the line before if the time itself is what is wrong. A time that is alone out of order
/// is the wrong one; where those behind it go on from there, the clock has begun anew, and goes on.
/// Of a device's own rows its header tells that it was off: then this is no fault of the file.
class TraceReader {
  public:
    /// Called with the line number and what is wrong with it.
    using Complaint = std::function<void(uint64_t line, const std::string& text)>;

    /// \throws rig::InputError  if the file cannot be read, or has no header, no column of time, or
    ///     none of the wanted columns
    TraceReader(const std::string& path, std::vector<WantedColumn> wanted, Complaint complain);

    /// Goes to the next row; false at the end. \throws rig::InputError  if reading fails
    bool next() {
        anew_ = false;
        return quick_row() || next_with_care();
    }

    using Value = rig::Raw;
    struct Head {
        int64_t milliseconds = 0; ///< never goes backwards
        bool begins_anew = false; ///< the device was off before it
    };
    struct Row : Head {
        const rig::Raw* values = nullptr; ///< in the order of the wanted columns
    };
    Row row() const { return {{milliseconds_, anew_}, raws_.data()}; }
    void put_head(Head& head) const { head = {milliseconds_, anew_}; }
    size_t width() const { return raws_.size(); }
    int64_t milliseconds() const { return milliseconds_; }
    /// Whether the device has begun anew with this row: its header stands before it.
    bool begins_anew() const { return anew_; }
    const rig::Raw* raws() const { return raws_.data(); }
    const std::string& path() const { return records_.path(); }
    /// \return  who was told before
    Complaint set_complaint(Complaint complain) {
        return std::exchange(complain_, std::move(complain));
    }

    /// Wanted columns that the file does not have.
    const std::vector<std::string>& absent() const { return absent_; }
    /// Whether it tells what the device's outputs were.
    bool has_outputs() const { return has_outputs_; }
    /// Columns of the file that nobody wanted.
    const std::vector<std::string>& unused() const { return unused_; }
    uint64_t rows() const { return rows_; }
    uint64_t bad_lines() const { return bad_lines_; }

    /// The longest pause that a replay can bridge, in milliseconds: what a device's clock can tell.
    static constexpr int64_t longest_pause = int64_t{24} * 24 * 3'600'000;

  private:
    struct Column {
        enum class Role { time, raw, check, unused } role = Role::unused;
        size_t index = 0;
        FieldKind holds{};
    };

    void read_header(const std::vector<WantedColumn>& wanted);
    void add_column(std::string_view field, const std::vector<WantedColumn>& wanted);
    bool quick_row();
    bool next_with_care();
    bool parse_row(std::string_view text);
    bool parse_quoted_row(std::string_view text);
    bool take_field(const Column& column, std::string_view field, const char*& after);
    bool follows(int64_t time) const;
    bool is_usual(int64_t time) const;
    bool is_between_rows(std::string_view line) const;
    bool next_record(CsvRecords::Record& record);
    bool parse(const CsvRecords::Record& record);
    /// The time of the row behind this one; nothing if there is none that can be understood.
    std::optional<int64_t> time_ahead();
    bool place(bool sound);
    void go_on_from_before();
    void bad(std::string text);

    CsvRecords records_;
    Complaint complain_;

    std::vector<Column> columns_;
    std::optional<uint16_t> check_; ///< what the checks of its rows begin with, if it has any
    double time_scale_ = 0;         ///< milliseconds in one unit of the file's time
    std::vector<std::string> absent_;
    std::vector<std::string> unused_;
    bool has_outputs_ = false;

    uint64_t rows_ = 0;
    uint64_t bad_lines_ = 0;
    int64_t milliseconds_ = 0;
    int64_t row_milliseconds_ = 0;
    int64_t step_ = 0;                ///< the last one between two rows
    int64_t offset_ = 0;              ///< added to all times, since the clock has begun anew
    std::optional<std::string> held_; ///< a record that was looked at already
    bool held_is_too_long_ = false;
    bool held_is_headed_ = false;
    bool headed_ = false; ///< the device has sent its header since the last row
    bool anew_ = false;
    int64_t header_milliseconds_ = 0; ///< the most that it takes on its way
    uint64_t held_line_ = 0;
    uint64_t line_ = 0; ///< of the row
    std::vector<rig::Raw> raws_;
    std::string problem_;
};

} // namespace zorilla::bench
