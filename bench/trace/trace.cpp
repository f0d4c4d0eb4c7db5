// SPDX-License-Identifier: MIT
#include "bench/trace/trace.hpp"

#include "bench/row_check.hpp"
#include "rig/text/text.hpp"

#include <fast_float/fast_float.h>
#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <cmath>
#include <cstring>
#include <utility>

namespace zorilla::bench {

namespace {

/// Whether a number of milliseconds can be told apart from its neighbours; not so for a NaN.
bool is_time(double milliseconds) { return std::fabs(milliseconds) < 9e15; }

/// Rounded to the nearest, halves away from zero.
int64_t to_milliseconds(double exact) {
    const auto whole = static_cast<int64_t>(exact);
    const double rest = exact - static_cast<double>(whole);
    return rest >= 0.5 ? whole + 1 : rest <= -0.5 ? whole - 1 : whole;
}

} // namespace

TraceReader::TraceReader(const std::string& path, std::vector<WantedColumn> wanted,
                         Complaint complain)
    : records_(path), complain_(std::move(complain)), raws_(wanted.size()) {
    read_header(wanted);
}

void TraceReader::bad(std::string text) {
    ++bad_lines_;
    complain_(line_, text);
    std::fill(raws_.begin(), raws_.end(), rig::Raw());
}

bool TraceReader::take_field(const Column& column, std::string_view field, const char*& after) {
    // Blanks around a number are no harm, though they belong to the field.
    std::string_view inner = field.substr(0, std::min(field.find(','), field.size()));
    after = inner.data() + inner.size();
    while (!inner.empty() && (inner.front() == ' ' || inner.front() == '\t'))
        inner.remove_prefix(1);
    while (!inner.empty() && (inner.back() == ' ' || inner.back() == '\t'))
        inner.remove_suffix(1);
    if (column.role == Column::Role::raw)
        return take_raw(column.holds, inner, raws_[column.index], problem_);
    double value = 0;
    const auto parsed = fast_float::from_chars(inner.data(), inner.data() + inner.size(), value);
    if (parsed.ec != std::errc() || parsed.ptr != inner.data() + inner.size()) {
        problem_ = fmt::format("\"{}\" is not a number", shown(inner));
        return false;
    }
    const double scaled = value * time_scale_;
    if (!is_time(scaled)) {
        problem_ = fmt::format("\"{}\" is not a time", shown(inner));
        return false;
    }
    row_milliseconds_ = to_milliseconds(scaled) + offset_;
    return true;
}

/// Takes the next row if it is as plain as nearly all are: just numbers and commas, codes and times
/// as they should be. Otherwise nothing has happened, and the row is to be read with care.
[[gnu::flatten]] bool TraceReader::quick_row() {
    const char* at = records_.ready();
    const char* const end = records_.ready_end();
    if (at >= end || held_)
        return false;
    int64_t time = milliseconds_;
    const auto whole_scale = static_cast<int64_t>(time_scale_);
    const Column* const last = columns_.data() + columns_.size() - 1;
    for (const Column* column = columns_.data();; ++column) {
        if (column->role == Column::Role::raw) {
            rig::Raw& raw = raws_[column->index];
            uint64_t bits = 0;
            if (ends_field(*at)) {
                raw = rig::Raw();
            } else if (column->holds.kind == rig::RawKind::frame) {
                const char* const after = end_of_frame(at, end, bits);
                if (after == at)
                    return false;
                at = after;
                raw = rig::Raw(static_cast<int64_t>(bits));
            } else if (quick_whole(at, bits) &&
                       static_cast<double>(static_cast<int64_t>(bits)) <= column->holds.largest) {
                raw = rig::Raw(static_cast<int64_t>(bits));
            } else {
                return false;
            }
        } else if (column->role == Column::Role::check) {
            std::string_view row(records_.ready(), static_cast<size_t>(at - records_.ready()) + 4);
            if (end - at < 4 || !take_check(row, *check_, row))
                return false;
            at += 4;
        } else if (uint64_t whole = 0;
                   column->role == Column::Role::time && quick_whole(at, whole)) {
            time = static_cast<int64_t>(whole) * whole_scale + offset_;
        } else {
            double value = 0;
            if (!quick_number(at, value))
                return false;
            if (column->role == Column::Role::time) {
                const double scaled = value * time_scale_;
                if (!is_time(scaled))
                    return false;
                time = to_milliseconds(scaled) + offset_;
            }
        }
        if (column == last)
            break;
        if (*at++ != ',')
            return false;
    }
    if (*at == '\r')
        ++at;
    if (*at != '\n' || (rows_ > 0 && !is_usual(time)))
        return false;
    step_ = time - milliseconds_;
    milliseconds_ = time;
    records_.took_line(at + 1);
    ++rows_;
    return true;
}

bool TraceReader::follows(int64_t time) const {
    return time >= milliseconds_ && time - milliseconds_ <= longest_pause;
}

/// Whether a time needs no second look: a pause of an hour, or of a thousand steps, may be a digit
/// that went wrong.
bool TraceReader::is_usual(int64_t time) const {
    return follows(time) &&
           (time - milliseconds_ <= 3'600'000 || time - milliseconds_ <= 1000 * step_);
}

bool TraceReader::parse_row(std::string_view text) {
    const char* at = text.data();
    const char* const end = at + text.size();
    bool sound = true;
    row_milliseconds_ = INT64_MIN;
    std::string_view row;
    if (check_ && !take_check(text, *check_, row)) {
        problem_ = "it was damaged on the way: its check is wrong";
        return false;
    }
    for (size_t i = 0; i < columns_.size(); ++i) {
        if (i > 0) {
            if (at == end) {
                problem_ = fmt::format("{} fields where the header has {}", i, columns_.size());
                return false;
            }
            ++at;
        }
        const std::string_view rest(at, static_cast<size_t>(end - at));
        if (columns_[i].role >= Column::Role::check || !sound) {
            at += std::min(rest.find(','), rest.size());
        } else if (!take_field(columns_[i], rest, at)) {
            sound = false;
            at += std::min(std::string_view(at, static_cast<size_t>(end - at)).find(','),
                           static_cast<size_t>(end - at));
        }
    }
    if (at != end) {
        problem_ = fmt::format("more fields than the {} of the header", columns_.size());
        return false;
    }
    return sound;
}

bool TraceReader::parse_quoted_row(std::string_view text) {
    std::vector<std::string> fields;
    row_milliseconds_ = INT64_MIN;
    if (check_) {
        problem_ = "no device puts its rows into quotes";
        return false;
    }
    if (!split_record(text, fields)) {
        problem_ = "a quote is not where it may be";
        return false;
    }
    // Without their quotes the fields of a trace hold numbers; a comma in one makes it no number.
    if (fields.size() != columns_.size()) {
        problem_ = fmt::format("{} fields where the header has {}", fields.size(), columns_.size());
        return false;
    }
    for (size_t i = 0; i < fields.size(); ++i) {
        const char* after = nullptr;
        if (columns_[i].role >= Column::Role::check)
            continue;
        if (!take_field(columns_[i], fields[i], after))
            return false;
        if (after != fields[i].data() + fields[i].size()) {
            problem_ = fmt::format("\"{}\" is not a number", shown(fields[i]));
            return false;
        }
    }
    return true;
}

/// What a device sends besides its rows: answers, and its header when it begins anew.
bool TraceReader::is_between_rows(std::string_view line) const {
    return check_ && (is_answer(line) || is_header(line));
}

bool TraceReader::next_record(CsvRecords::Record& record) {
    if (!records_.next(record))
        return false;
    line_ = records_.line();
    return true;
}

bool TraceReader::parse(const CsvRecords::Record& record) {
    row_milliseconds_ = INT64_MIN;
    if (record.too_long)
        problem_ = fmt::format("the line is longer than {} characters",
                               rig::count_to_text(CsvRecords::longest_line));
    else if (std::memchr(record.text.data(), '"', record.text.size()) != nullptr)
        return parse_quoted_row(record.text);
    else
        return parse_row(record.text);
    return false;
}

std::optional<int64_t> TraceReader::time_ahead() {
    CsvRecords::Record record;
    const uint64_t line = line_;
    const int64_t here = row_milliseconds_;
    const std::string problem = problem_;
    const std::vector<rig::Raw> raws = raws_;
    std::optional<int64_t> out;
    held_is_headed_ = false;
    while (next_record(record)) {
        if ((record.text.empty() && !record.too_long) || is_between_rows(record.text)) {
            held_is_headed_ = held_is_headed_ || is_header(record.text);
            continue;
        }
        held_ = std::string(record.text);
        held_is_too_long_ = record.too_long;
        held_line_ = line_;
        parse(record);
        if (row_milliseconds_ != INT64_MIN)
            out = row_milliseconds_;
        break;
    }
    line_ = line;
    row_milliseconds_ = here;
    problem_ = problem;
    raws_ = raws;
    return out;
}

/// Where a clock begins anew, its times follow what was before.
void TraceReader::go_on_from_before() {
    const int64_t step = std::max<int64_t>(step_, 1);
    offset_ += milliseconds_ + step - row_milliseconds_;
    milliseconds_ += step;
}

/// Gives a row its time. \return  false if there is nothing to place it at
bool TraceReader::place(bool sound) {
    const bool has_time = row_milliseconds_ != INT64_MIN;
    const bool first = rows_ == 0;
    if (!sound)
        bad(problem_ + "; its samples count as missing");
    if (!has_time)
        return !first;
    anew_ = sound && std::exchange(headed_, false) && !first &&
            is_first_pass(row_milliseconds_ - offset_, header_milliseconds_);
    if (anew_) {
        go_on_from_before();
        return true;
    }
    if (first || is_usual(row_milliseconds_)) {
        step_ = first ? 0 : row_milliseconds_ - milliseconds_;
        milliseconds_ = row_milliseconds_;
        return true;
    }
    const auto ahead = time_ahead();
    // Alone out of order: the row behind it would have followed without it.
    const bool alone =
        !ahead ||
        (follows(*ahead) && (*ahead < row_milliseconds_ || row_milliseconds_ < milliseconds_));
    if (follows(row_milliseconds_) && (!ahead || !alone)) {
        step_ = row_milliseconds_ - milliseconds_;
        milliseconds_ = row_milliseconds_;
        return true;
    }
    const bool back = row_milliseconds_ < milliseconds_;
    const std::string from = rig::time_to_text(milliseconds_);
    const std::string to = rig::time_to_text(row_milliseconds_);
    const std::string how =
        fmt::format("the time {} from {} to {}", back ? "goes back" : "jumps", from, to);
    if (alone) {
        if (sound)
            bad(how +
                ", and the next line goes on from before; this line's samples count as missing");
        return true;
    }
    complain_(line_,
              fmt::format("{}; the clock has begun anew, and from here on its times go on from {}",
                          how, from));
    ++bad_lines_;
    go_on_from_before();
    return true;
}

bool TraceReader::next_with_care() {
    CsvRecords::Record record;
    std::string text;
    while (true) {
        if (held_) {
            text = std::move(*held_);
            held_.reset();
            record = {text, held_is_too_long_};
            line_ = held_line_;
            headed_ = headed_ || held_is_headed_;
        } else if (!next_record(record)) {
            return false;
        }
        if ((record.text.empty() && !record.too_long) || is_between_rows(record.text)) {
            headed_ = headed_ || is_header(record.text);
            continue;
        }
        if (!place(parse(record)))
            continue; // nothing to place it at
        ++rows_;
        return true;
    }
}

} // namespace zorilla::bench
