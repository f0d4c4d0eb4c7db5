// SPDX-License-Identifier: MIT
/// \file
/// CSV files (RFC 4180), record by record in bounded memory.
#pragma once

#include <cstddef>
#include <cstdint>
#include <cstdio>
#include <cstring>
#include <string>
#include <string_view>
#include <vector>

namespace zorilla::bench {

/// The records of a file: mostly one line each, more where a quoted field holds line ends.
class CsvRecords {
  public:
    struct Record {
        std::string_view text; ///< without its line end; good until the next one is asked for
        bool too_long = false; ///< longer than `longest_line`, and skipped
    };

    /// \throws rig::InputError  if the file cannot be opened
    explicit CsvRecords(const std::string& path);
    ~CsvRecords();
    CsvRecords(const CsvRecords&) = delete;
    CsvRecords& operator=(const CsvRecords&) = delete;

    /// Goes to the next record; false at the end. \throws rig::InputError  if reading fails
    bool next(Record& record);

    /// The names of the columns, from the first record. \throws rig::InputError  if there is none,
    ///     or it is not the header of a CSV file  \param example  what such a header may look like
    std::vector<std::string> header(std::string_view example);

    /// Lines that are in the memory as a whole, for a reader that looks at plain ones by itself.
    /// Behind their end some characters more can be read, which mean nothing.
    const char* ready() const { return buffer_.data() + begin_; }
    const char* ready_end() const { return buffer_.data() + whole_; }
    /// Says that the line up to `after` was one plain record, and has been read.
    void took_line(const char* after) {
        begin_ = static_cast<size_t>(after - buffer_.data());
        line_ = next_line_++;
    }

    /// Where in the file the next record begins, in bytes.
    uint64_t offset() const { return base_ + begin_; }
    /// Goes on there; which line that is, is not known then. \throws rig::InputError  if that
    ///     cannot be
    void go_to(uint64_t offset);

    const std::string& path() const { return path_; }
    /// The line on which the present record begins.
    uint64_t line() const { return line_; }
    /// \throws rig::InputError  always: FILE:LINE: text
    [[noreturn]] void refuse(uint64_t line, const std::string& text) const;

    /// The longest line that is read; longer ones are skipped as not understood.
    static constexpr size_t longest_line = 64 * 1024;

  private:
    /// The end of a line, counted from the next unread character.
    struct LineEnd {
        size_t size;  ///< up to the line end
        size_t taken; ///< with the line end; 0 at the end of the file
        bool too_long;
    };
    LineEnd find_line_end(size_t from);
    void skip_line();
    bool fill();
    static constexpr size_t behind = 8; ///< characters

    std::string path_;
    std::FILE* file_;
    std::vector<char> buffer_;
    uint64_t base_ = 0; ///< of the buffer, in the file
    size_t begin_ = 0;
    size_t end_ = 0;
    size_t whole_ = 0; ///< up to here the buffer holds whole lines
    bool at_end_ = false;
    uint64_t line_ = 0;
    uint64_t next_line_ = 1; ///< the line on which the next record begins
};

/// Splits a record at its commas, taking off quotes (RFC 4180, section 2). False if a quote is not
/// where it may be.
bool split_record(std::string_view text, std::vector<std::string>& fields);

/// A field for a message: short, and with nothing that upsets a terminal.
std::string shown(std::string_view field);
std::string_view without_blanks(std::string_view text);

/// The name of a column and its unit, such as those of "roost (code)"; the unit may be empty.
struct ColumnName {
    std::string_view name;
    std::string_view unit;
    bool has_unit;
};
ColumnName parse_column_name(std::string_view field);
/// Milliseconds in a unit of time that a column may have; 0 for any other word.
double milliseconds_in(std::string_view unit);
/// The number that up to eight digits make, all at once; `at` is then behind them. Eight characters
/// must be there to be read, whatever they are.
inline uint64_t few_digits(const char*& at) {
    uint64_t characters = 0;
    std::memcpy(&characters, at, sizeof characters);
    if constexpr (__BYTE_ORDER__ == __ORDER_BIG_ENDIAN__)
        characters = __builtin_bswap64(characters);
    // The first one in the lowest byte. The highest bit of the first byte that is no digit gets
    // set.
    const uint64_t others =
        ((characters + 0x4646464646464646) | (characters - 0x3030303030303030)) &
        0x8080808080808080;
    const int count = others == 0 ? 8 : __builtin_ctzll(others) / 8;
    if (count == 0)
        return 0;
    at += count;
    // As many zeros before them as make eight; then pairs, fours, and all.
    uint64_t digits = characters << (64 - 8 * count) & 0x0f0f0f0f0f0f0f0f;
    digits = (digits * 10 + (digits >> 8)) & 0x00ff00ff00ff00ff;
    digits = (digits * 100 + (digits >> 16)) & 0x0000ffff0000ffff;
    return (digits * 10'000 + (digits >> 32)) & 0xffffffff;
}

/// Whether a field ends here.
inline bool ends_field(char c) { return c == ',' || c == '\n' || c == '\r'; }

/// Reads a whole number of up to eight digits that is all of its field; `at` is then behind it.
/// False, and `at` as it was, for any other text. Eight characters must be there to be read.
inline bool quick_whole(const char*& at, uint64_t& value) {
    const char* here = at;
    value = few_digits(here);
    if (here == at || !ends_field(*here))
        return false;
    at = here;
    return true;
}

/// Reads a short number without an exponent that ends its field, as nearly all do; `at` is then
/// behind it. False, and `at` as it was, for any other text. A line's end must follow somewhere,
/// and eight characters more that can be read.
inline bool quick_number(const char*& at, double& value) {
    constexpr std::ptrdiff_t most_digits = 11, most_decimals = 6; // a longer one is not plain
    static constexpr double tenths[] = {1, 1e1, 1e2, 1e3, 1e4, 1e5, 1e6};
    const char* here = at;
    const bool minus = *here == '-';
    if (minus)
        ++here;
    const char* const first = here;
    uint64_t digits = few_digits(here);
    if (here - first == 8)
        for (; *here >= '0' && *here <= '9'; ++here)
            digits = digits * 10 + static_cast<uint64_t>(*here - '0');
    if (here == first || here - first > most_digits)
        return false;
    value = static_cast<double>(static_cast<int64_t>(digits));
    if (*here == '.') {
        if (digits > 8'000'000'000) // with six decimals more than a double holds exactly
            return false;
        const char* const point = ++here;
        const uint64_t rest = few_digits(here);
        if (here - point > most_decimals)
            return false;
        // One division of whole numbers is rounded as the text itself would be.
        const double scale = tenths[here - point];
        value = (value * scale + static_cast<double>(static_cast<int64_t>(rest))) / scale;
    }
    if (!ends_field(*here))
        return false;
    if (minus)
        value = -value;
    at = here;
    return true;
}

/// Whether the whole field is a number.
bool is_number(std::string_view field);

} // namespace zorilla::bench
