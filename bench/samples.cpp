// SPDX-License-Identifier: MIT
#include "bench/samples.hpp"

#include "rig/text/files.hpp"
#include "rig/text/text.hpp"

#include <fast_float/fast_float.h>
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <cstring>
#include <filesystem>

namespace zorilla::bench {

namespace {

constexpr const char* example = "time (s),light (code),condition";

constexpr size_t eight = 8;

/// Eight characters.
uint64_t number_of(const char* at) {
    uint64_t out = 0;
    std::memcpy(&out, at, eight);
    return out;
}

bool is_code(double value) {
    return value >= 0 && value <= 65'535 && value == static_cast<double>(static_cast<int>(value));
}

} // namespace

SampleReader::SampleReader(const std::string& path, Complaint complain)
    : records_(path), complain_(std::move(complain)) {
    for (const std::string& field : records_.header(example))
        add_column(field);
    if (columns_.empty())
        records_.refuse(
            1, fmt::format("no column holds numbers; the header must be such as \"{}\"", example));
    values_.assign(columns_.size(), std::nan(""));
    const bool named = std::any_of(fields_.begin(), fields_.end(), [](const Field& field) {
        return field.role == Role::condition;
    });
    if (!named)
        conditions_.emplace_back();
}

void SampleReader::add_column(std::string_view field) {
    const auto [name, unit, has_unit] = parse_column_name(field);
    if (name == "time") {
        if (time_scale_ != 0)
            records_.refuse(1, "two columns are called \"time\"");
        time_scale_ = milliseconds_in(unit);
        if (time_scale_ == 0)
            records_.refuse(1, fmt::format("\"{}\": the time must be in ms, s, min or h; write for "
                                           "example \"time (s)\"",
                                           shown(field)));
        fields_.push_back({Role::time, 0, false});
    } else if (name == "condition") {
        fields_.push_back({Role::condition, 0, false});
    } else if (unit == "frame" || name == "date") {
        left_out_.emplace_back(name);
        fields_.push_back({Role::left_out, 0, false});
    } else {
        if (name.empty())
            records_.refuse(1, "a column has no name");
        for (const SampleColumn& other : columns_)
            if (other.name == name)
                records_.refuse(1, fmt::format("two columns are called \"{}\"", shown(name)));
        columns_.push_back({std::string(name), std::string(unit)});
        fields_.push_back({Role::number, columns_.size() - 1, columns_.back().is_code()});
    }
}

void SampleReader::bad(const std::string& text) {
    if (!row_is_bad_)
        ++bad_lines_;
    row_is_bad_ = true;
    complain_(records_.line(), text);
}

void SampleReader::mark() {
    constexpr size_t most = 64;
    marks_.push_back({records_.offset(), rows_});
    if (marks_.size() == most) {
        mark_every_ *= 2;
        marks_.erase(
            std::remove_if(marks_.begin(), marks_.end(),
                           [this](const Mark& mark) { return mark.rows % mark_every_ != 0; }),
            marks_.end());
    }
    next_mark_ = marks_.back().rows + mark_every_;
}

SampleReader::Mark SampleReader::middle() const {
    Mark out;
    if (!std::filesystem::is_regular_file(path()))
        return out;
    for (const Mark& mark : marks_)
        if (mark.rows <= rows_ / 2)
            out = mark;
    return out;
}

void SampleReader::go_on(const Mark& from, const SampleReader& other) {
    records_.go_to(from.offset);
    rows_ = from.rows;
    conditions_ = other.conditions_; // as they are numbered there
    if (conditions_.size() > 1)
        condition_ = conditions_.size(); // none of them yet
}

void SampleReader::set_condition(std::string_view name) {
    if (condition_ < conditions_.size() && conditions_[condition_] == name)
        return;
    const auto known = std::find(conditions_.begin(), conditions_.end(), name);
    condition_ = static_cast<size_t>(known - conditions_.begin());
    if (known == conditions_.end()) {
        conditions_.emplace_back(name);
        if (conditions_.size() > most_conditions)
            records_.refuse(records_.line(),
                            fmt::format("\"{}\" is condition number {}; the column \"condition\" "
                                        "is to name the few conditions under which samples were "
                                        "taken, such as \"covered\"",
                                        shown(name), conditions_.size()));
    }
    // As `is_same_condition` compares it.
    name_ = {};
    if (name.empty() || name.size() > 2 * eight)
        return;
    char padded[2 * eight] = {};
    std::memcpy(padded, name.data(), name.size());
    char mask[eight] = {};
    std::memset(mask, 0xff, std::min(name.size(), eight));
    name_ = {number_of(padded), number_of(mask),
             name.size() > eight ? number_of(padded + name.size() - eight) : 0, name.size()};
}

/// The condition of the row before stands here again.
inline bool SampleReader::is_same_condition(const char* at, const char* end) const {
    // Behind the end eight characters more can be read.
    if (name_.size == 0 || static_cast<size_t>(end - at) <= name_.size ||
        ((number_of(at) ^ name_.first) & name_.mask) != 0)
        return false;
    if (name_.size > eight && number_of(at + name_.size - eight) != name_.last)
        return false;
    const char behind = at[name_.size];
    return ends_field(behind);
}

/// Takes the next row if it is plain: numbers, commas, and a condition without quotes. Otherwise
/// nothing has happened but to the values.
[[gnu::flatten]] bool SampleReader::quick_row() {
    const char* at = records_.ready();
    const char* const end = records_.ready_end();
    if (at >= end)
        return false;
    double time = milliseconds_;
    const char* name = nullptr;
    size_t name_size = 0;
    const Field* const last = fields_.data() + fields_.size() - 1;
    for (const Field* field = fields_.data();; ++field) {
        if (field->role == Role::number) {
            double& value = values_[field->index];
            if (ends_field(*at))
                value = std::nan("");
            else if (!quick_number(at, value) || (field->is_code && !is_code(value)))
                return false;
        } else if (field->role == Role::time) {
            double value = 0;
            if (!quick_number(at, value))
                return false;
            time = value * time_scale_;
        } else if (field->role == Role::condition && is_same_condition(at, end)) {
            at += name_.size;
        } else {
            const char* const from = at;
            while (at < end && !ends_field(*at) && *at != '"')
                ++at;
            if (field->role == Role::condition) {
                name = from;
                name_size = static_cast<size_t>(at - from);
            }
        }
        if (field == last)
            break;
        if (at >= end || *at++ != ',')
            return false;
    }
    if (at < end && *at == '\r')
        ++at;
    if (at >= end || *at != '\n')
        return false;
    if (name != nullptr && (name_size == 0 || *name == ' ' || name[name_size - 1] == ' '))
        return false;
    records_.took_line(at + 1);
    if (name != nullptr)
        set_condition({name, name_size});
    milliseconds_ = time;
    return true;
}

void SampleReader::take(const Field& field, std::string_view text) {
    text = without_blanks(text);
    switch (field.role) {
    case Role::left_out: return;
    case Role::condition: return set_condition(text);
    case Role::number:
    case Role::time: break;
    }
    double value = std::nan("");
    if (!text.empty() && text != "none") {
        const auto parsed = fast_float::from_chars(text.data(), text.data() + text.size(), value);
        const bool whole = parsed.ec == std::errc() && parsed.ptr == text.data() + text.size() &&
                           std::isfinite(value);
        if (!whole)
            bad(fmt::format("\"{}\" is not a number; it counts as not taken", shown(text)));
        else if (field.is_code && !is_code(value))
            bad(fmt::format("{} is not a code of a converter, a whole number from 0 to 65,535; it "
                            "counts as not taken",
                            shown(text)));
        if (!whole || (field.is_code && !is_code(value)))
            value = std::nan("");
    }
    if (field.role == Role::number)
        values_[field.index] = value;
    else if (!std::isnan(value))
        milliseconds_ = value * time_scale_;
}

bool SampleReader::next_with_care() {
    CsvRecords::Record record;
    std::vector<std::string> texts;
    while (records_.next(record)) {
        row_is_bad_ = false;
        if (record.text.empty() && !record.too_long)
            continue;
        if (record.too_long)
            bad(fmt::format("the line is longer than {} characters; it is skipped",
                            rig::count_to_text(CsvRecords::longest_line)));
        else if (!split_record(record.text, texts))
            bad("a quote is not where it may be; the line is skipped");
        else if (texts.size() != fields_.size())
            bad(fmt::format("{} {} where the header has {}; the line is skipped", texts.size(),
                            texts.size() == 1 ? "field" : "fields", fields_.size()));
        if (row_is_bad_)
            continue;
        for (size_t i = 0; i < fields_.size(); ++i)
            take(fields_[i], texts[i]);
        return true;
    }
    return false;
}

} // namespace zorilla::bench
