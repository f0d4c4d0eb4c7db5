// SPDX-License-Identifier: MIT
/// \file
/// Parts of a rig as C++: values as literals, and keys put into the forms that rooms give.
#pragma once

#include "rig/model/rig.hpp"

#include <functional>
#include <set>
#include <string>
#include <string_view>

namespace zorilla::rig {

/// "4.5_degC", "2_min"; of a kind without a literal "Concentration::from_thousandths(3)".
std::string cpp_quantity(int32_t thousandths, Kind kind);
/// "on", "40_percent", "colour(100_percent, 0_percent, 0_percent)", "tone(880)", "Stage(2)".
std::string cpp_value(AnyValue value, ValueKind kind);
/// The type of such values: "OnOff", "Duty".
std::string_view cpp_type(ValueKind kind);
/// The same where only the very type will do: "Duty(40_percent)".
std::string cpp_typed(AnyValue value, ValueKind kind);

/// Names that are taken, so that no two things in one file are called alike.
class CppNames {
  public:
    /// The name itself if it is free, else one like it; taken from then on.
    std::string take(std::string name);

  private:
    std::set<std::string> taken_;
};
/// "WatchState" of "watch" and "State".
std::string camel(std::string_view name, std::string_view more);
/// A condition's text as a name: "rises_button".
std::string plain_name(std::string_view text);

/// A text as a comment of one line, whatever is in it.
std::string cpp_comment(std::string_view text);
/// "Board::pb0" of the pin "PB0" or "ADC0"; empty of what is no pin.
std::string board_pin(std::string_view pin);
/// Puts `to` where `from` stands first, if it does.
void put(std::string& in, std::string_view from, std::string_view to);

/// Breaks lines that are too long for a page, where a person would.
std::string wrapped(const std::string& text);

/// Puts the keys of a table into a form.
///
/// `{key}` is the value of a key; `{key|5_V}` with what stands for one that is not there;
/// `{key.0}` an entry of a list; `{key:point({}, {})}` each entry, put in and joined by commas. In
/// the form of a key of its own, `{}` is that key's value. Texts stand as they are, quantities as
/// literals, names of sources as `source` says.
class CppForm {
  public:
    CppForm(const Node& table, std::function<std::string(const std::string&)> source = nullptr)
        : table_(table), source_(std::move(source)) {}

    std::string fill(std::string_view form, const Node* own = nullptr) const;
    /// Of what a key holds.
    std::string value(const Node& node) const;

  private:
    std::string place(std::string_view inside, const Node* own) const;

    const Node& table_;
    std::function<std::string(const std::string&)> source_;
};

} // namespace zorilla::rig
