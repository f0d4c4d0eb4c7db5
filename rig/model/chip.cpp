// SPDX-License-Identifier: MIT
#include "rig/model/chip.hpp"

#include <zorilla/board/chips/atmega2560.hpp>
#include <zorilla/board/chips/atmega328p.hpp>
#include <zorilla/board/chips/attiny85.hpp>
#include <zorilla/board/chips/rp2040.hpp>

#include <fmt/format.h>

#include <cctype>

namespace zorilla::rig {

const std::vector<const ChipFacts*>& all_chips() {
    static const std::vector<const ChipFacts*> all = {
        &chips::Atmega328p::facts, &chips::Atmega2560::facts, &chips::Attiny85::facts,
        &chips::Rp2040::facts};
    return all;
}

const ChipFacts* chip_named(std::string_view name) {
    for (const ChipFacts* chip : all_chips())
        if (name == chip->name)
            return chip;
    return nullptr;
}

std::string chip_names() {
    std::string out;
    const std::vector<const ChipFacts*>& all = all_chips();
    for (size_t i = 0; i < all.size(); ++i)
        out += fmt::format("{}{}",
                           i == 0                ? ""
                           : i + 1 == all.size() ? " and "
                                                 : ", ",
                           all[i]->name);
    return out;
}

const PinFacts* pin_named(const ChipFacts& chip, std::string_view name) {
    for (const PinFacts* pin = chip.pins; pin != chip.pins + chip.pin_count; ++pin)
        if (name == pin->name || (pin->channel >= 0 && name == fmt::format("ADC{}", pin->channel)))
            return pin;
    return nullptr;
}

std::string one_name_of(const PinFacts& pin) {
    return pin.channel >= 0 ? fmt::format("ADC{}", pin.channel) : std::string(pin.name);
}

const LineFacts* line_named(const ChipFacts& chip, std::string_view name) {
    for (const LineFacts* line = chip.lines; line != chip.lines + chip.line_count; ++line)
        if (name == line->name)
            return line;
    return nullptr;
}

std::string board_class(const ChipFacts& chip) {
    std::string out = chip.name;
    out[0] = static_cast<char>(std::toupper(static_cast<unsigned char>(out[0])));
    return out;
}

std::string volts_of(int32_t millivolts) { return fmt::format("{:g} V", millivolts / 1000.0); }

std::string with_clock(const ChipFacts& chip) {
    return fmt::format("an {} at {} MHz", chip.title, chip.hertz / 1'000'000);
}

} // namespace zorilla::rig
