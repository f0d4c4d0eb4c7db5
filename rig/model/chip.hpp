// SPDX-License-Identifier: MIT
/// \file
/// The chips that there are, by their names in rig files.
#pragma once

#include <zorilla/board/chips/chip.hpp>

#include <string>
#include <string_view>
#include <vector>

namespace zorilla::rig {

/// All of them, the first of which is meant where a rig names none.
const std::vector<const ChipFacts*>& all_chips();
/// Null for one that is none of them: "other".
const ChipFacts* chip_named(std::string_view name);

/// Their names, for a sentence: "a, b and c".
std::string chip_names();

/// The pin of a chip by either of its names; null if it has none of that.
const PinFacts* pin_named(const ChipFacts& chip, std::string_view name);
/// What it is claimed as, whichever of its names is used.
std::string one_name_of(const PinFacts& pin);
/// Its line of that name; null if it has none.
const LineFacts* line_named(const ChipFacts& chip, std::string_view name);

/// What its board is called in C++: `Atmega328p`.
std::string board_class(const ChipFacts& chip);
/// "3.3 V".
std::string volts_of(int32_t millivolts);
/// "an ATmega328P at 16 MHz".
std::string with_clock(const ChipFacts& chip);

} // namespace zorilla::rig
