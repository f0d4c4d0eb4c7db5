// SPDX-License-Identifier: MIT
/// \file
/// The RP2040: its pins and what each can do. RP2040 data sheet, chapters 1.4 (pins and what they
/// can be), 4.5 (PWM), 4.9 (converter), 5.5 (what pins bear).
#pragma once

#include "zorilla/board/chips/chip.hpp"

namespace zorilla::chips {

struct Rp2040 {
    static constexpr TimerFacts slice = {TimerKind::slice, 16, false, 0, 0, 0, 0, {}};
    static constexpr TimerFacts timers[] = {slice, slice, slice, slice, slice, slice, slice, slice};
    static constexpr LineFacts lines[] = {{"usb", LineKind::usb, 0, nullptr, nullptr},
                                          {"serial0", LineKind::serial, 0, "GPIO1", "GPIO0"},
                                          {"serial1", LineKind::serial, 1, "GPIO5", "GPIO4"}};
    static constexpr PinFacts pins[] = {
        {"GPIO0", -1, 0, 0, 0, 2, nullptr},   {"GPIO1", -1, 0, 1, 0, 3, nullptr},
        {"GPIO2", -1, 1, 0, 0, 4, nullptr},   {"GPIO3", -1, 1, 1, 0, 5, nullptr},
        {"GPIO4", -1, 2, 0, 0, 6, nullptr},   {"GPIO5", -1, 2, 1, 0, 7, nullptr},
        {"GPIO6", -1, 3, 0, 0, 8, nullptr},   {"GPIO7", -1, 3, 1, 0, 9, nullptr},
        {"GPIO8", -1, 4, 0, 0, 11, nullptr},  {"GPIO9", -1, 4, 1, 0, 12, nullptr},
        {"GPIO10", -1, 5, 0, 0, 13, nullptr}, {"GPIO11", -1, 5, 1, 0, 14, nullptr},
        {"GPIO12", -1, 6, 0, 0, 15, nullptr}, {"GPIO13", -1, 6, 1, 0, 16, nullptr},
        {"GPIO14", -1, 7, 0, 0, 17, nullptr}, {"GPIO15", -1, 7, 1, 0, 18, nullptr},
        {"GPIO16", -1, 0, 0, 0, 27, nullptr}, {"GPIO17", -1, 0, 1, 0, 28, nullptr},
        {"GPIO18", -1, 1, 0, 0, 29, nullptr}, {"GPIO19", -1, 1, 1, 0, 30, nullptr},
        {"GPIO20", -1, 2, 0, 0, 31, nullptr}, {"GPIO21", -1, 2, 1, 0, 32, nullptr},
        {"GPIO22", -1, 3, 0, 0, 34, nullptr}, {"GPIO23", -1, 3, 1, 0, 35, nullptr},
        {"GPIO24", -1, 4, 0, 0, 36, nullptr}, {"GPIO25", -1, 4, 1, 0, 37, nullptr},
        {"GPIO26", 0, 5, 0, 0, 38, nullptr},  {"GPIO27", 1, 5, 1, 0, 39, nullptr},
        {"GPIO28", 2, 6, 0, 0, 40, nullptr},  {"GPIO29", 3, 6, 1, 0, 41, nullptr},
    };
    /// It has 2 MiB of flash beside it, as boards usually do, of which the last 8 KiB are kept.
    static constexpr ChipFacts facts = [] {
        ChipFacts out = detail::facts_of(pins, timers, lines);
        out.name = "rp2040";
        out.title = "RP2040";
        out.analogue_pins = "ADC0 to ADC3";
        out.digital_pins = "GPIO0 to GPIO29";
        out.core = "cortex-m0plus";
        out.hertz = 48'000'000;
        out.flash = 2'088'960;
        out.ram = 270'336;
        out.kept = 256;
        out.supply = 3'300;
        out.least_reference = 3'200;
        out.most_reference = 3'400;
        out.legs = 56;
        out.converter_bits = 12;
        out.pin_milliamperes = 12;
        out.all_milliamperes = 50;
        return out;
    }();
};

} // namespace zorilla::chips
