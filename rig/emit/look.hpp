// SPDX-License-Identifier: MIT
/// \file
/// A program that only looks: it sends what pins read, for a capture, before there is a rig.
#pragma once

#include "rig/model/chip.hpp"
#include "rig/model/raw.hpp"

#include <zorilla/units/time.hpp>

#include <string>
#include <vector>

namespace zorilla::rig {

/// A pin to look at.
struct LookPin {
    RawKind as = RawKind::code;
    std::string pin;  ///< "ADC0", "PD2"
    std::string ping; ///< of an echo: the pin that asks for it
};

/// What is wrong with them on an ATmega328P, a sentence each, with what would do.
std::vector<std::string> look_mistakes(const ChipFacts& chip, const std::vector<LookPin>& pins);

/// The program's main.cpp, for an ATmega328P; it sends a trace at 38,400 baud.
std::string look_program(const ChipFacts& chip, const std::vector<LookPin>& pins, Duration every);
/// How many characters one of its lines takes at most.
size_t look_row_size(const std::vector<LookPin>& pins);

} // namespace zorilla::rig
