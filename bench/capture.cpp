// SPDX-License-Identifier: MIT
#include "bench/capture.hpp"

#include "bench/row_check.hpp"
#include "rig/text/files.hpp"

#include <zorilla/board/trace_row.hpp>

#include <fast_float/fast_float.h>
#include <fmt/format.h>

#include <algorithm>
#include <cerrno>
#include <cmath>
#include <cstring>
#include <filesystem>
#include <iterator>

namespace zorilla::bench {

namespace {

using rig::InputError;

/// A text as a field of CSV (RFC 4180, section 2).
std::string csv_field(std::string_view text) {
    if (text.find_first_of(",\"\r\n") == std::string_view::npos)
        return std::string(text);
    std::string out = "\"";
    for (const char c : text)
        out += c == '"' ? std::string("\"\"") : std::string(1, c == '\r' || c == '\n' ? ' ' : c);
    return out + "\"";
}

} // namespace

Capture::Capture(Options options) : options_(std::move(options)) {
    torn_ = options_.may_begin_torn;
    options_.condition = std::string(without_blanks(options_.condition));
    lines_.set_names(options_.names);
    lines_.set_units(options_.units);
    const bool there = std::filesystem::exists(options_.path);
    if (there && !options_.append)
        throw InputError(fmt::format("{}: is there already; add to it with --append, or choose "
                                     "another name",
                                     options_.path));
    if (there)
        read_end_of_file();
    file_ = std::fopen(options_.path.c_str(), there ? "ab" : "wb");
    if (file_ == nullptr)
        throw InputError(
            fmt::format("{}: cannot be written: {}", options_.path, std::strerror(errno)));
}

Capture::~Capture() {
    if (file_ != nullptr)
        std::fclose(file_);
    // A file into which nothing came is no capture.
    std::error_code ignored;
    if (!begun_ && header_.empty() && std::filesystem::file_size(options_.path, ignored) == 0)
        std::filesystem::remove(options_.path, ignored);
}

/// The header, and the time of the last row, of a file that is added to.
void Capture::read_end_of_file() {
    const std::string text = rig::read_file(options_.path);
    if (text.empty())
        return;
    header_ = text.substr(0, text.find_first_of("\r\n"));
    if (header_.substr(0, 8) != "time (s)")
        throw InputError(
            fmt::format("{}: cannot be added to: it is no capture, whose header begins "
                        "with \"time (s)\"; choose another name",
                        options_.path));
    if (text.back() != '\n')
        text_ += '\n';
    size_t end = text.size();
    while (end > 0 && (text[end - 1] == '\n' || text[end - 1] == '\r'))
        --end;
    const size_t begin =
        text.rfind('\n', end - 1) == std::string::npos ? 0 : text.rfind('\n', end - 1) + 1;
    double seconds = 0;
    const auto parsed = fast_float::from_chars(text.data() + begin, text.data() + end, seconds);
    // A second of its own between both captures.
    if (begin > 0 && parsed.ec == std::errc())
        offset_ = seconds * 1000 + 1000;
}

void Capture::begin_file() {
    std::string header = "time (s)";
    for (const SampleColumn& column : lines_.columns())
        header +=
            "," + csv_field(column.unit.empty() ? column.name
                                                : fmt::format("{} ({})", column.name, column.unit));
    header += ",condition";
    if (!header_.empty() && header != header_)
        throw InputError(
            fmt::format("{}: its header is \"{}\", but what comes now would be \"{}\"; "
                        "choose another name with --out",
                        options_.path, header_, header));
    if (header_.empty())
        text_ = header + "\n";
    live_.resize(lines_.columns().size());
    begun_ = true;
}

void Capture::take(std::string_view bytes, int64_t milliseconds) {
    while (!bytes.empty() && !full()) {
        const size_t end = bytes.find('\n');
        if (end == std::string_view::npos) {
            if (rest_.size() + bytes.size() > longest_line)
                skips_ = true;
            else
                rest_ += bytes;
            return;
        }
        const std::string_view here = bytes.substr(0, end);
        bytes.remove_prefix(end + 1);
        if (skips_ || rest_.size() + here.size() > longest_line) {
            ++nonsense_;
            last_problem_ = fmt::format("a line of more than {} characters: is the speed right, or "
                                        "does it never end a line?",
                                        longest_line);
        } else if (rest_.empty()) {
            take_line(here, milliseconds);
        } else {
            rest_ += here;
            take_line(rest_, milliseconds);
        }
        skips_ = false;
        rest_.clear();
    }
    if (text_.size() > 1 << 16)
        flush();
}

void Capture::interrupted() {
    rest_.clear();
    skips_ = false;
    torn_ = true;
}

void Capture::ended(int64_t milliseconds) {
    if (!rest_.empty() && !full())
        take_line(rest_, milliseconds);
    rest_.clear();
    if (!agreed_)
        agree();
}

void Capture::set_condition(std::string name) {
    options_.condition = std::string(without_blanks(name));
    for (LiveColumn& column : live_)
        column.any = false;
}

void Capture::take_line(std::string_view line, int64_t milliseconds) {
    const bool torn = torn_;
    torn_ = false;
    // The end of a number is a number too: only a header is known to be whole.
    if (torn && line.find_first_of("0123456789") != std::string_view::npos &&
        line.find('(') == std::string_view::npos) {
        first_was_torn_ = true;
        return;
    }
    // What a device answers to a command is no row.
    const std::string_view said = without_blanks(line);
    if (is_answer(said)) {
        answer_ = said;
        ++answers_;
        return;
    }
    if (agreed_)
        take_settled(line, milliseconds);
    else
        wait_for_agreement(line, milliseconds);
}

/// A greeting may look like a row: columns are what most lines agree on, three of them at least.
void Capture::wait_for_agreement(std::string_view line, int64_t milliseconds) {
    constexpr size_t enough = 3, most = 200;
    waiting_.push_back({std::string(line), milliseconds, "", options_.condition});
    // Rows with a check look like rows only without it.
    find_check(enough);
    PrintedLines alike = lines_;
    for (Waiting& one : waiting_)
        one.shape = alike.shape_of(one.line);
    std::map<std::string, size_t> count;
    size_t highest = 0, rows = 0;
    for (const Waiting& one : waiting_)
        if (!one.shape.empty()) {
            highest = std::max(highest, ++count[one.shape]);
            ++rows;
        }
    if ((highest >= enough && 2 * highest > rows) || waiting_.size() >= most ||
        (options_.most_rows < enough && rows >= options_.most_rows))
        agree();
}

/// What the checks behind the rows begin with: a header says it, or so many of them as agree.
void Capture::find_check(size_t enough) {
    if (lines_.has_check())
        return;
    std::map<uint16_t, size_t> starts;
    for (const Waiting& one : waiting_) {
        const std::string_view line = without_blanks(one.line);
        if (const auto number = check_number(line.substr(line.rfind(',') + 1)))
            lines_.set_check(check_start(*number));
        else if (const auto start = start_of_check(line); start && ++starts[*start] >= enough)
            lines_.set_check(*start);
    }
}

void Capture::agree() {
    agreed_ = true;
    std::map<std::string, size_t> count;
    std::string shape;
    for (const Waiting& one : waiting_) // of as many, the later
        if (!one.shape.empty() && ++count[one.shape] >= count[shape])
            shape = one.shape;
    const std::string condition = options_.condition;
    for (const Waiting& one : waiting_) {
        // What stands before the first row that counts may be its header, but no other row.
        if (one.shape.empty() || one.shape == shape) {
            options_.condition = one.condition;
            take_settled(one.line, one.milliseconds);
            continue;
        }
        ++nonsense_;
        last_problem_ = fmt::format("\"{}\": most lines look otherwise", shown(one.line));
    }
    options_.condition = condition;
    waiting_.clear();
}

void Capture::take_settled(std::string_view line, int64_t milliseconds) {
    if (full())
        return;
    switch (lines_.take(line)) {
    case PrintedLines::Kind::empty: return;
    case PrintedLines::Kind::header:
        if (begun_) { // it was asked for
            answer_ = "ok, the header";
            ++answers_;
        }
        return;
    case PrintedLines::Kind::nonsense:
        ++nonsense_;
        last_problem_ = fmt::format("\"{}\": {}", shown(line), lines_.problem());
        return;
    case PrintedLines::Kind::row: break;
    }
    if (!begun_)
        begin_file();
    double time = static_cast<double>(milliseconds);
    if (lines_.milliseconds()) {
        device_clock_ = true;
        // A device that was reset begins again at 0.
        if (*lines_.milliseconds() < device_time_) {
            wrapped_ += device_time_ - *lines_.milliseconds();
            ++begun_anew_;
        }
        device_time_ = *lines_.milliseconds();
        time = device_time_ + wrapped_;
    }
    if (rows_ == 0)
        first_time_ = time;
    last_time_ = time;
    write_row(offset_ + time - (device_clock_ ? first_time_ : 0));
    ++rows_;
    look_at(milliseconds);
}

void Capture::write_row(double milliseconds) {
    fmt::format_to(std::back_inserter(text_), "{:.3f}", milliseconds / 1000);
    for (const std::string_view value : lines_.values()) {
        text_ += ',';
        text_ += value;
    }
    text_ += ',';
    text_ += csv_field(options_.condition);
    text_ += '\n';
}

void Capture::look_at(int64_t milliseconds) {
    const int64_t second = milliseconds / 1000;
    if (second != second_) {
        rate_ = second == second_ + 1 ? in_second_ : 0;
        in_second_ = 0;
        for (LiveColumn& column : live_) {
            for (int64_t i = second_; i < std::min(second, second_ + 5); ++i)
                if (column.count > 0)
                    column.history.push_back(column.sum / static_cast<double>(column.count));
            while (column.history.size() > history_seconds)
                column.history.pop_front();
            column.sum = 0;
            column.count = 0;
        }
        second_ = second;
    }
    ++in_second_;
    for (size_t i = 0; i < live_.size(); ++i) {
        const std::string_view text = lines_.values()[i];
        if (text.empty())
            continue;
        LiveColumn& column = live_[i];
        fast_float::from_chars(text.data(), text.data() + text.size(), column.now);
        column.lowest = column.any ? std::min(column.lowest, column.now) : column.now;
        column.highest = column.any ? std::max(column.highest, column.now) : column.now;
        column.any = true;
        column.sum += column.now;
        ++column.count;
    }
}

void Capture::flush() {
    if (!begun_)
        return;
    const bool written = std::fwrite(text_.data(), 1, text_.size(), file_) == text_.size();
    if (!written || std::fflush(file_) != 0)
        throw InputError(fmt::format("{}: cannot be written: {}; what came before is in it",
                                     options_.path, std::strerror(errno)));
    text_.clear();
}

} // namespace zorilla::bench
