// SPDX-License-Identifier: MIT
#include "bench/printed.hpp"

#include "rig/text.hpp"

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

bool is_clock(std::string_view name) { return name == "time" || name == "millis"; }

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

/// name=value or name: value, over and over; false if the line is not so.
bool PrintedLines::split_named(std::string_view line) {
    tokens_.clear();
    size_t at = 0;
    const auto skip = [&](auto what) {
        while (at < line.size() && what(line[at]))
            ++at;
    };
    for (;;) {
        skip(is_separator);
        if (at >= line.size())
            return !tokens_.empty();
        const size_t mark = line.find_first_of("=:", at);
        if (mark == std::string_view::npos) {
            // What stands behind the last number is its unit.
            const std::string_view rest = stripped(line.substr(at));
            if (tokens_.empty() || !tokens_.back().unit.empty() ||
                rest.find_first_of(",;0123456789") != std::string_view::npos)
                return false;
            tokens_.back().unit = known_unit(rest);
            return true;
        }
        std::string_view name = stripped(line.substr(at, mark - at));
        // A word before the name is the unit of the number before.
        const size_t gap = name.find_last_of(" \t,;");
        if (gap != std::string_view::npos && !tokens_.empty()) {
            tokens_.back().unit = known_unit(stripped(name.substr(0, name.find_first_of(" \t,;"))));
            name = name.substr(gap + 1);
        }
        at = mark + 1;
        skip(is_blank);
        const size_t begin = at;
        skip([](char c) { return !is_separator(c); });
        std::string_view number = line.substr(begin, at - begin);
        if (!is_number(number) && !is_no_number(number)) {
            // The unit may stand right behind the number, as in 23.5C.
            const size_t digits =
                std::min(number.find_first_not_of("+-0123456789."), number.size());
            if (name.empty() || !is_number(number.substr(0, digits)))
                return false;
            tokens_.push_back(
                {std::string(name), number.substr(0, digits), known_unit(number.substr(digits))});
            continue;
        }
        if (name.empty())
            return false;
        tokens_.push_back({std::string(name), number, ""});
    }
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
        if (!number.empty() && !is_number(number) && !is_no_number(number))
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
    // Sentences that a sketch greets with are no names of columns.
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
        all.push_back(std::move(column));
    }
    size_t nameless = 0;
    for (size_t i = 0; i < all.size(); ++i) {
        SampleColumn& column = all[i];
        if (!time_ && is_clock(column.name)) {
            time_ = i;
            const double scale = milliseconds_in(column.unit);
            time_scale_ = scale > 0 ? scale : 1;
            continue;
        }
        if (column.name.empty())
            column.name = nameless < wanted_names_.size() ? wanted_names_[nameless]
                          : all.size() == 1               ? std::string("value")
                                                          : fmt::format("value_{}", nameless + 1);
        ++nameless;
        // Whole numbers without a unit are what a converter delivers.
        const double first = value_of(tokens_[i].number);
        if (column.unit.empty() && first >= 0 && first <= 65'535 &&
            tokens_[i].number.find_first_of(".eE") == std::string_view::npos)
            column.unit = "code";
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

PrintedLines::Kind PrintedLines::match() {
    values_.assign(columns_.size(), {});
    milliseconds_.reset();
    size_t column = 0;
    if (!named_ && tokens_.size() != count_) {
        problem_ = fmt::format("{} {} where the first line had {}", tokens_.size(),
                               tokens_.size() == 1 ? "number" : "numbers", count_);
        return Kind::nonsense;
    }
    for (size_t i = 0; i < tokens_.size(); ++i) {
        const Token& token = tokens_[i];
        const bool is_time = named_ ? time_ && is_clock(token.name) : time_ && i == *time_;
        if (is_time) {
            milliseconds_ = value_of(token.number) * time_scale_;
            continue;
        }
        if (named_) {
            column = 0;
            while (column < columns_.size() && columns_[column].name != token.name)
                ++column;
            if (column == columns_.size()) {
                problem_ = fmt::format("\"{}\" was not in the first line", shown(token.name));
                return Kind::nonsense;
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
