// SPDX-License-Identifier: MIT
#include "bench/csv.hpp"

#include "rig/text/files.hpp"

#include <fast_float/fast_float.h>
#include <fmt/format.h>

#include <algorithm>
#include <cerrno>
#include <cstring>

namespace zorilla::bench {

using rig::InputError;

CsvRecords::CsvRecords(const std::string& path)
    : path_(path), file_(rig::open_to_read(path)), buffer_(longest_line * 4 + behind) {}

CsvRecords::~CsvRecords() { std::fclose(file_); }

void CsvRecords::refuse(uint64_t line, const std::string& text) const {
    throw InputError(fmt::format("{}:{}: {}", path_, line, text));
}

void CsvRecords::go_to(uint64_t offset) {
    if (fseeko(file_, static_cast<off_t>(offset), SEEK_SET) != 0)
        throw InputError(fmt::format("{}: cannot be read: {}", path_, std::strerror(errno)));
    base_ = offset;
    begin_ = end_ = whole_ = 0;
    at_end_ = false;
}

bool CsvRecords::fill() {
    if (at_end_)
        return false;
    std::memmove(buffer_.data(), buffer_.data() + begin_, end_ - begin_);
    base_ += begin_;
    end_ -= begin_;
    begin_ = 0;
    const size_t got = std::fread(buffer_.data() + end_, 1, buffer_.size() - behind - end_, file_);
    if (got == 0 && std::ferror(file_) != 0)
        throw InputError(fmt::format("{}: cannot be read: {}", path_, std::strerror(errno)));
    end_ += got;
    whole_ = end_;
    while (whole_ > 0 && buffer_[whole_ - 1] != '\n')
        --whole_;
    at_end_ = got == 0;
    return got > 0;
}

CsvRecords::LineEnd CsvRecords::find_line_end(size_t from) {
    size_t searched = from;
    for (;;) {
        const char* begin = buffer_.data() + begin_;
        const size_t left = end_ - begin_;
        const auto* newline =
            left == searched
                ? nullptr
                : static_cast<const char*>(std::memchr(begin + searched, '\n', left - searched));
        if (newline != nullptr) {
            const auto size = static_cast<size_t>(newline - begin);
            return {size, size + 1, size - from > longest_line};
        }
        searched = left;
        if (left - from > longest_line)
            return {left, left, true};
        if (!fill())
            return {left, left, false};
    }
}

void CsvRecords::skip_line() {
    for (;;) {
        const LineEnd end = find_line_end(0);
        const bool cut_short = end.too_long && end.size == end.taken;
        begin_ += end.taken;
        if (!cut_short)
            return;
    }
}

bool CsvRecords::next(Record& record) {
    record = Record{};
    line_ = next_line_;
    LineEnd end = find_line_end(0);
    if (end.taken == 0)
        return false;
    ++next_line_;
    if (end.too_long) {
        skip_line();
        record.too_long = true;
        return true;
    }
    const auto odd_quotes = [this](size_t from, size_t to) {
        const char* begin = buffer_.data() + begin_;
        return std::memchr(begin + from, '"', to - from) != nullptr &&
               std::count(begin + from, begin + to, '"') % 2 != 0;
    };
    if (odd_quotes(0, end.size)) {
        // A quoted field may hold line ends: the record goes on until its quotes are even. If they
        // never are, only this line is bad.
        LineEnd last = end;
        uint64_t lines = 0;
        bool open = true;
        while (open) {
            const size_t from = last.taken;
            last = find_line_end(from);
            if (last.taken == from || last.too_long || last.taken > longest_line)
                break;
            ++lines;
            open = !odd_quotes(from, last.size);
        }
        if (!open) {
            end = last;
            next_line_ += lines;
        }
    }
    record.text = std::string_view(buffer_.data() + begin_, end.size);
    begin_ += end.taken;
    if (!record.text.empty() && record.text.back() == '\r')
        record.text.remove_suffix(1);
    return true;
}

std::vector<std::string> CsvRecords::header(std::string_view example) {
    Record record;
    if (!next(record))
        throw InputError(fmt::format("{}: the file is empty; it must begin with a header such as "
                                     "\"{}\"",
                                     path_, example));
    std::string_view text = record.text;
    if (record.too_long || text.find('\0') != std::string_view::npos)
        refuse(1, fmt::format("this is not a CSV text file; it must begin with a header such as "
                              "\"{}\"",
                              example));
    if (text.substr(0, 3) == "\xEF\xBB\xBF")
        text.remove_prefix(3);
    std::vector<std::string> fields;
    if (!split_record(text, fields))
        refuse(1, "a quote in the header is not closed");
    for (const char separator : {';', '\t'})
        if (fields.size() == 1 && text.find(separator) != std::string_view::npos)
            refuse(1, fmt::format("the columns are separated by {}; save the file with commas",
                                  separator == ';' ? "semicolons" : "tabs"));
    for (const std::string& field : fields)
        if (is_number(without_blanks(field)))
            refuse(1, fmt::format("the first line must be a header such as \"{}\"; found the "
                                  "number {}",
                                  example, shown(without_blanks(field))));
    return fields;
}

/// Splits a record at its commas, taking off quotes (RFC 4180, section 2). False if a quote is not
/// where it may be.
bool split_record(std::string_view text, std::vector<std::string>& fields) {
    fields.clear();
    size_t at = 0;
    for (;;) {
        std::string field;
        if (at < text.size() && text[at] == '"') {
            for (++at;; ++at) {
                if (at >= text.size())
                    return false;
                if (text[at] != '"')
                    field += text[at];
                else if (at + 1 < text.size() && text[at + 1] == '"')
                    field += text[++at];
                else
                    break;
            }
            ++at;
            if (at < text.size() && text[at] != ',')
                return false;
        } else {
            const size_t comma = std::min(text.find(',', at), text.size());
            field = text.substr(at, comma - at);
            if (field.find('"') != std::string::npos)
                return false;
            at = comma;
        }
        fields.push_back(std::move(field));
        if (at >= text.size())
            return true;
        ++at;
    }
}

/// A field for a message: short, and with nothing that upsets a terminal.
std::string shown(std::string_view field) {
    std::string out;
    for (const char c : field.substr(0, 40))
        out += c >= ' ' && c != 127 ? c : '?';
    return field.size() > 40 ? out + "..." : out;
}

std::string_view without_blanks(std::string_view text) {
    while (!text.empty() && text.front() == ' ')
        text.remove_prefix(1);
    while (!text.empty() && text.back() == ' ')
        text.remove_suffix(1);
    return text;
}

ColumnName parse_column_name(std::string_view field) {
    field = without_blanks(field);
    const size_t open = field.rfind('(');
    const bool has_unit = open != std::string_view::npos && field.back() == ')';
    return {without_blanks(has_unit ? field.substr(0, open) : field),
            has_unit ? without_blanks(field.substr(open + 1, field.size() - open - 2)) : "",
            has_unit};
}

double milliseconds_in(std::string_view unit) {
    return unit == "ms"    ? 1
           : unit == "s"   ? 1000
           : unit == "min" ? 60'000
           : unit == "h"   ? 3'600'000
                           : 0;
}

bool is_number(std::string_view field) {
    double number = 0;
    const auto parsed = fast_float::from_chars(field.data(), field.data() + field.size(), number);
    return !field.empty() && parsed.ec == std::errc() && parsed.ptr == field.data() + field.size();
}

} // namespace zorilla::bench
