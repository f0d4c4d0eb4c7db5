// SPDX-License-Identifier: MIT
#include "bench/printed.hpp"

#include "bench/row_check.hpp"
#include "rig/text/text.hpp"

#include <zorilla/board/trace_row.hpp>

#include <fast_float/fast_float.h>
#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace zorilla::bench {

namespace {

bool is_blank(char c) { return c == ' ' || c == '\t'; }
bool is_separator(char c) { return is_blank(c) || c == ',' || c == ';'; }

std::string_view stripped(std::string_view text) {
    while (!text.empty() && (is_blank(text.front()) || text.front() == '\r'))
        text.remove_prefix(1);
    while (!text.empty() && (is_blank(text.back()) || text.back() == '\r'))
        text.remove_suffix(1);
    return text;
}

/// Words that stand for a number that is not there.
bool is_no_number(std::string_view text) {
    return text == "nan" || text == "NaN" || text == "NAN" || text == "none" || text == "inf" ||
           text == "ovf" || text == "-";
}

/// Whether a column is the device's clock; a "t" may be a temperature too, unless its unit tells.
bool is_clock(const std::string& name, const std::string& unit) {
    return name == "time" || name == "millis" || (name == "t" && milliseconds_in(unit) > 0);
}

/// Forty bits as ten hexadecimal digits.
bool may_be_frame(std::string_view text) {
    return text.size() == 10 &&
           text.find_first_not_of("0123456789abcdefABCDEF") == std::string_view::npos;
}
/// That cannot be a number too.
bool is_frame(std::string_view text) {
    return may_be_frame(text) && text.find_first_of("abcdefABCDEF") != std::string_view::npos;
}

/// A unit as a person may write it behind a number; only what is known is kept.
std::string known_unit(std::string_view unit) {
    rig::Kind kind{};
    const bool known =
        unit == "code" || (!unit.empty() && rig::kind_of(fmt::format("1 {}", unit), kind));
    return known ? std::string(unit) : std::string();
}

double value_of(std::string_view text) {
    double value = std::nan("");
    fast_float::from_chars(text.data(), text.data() + text.size(), value);
    return value;
}

} // namespace

/// A value as it stands behind its name: a number, with its unit or without; a frame; a word that
/// means a level; or words that say that there is no number. False for anything else.
bool PrintedLines::take_value(std::string_view text, Token& out) {
    while (!text.empty() && is_separator(text.back()))
        text.remove_suffix(1);
    text = stripped(text);
    const size_t blank = std::min(text.find_first_of(" \t"), text.size());
    const std::string_view first = text.substr(0, blank);
    if (is_frame(first) && blank == text.size()) {
        out.number = first;
        out.unit = "frame";
        return true;
    }
    if (text == "on" || text == "yes" || text == "off" || text == "no") {
        out.number = text == "on" || text == "yes" ? "1" : "0";
        out.unit = "level";
        return true;
    }
    if (text.empty() || is_no_number(text)) {
        out.number = text;
        return true;
    }
    for (int health = 1; health <= static_cast<int>(Health::stuck); ++health)
        if (text == rig::to_text(static_cast<Health>(health))) {
            out.number = "-";
            return true;
        }
    if (is_number(first)) {
        out.number = first;
        out.unit = known_unit(stripped(text.substr(blank)));
        return true;
    }
    // The unit may stand right behind the number, as in 23.5C.
    const size_t digits = std::min(text.find_first_not_of("+-0123456789."), text.size());
    if (!is_number(text.substr(0, digits)) ||
        text.substr(digits).find_first_of("0123456789") != std::string_view::npos)
        return false;
    out.number = text.substr(0, digits);
    out.unit = known_unit(text.substr(digits));
    return true;
}

/// name=value or name: value, over and over; false if the line is not so.
bool PrintedLines::split_named(std::string_view line) {
    tokens_.clear();
    const auto name_before = [line](size_t mark) { // where a name begins
        size_t end = mark;
        while (end > 0 && is_blank(line[end - 1]))
            --end;
        while (end > 0 && !is_separator(line[end - 1]))
            --end;
        return end;
    };
    size_t mark = line.find_first_of("=:");
    if (mark == std::string_view::npos || !stripped(line.substr(0, name_before(mark))).empty())
        return false;
    while (mark != std::string_view::npos) {
        const size_t begin = name_before(mark);
        const std::string_view name = stripped(line.substr(begin, mark - begin));
        if (name.empty() || (name[0] >= '0' && name[0] <= '9'))
            return false;
        const size_t next = line.find_first_of("=:", mark + 1);
        const size_t end = next == std::string_view::npos ? line.size() : name_before(next);
        if (end <= mark)
            return false;
        Token token{std::string(name), {}, {}};
        if (!take_value(line.substr(mark + 1, end - mark - 1), token))
            return false;
        tokens_.push_back(std::move(token));
        mark = next;
    }
    return true;
}

bool PrintedLines::split_plain(std::string_view line) {
    tokens_.clear();
    size_t at = 0;
    const bool commas = line.find_first_of(",;") != std::string_view::npos;
    for (;;) {
        while (at < line.size() && is_blank(line[at]))
            ++at;
        const size_t begin = at;
        while (at < line.size() && !is_separator(line[at]))
            ++at;
        const std::string_view number = line.substr(begin, at - begin);
        if (!number.empty() && !is_number(number) && !is_no_number(number) && !is_frame(number))
            return false;
        if (!number.empty() || commas)
            tokens_.push_back({"", number, ""});
        while (at < line.size() && is_blank(line[at]))
            ++at;
        if (at >= line.size())
            return true;
        if (line[at] == ',' || line[at] == ';')
            ++at;
    }
}

PrintedLines::Kind PrintedLines::take_header(std::string_view line) {
    const bool commas = line.find_first_of(",;\t") != std::string_view::npos;
    const std::string_view ends = commas ? ",;\t" : " ";
    std::vector<SampleColumn> names;
    size_t begin = 0;
    for (size_t at = 0; at <= line.size(); ++at) {
        // A blank before a unit in parentheses does not end a name.
        const bool before_unit = at + 1 < line.size() && line[at] == ' ' && line[at + 1] == '(';
        if (at < line.size() && (ends.find(line[at]) == std::string_view::npos || before_unit))
            continue;
        const std::string_view field = stripped(line.substr(begin, at - begin));
        begin = at + 1;
        if (field.empty())
            continue;
        const auto [name, unit, has_unit] = parse_column_name(field);
        names.push_back({std::string(name), std::string(unit)});
    }
    // Sentences that a program greets with are no names of columns.
    const bool plain = std::all_of(names.begin(), names.end(), [](const SampleColumn& column) {
        return !column.name.empty() && column.name.size() <= 32 &&
               column.name.find_first_of("!?\"") == std::string::npos;
    });
    if (!plain || names.empty()) {
        problem_ = "there is no number in it";
        return Kind::nonsense;
    }
    if (!settled_)
        header_ = std::move(names);
    return Kind::header;
}

/// The first row says what all rows are like.
PrintedLines::Kind PrintedLines::settle() {
    std::vector<SampleColumn> all;
    for (size_t i = 0; i < tokens_.size(); ++i) {
        SampleColumn column{tokens_[i].name, tokens_[i].unit};
        if (!named_ && header_.size() == tokens_.size())
            column = header_[i];
        if (is_frame(tokens_[i].number) && column.unit.empty())
            column.unit = "frame";
        all.push_back(std::move(column));
    }
    size_t nameless = 0;
    for (size_t i = 0; i < all.size(); ++i) {
        SampleColumn& column = all[i];
        if (!time_ && is_clock(column.name, column.unit)) {
            time_ = i;
            time_name_ = tokens_[i].name;
            const double scale = milliseconds_in(column.unit);
            time_scale_ = scale > 0 ? scale : 1;
            continue;
        }
        if (column.name.empty())
            column.name = nameless < wanted_names_.size() ? wanted_names_[nameless]
                          : all.size() == 1               ? std::string("value")
                                                          : fmt::format("value_{}", nameless + 1);
        ++nameless;
        name_apart(column);
        if (const auto known = units_.find(column.name); known != units_.end())
            column.unit = known->second;
        // Whole numbers without a unit are what a converter delivers.
        const double first = value_of(tokens_[i].number);
        if (column.unit.empty() && first >= 0 && first <= 65'535 &&
            tokens_[i].number.find_first_of(".eE") == std::string_view::npos)
            column.unit = "code";
        printed_names_.push_back(tokens_[i].name);
        columns_.push_back(column);
    }
    count_ = tokens_.size();
    if (columns_.empty()) {
        problem_ = "it holds a time and nothing else";
        count_ = 0;
        time_.reset();
        return Kind::nonsense;
    }
    settled_ = true;
    return match();
}

/// A name that no other column has, nor the columns that a capture adds itself.
void PrintedLines::name_apart(SampleColumn& column) const {
    const std::string stem = column.name;
    const auto taken = [this](const std::string& name) {
        return name == "time" || name == "condition" ||
               std::any_of(columns_.begin(), columns_.end(),
                           [&name](const SampleColumn& other) { return other.name == name; });
    };
    for (int i = 2; taken(column.name); ++i)
        column.name = fmt::format("{}_{}", stem, i);
}

std::string PrintedLines::shape_of(std::string_view line) {
    line = stripped(line);
    if (check_ && !take_check(line, *check_, line))
        return "";
    named_ = line.find_first_of("=:") != std::string_view::npos;
    const bool row = named_ ? split_named(line) : split_plain(line) && !tokens_.empty();
    std::string out;
    if (!row)
        return out;
    if (!named_)
        return fmt::format("{} numbers", tokens_.size());
    for (const Token& token : tokens_)
        out += token.name + "=";
    return out;
}

PrintedLines::Kind PrintedLines::match() {
    values_.assign(columns_.size(), {});
    milliseconds_.reset();
    size_t column = 0;
    std::vector<bool> used(columns_.size());
    if (!named_ && tokens_.size() != count_) {
        problem_ = fmt::format("{} {} where the first line had {}", tokens_.size(),
                               tokens_.size() == 1 ? "number" : "numbers", count_);
        return Kind::nonsense;
    }
    for (size_t i = 0; i < tokens_.size(); ++i) {
        const Token& token = tokens_[i];
        const bool is_time = named_ ? time_ && token.name == time_name_ : time_ && i == *time_;
        if (is_time) {
            milliseconds_ = value_of(token.number) * time_scale_;
            continue;
        }
        if (named_) {
            column = 0;
            // Of several of one name, the first that is still free.
            while (column < columns_.size() &&
                   (printed_names_[column] != token.name || used[column]))
                ++column;
            if (column == columns_.size()) {
                problem_ = fmt::format("\"{}\" was not in the first line", shown(token.name));
                return Kind::nonsense;
            }
            used[column] = true;
        }
        if (column >= columns_.size()) {
            problem_ = "more numbers than there are columns";
            return Kind::nonsense;
        }
        const std::string& unit = columns_[column].unit;
        if (unit == "frame" || unit == "us") {
            // That a sensor was asked and did not answer is something else than that it was not
            // asked.
            const bool frame = may_be_frame(token.number) || unit == "us";
            if (token.number == "none" || (frame && !is_no_number(token.number))) {
                values_[column++] = token.number;
                continue;
            }
        }
        const bool fits = !columns_[column].is_code() ||
                          (value_of(token.number) >= 0 && value_of(token.number) <= 65'535);
        if (!token.number.empty() && !is_no_number(token.number)) {
            if (!fits) {
                problem_ = fmt::format("{} is no code of a converter", shown(token.number));
                return Kind::nonsense;
            }
            values_[column] = token.number;
        }
        ++column;
    }
    if (time_ && (!milliseconds_ || !std::isfinite(*milliseconds_))) {
        problem_ = "its time is missing";
        return Kind::nonsense;
    }
    return Kind::row;
}

PrintedLines::Kind PrintedLines::take(std::string_view line) {
    line = stripped(line);
    if (line.empty())
        return Kind::empty;
    const size_t last = line.rfind(',');
    if (last != std::string_view::npos)
        if (const auto number = check_number(stripped(line.substr(last + 1)))) {
            check_ = check_start(*number);
            return take_header(line.substr(0, last));
        }
    if (!check_ || take_check(line, *check_, line))
        return take_plain(line);
    problem_ = "it was damaged on the way: its check is wrong";
    return Kind::nonsense;
}

PrintedLines::Kind PrintedLines::take_plain(std::string_view line) {
    const bool has_digit = line.find_first_of("0123456789") != std::string_view::npos;
    if (settled_ ? !named_ : line.find_first_of("=:") == std::string_view::npos) {
        if (split_plain(line) && !tokens_.empty())
            return settled_ ? match() : settle();
        const bool letters_first = !is_number(line.substr(0, line.find_first_of(" ,;\t(")));
        if (letters_first && (!has_digit || line.find_first_of(",(") != std::string_view::npos))
            return take_header(line);
        problem_ = "it is not a row of numbers";
        return Kind::nonsense;
    }
    if (!split_named(line)) {
        problem_ = "it is not made of NAME=NUMBER or NAME: NUMBER";
        return Kind::nonsense;
    }
    named_ = true;
    return settled_ ? match() : settle();
}

} // namespace zorilla::bench
