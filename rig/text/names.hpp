// SPDX-License-Identifier: MIT
/// \file
/// What sensors, decisions and outputs may be called.
#pragma once

#include <cstddef>
#include <string>
#include <string_view>
#include <vector>

namespace zorilla::rig {

/// The most characters that a name may have, so that it fits on a page.
inline constexpr size_t longest_name = 64;
/// Whether a text has only lower-case letters, digits and _, beginning with a letter.
bool is_plain_name(std::string_view text);
/// Whether a word has a meaning of its own in conditions.
bool is_taken_word(std::string_view text);

/// Whether a word has a meaning of its own in C++17, which every rig can be written as.
bool is_cpp_word(std::string_view text);

/// Makes names out of what people call things: "Lamp on!" becomes lamp_on. No name twice.
class NameMaker {
  public:
    std::string make(std::string_view text);

  private:
    std::vector<std::string> made_;
};

} // namespace zorilla::rig
