// SPDX-License-Identifier: MIT
/// \file
/// The lines that a program prints, whatever their form.
#pragma once

#include "bench/samples.hpp"

#include <map>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace zorilla::bench {

/// Makes columns of numbers out of lines such as `512`, `512,300 23.5`, `light=512 temp=23.5` or
/// `light: 512, temp: 23.5 degC`. A first line without numbers, such as `light (code),temp (degC)`,
/// names the columns. What the first line of numbers looks like is what all others must; who does
/// not know yet which line that is asks for their shapes first. Frames are ten hexadecimal digits.
///
/// A column called `time` (with its unit in the header, otherwise in milliseconds) or `millis` is
/// the device's own clock.
class PrintedLines {
  public:
    enum class Kind { row, header, empty, nonsense };

    /// Takes a line without its end. After a `row`, `values()` holds its numbers as texts.
    Kind take(std::string_view line);

    /// Known after the first row; without the time.
    const std::vector<SampleColumn>& columns() const { return columns_; }
    /// The numbers of the last row, in the order of the columns; "" for one that is not there.
    const std::vector<std::string_view>& values() const { return values_; }
    /// The device's own time of the last row in milliseconds, if it prints one.
    std::optional<double> milliseconds() const { return milliseconds_; }
    /// What is wrong with the last line, if it is nonsense.
    const std::string& problem() const { return problem_; }

    /// What a line's columns are, as a text to be compared; "" if it is no row. Only before the
    /// first line is taken.
    std::string shape_of(std::string_view line);
    /// Units of columns by their names, where the lines do not tell.
    void set_units(std::map<std::string, std::string> units) { units_ = std::move(units); }
    /// Says what the check behind each row begins with; a header that has one says it itself. A row
    /// whose check is wrong is nonsense.
    void set_check(uint16_t start) { check_ = start; }
    bool has_check() const { return check_.has_value(); }
    /// Names columns that come without names.
    void set_names(std::vector<std::string> names) { wanted_names_ = std::move(names); }

  private:
    struct Token {
        std::string name;
        std::string_view number;
        std::string unit;
    };
    static bool take_value(std::string_view text, Token& out);
    void name_apart(SampleColumn& column) const;
    bool split_named(std::string_view line);
    bool split_plain(std::string_view line);
    Kind settle();
    Kind take_header(std::string_view line);
    Kind match();

    Kind take_plain(std::string_view line);

    std::optional<uint16_t> check_;
    std::vector<std::string> wanted_names_;
    std::vector<SampleColumn> header_;
    std::vector<SampleColumn> columns_;
    std::vector<std::string> printed_names_; ///< of the columns, as the lines have them
    std::map<std::string, std::string> units_;
    std::vector<Token> tokens_;
    std::vector<std::string_view> values_;
    size_t count_ = 0; ///< numbers in a row, with the time
    std::optional<size_t> time_;
    std::string time_name_;
    double time_scale_ = 1;
    std::optional<double> milliseconds_;
    bool named_ = false;
    bool settled_ = false;
    std::string problem_;
};

} // namespace zorilla::bench
