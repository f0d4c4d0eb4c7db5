// SPDX-License-Identifier: MIT
#include "bench/live/receiver.hpp"

#include "bench/csv.hpp"
#include "bench/replay.hpp"
#include "bench/row_check.hpp"
#include "bench/samples.hpp"
#include "rig/emit/device.hpp"

#include <zorilla/board/trace_row.hpp>

#include <fast_float/fast_float.h>
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <utility>

namespace zorilla::bench {

namespace {

constexpr size_t longest_line = 4096;

/// Takes the next field off a row that is not quoted.
std::string_view next_field(std::string_view& row) {
    const size_t end = std::min(row.find(','), row.size());
    const std::string_view out = without_blanks(row.substr(0, end));
    row.remove_prefix(std::min(end + 1, row.size()));
    return out;
}

} // namespace

Receiver::Receiver(const rig::Rig& rig)
    : rig_(rig), header_(rig::header_of(rig)), start_(check_start(rig::number_of(rig))) {
    usual_.push_back({Column::Role::time, 0, {}, 1000});
    for (const WantedColumn& wanted : columns_of(rig))
        usual_.push_back({Column::Role::raw, usual_.size() - 1, wanted.holds});
    columns_ = usual_;
    row_.raws.resize(usual_.size() - 1);
}

std::optional<Receiver::Kind> Receiver::next(std::string_view& bytes) {
    const size_t end = bytes.find('\n');
    const std::string_view here = bytes.substr(0, end);
    bytes.remove_prefix(std::min(here.size() + 1, bytes.size()));
    if (rest_.size() + here.size() > longest_line)
        skips_ = true;
    if (skips_)
        rest_.clear();
    else
        rest_ += here;
    if (end == std::string_view::npos)
        return std::nullopt;
    const std::string line = std::exchange(rest_, {});
    const bool skipped = std::exchange(skips_, false), torn = std::exchange(torn_, false);
    const std::string_view text = without_blanks(line);
    if (text.empty() && !skipped)
        return std::nullopt;
    const Kind out = skipped ? bad("a line without an end; is the speed right?") : take_line(text);
    if (out != Kind::damaged)
        return out;
    if (torn)
        return std::nullopt;
    ++damaged_;
    return out;
}

std::optional<Receiver::Kind> Receiver::finish() {
    std::string_view end = "\n";
    // Who stops listening in the middle of a line has damaged nothing.
    torn_ = torn_ || !skips_;
    return rest_.empty() && !skips_ ? std::nullopt : next(end);
}

void Receiver::begins_anywhere() {
    rest_.clear();
    skips_ = false;
    torn_ = true;
}

Receiver::Kind Receiver::bad(std::string problem) {
    problem_ = std::move(problem);
    return Kind::damaged;
}

Receiver::Kind Receiver::take_line(std::string_view line) {
    if (is_answer(line)) {
        text_ = line;
        return Kind::answer;
    }
    if (is_header(line))
        return take_header(line)
                   ? Kind::header
                   : bad(fmt::format("\"{}\" is not the header of this rig", shown(line)));
    std::string_view row = line;
    if (checked_ && !take_check(line, start_, row)) {
        // Damage is never twice the same; another rig is.
        const auto start = start_of_check(line);
        other_rows_ = start && (other_rows_ == 0 || *start == other_start_) ? other_rows_ + 1
                      : start                                               ? 1
                                                                            : 0;
        other_start_ = start.value_or(0);
        if (other_rows_ >= 3)
            return Kind::foreign;
        return bad(fmt::format("\"{}\" has no check, or a wrong one", shown(line)));
    }
    other_rows_ = 0;
    sure_ = sure_ || checked_;
    if (take_row(row))
        return Kind::row;
    return bad(fmt::format("\"{}\": {}", shown(line), problem_));
}

/// The header of a device is known to the letter. One without a check may only hold columns that
/// are understood, since a damaged one would let everything pass that comes behind it.
bool Receiver::take_header(std::string_view line) {
    if (line == header_) {
        columns_ = usual_;
        checked_ = sure_ = true;
        return true;
    }
    if (sure_)
        return false;
    const std::vector<WantedColumn> wanted = columns_of(rig_);
    std::vector<Column> columns;
    bool timed = false, senses = false;
    while (!line.empty()) {
        const auto [name, unit, has_unit] = parse_column_name(next_field(line));
        Column column;
        if (name == "time" && !timed) {
            column.role = Column::Role::time;
            column.scale = milliseconds_in(unit);
            timed = column.scale > 0;
        } else if (name != "condition") {
            for (size_t i = 0; i < wanted.size(); ++i) {
                const FieldKind& holds = wanted[i].holds;
                if (wanted[i].name == name &&
                    unit == (holds.output ? std::string_view("out") : rig::unit_of(holds.kind)))
                    column = {Column::Role::raw, i, holds};
            }
            if (column.role != Column::Role::raw)
                return false;
            senses = senses || !column.holds.output;
        }
        columns.push_back(column);
    }
    if (!timed || !senses)
        return false;
    columns_ = std::move(columns);
    checked_ = false;
    return true;
}

bool Receiver::take_row(std::string_view row) {
    for (rig::Raw& raw : row_.raws)
        raw = rig::Raw();
    row_.checked = checked_;
    const auto fields = static_cast<size_t>(std::count(row.begin(), row.end(), ',')) + 1;
    if (fields != columns_.size()) {
        problem_ = fmt::format("{} fields where the header has {}", fields, columns_.size());
        return false;
    }
    for (size_t i = 0; i < columns_.size(); ++i) {
        const Column& column = columns_[i];
        const std::string_view field = next_field(row);
        if (column.role == Column::Role::raw) {
            if (!take_raw(column.holds, field, row_.raws[column.index], problem_))
                return false;
        } else if (column.role == Column::Role::time) {
            double value = 0;
            const auto parsed =
                fast_float::from_chars(field.data(), field.data() + field.size(), value);
            if (parsed.ec != std::errc() || parsed.ptr != field.data() + field.size() ||
                !(value * column.scale >= 0 && value * column.scale < 9e15)) {
                problem_ = fmt::format("\"{}\" is not a time", shown(field));
                return false;
            }
            row_.milliseconds = std::llround(value * column.scale);
        }
    }
    return true;
}

} // namespace zorilla::bench
