// SPDX-License-Identifier: MIT
// What the parts of ./dev metal share: how something is measured on the emulated chip, and bounds
// that are kept or not.
#pragma once

#include "tests/chips/atmega328p.hpp"
#include "tests/chips/passes.hpp"

#include <algorithm>
#include <cstdint>
#include <string>

namespace metal {

/// Cycles between two marks, over many passes.
struct Cost {
    uint64_t sum = 0;
    uint64_t worst = 0;
    uint64_t count = 0;
    void add(uint64_t cycles) {
        sum += cycles;
        worst = std::max(worst, cycles);
        ++count;
    }
    void less(uint64_t cycles) {
        sum -= cycles * count;
        worst -= cycles;
    }
    double mean() const { return static_cast<double>(sum) / static_cast<double>(count); }
};

/// What a firmware takes.
struct Figures {
    Cost pass;
    chips::Size size;
    uint32_t stack = 0;
    /// Of each figure the better; passes are as many.
    void take_least(const Figures& other) {
        pass.sum = std::min(pass.sum, other.pass.sum);
        pass.worst = std::min(pass.worst, other.pass.worst);
        size.flash = std::min(size.flash, other.size.flash);
        size.ram = std::min(size.ram, other.size.ram);
        stack = std::min(stack, other.stack);
    }
};

/// What a firmware that is fed passes through registers has done and taken.
struct Ran : Figures {
    chips::Bytes pins; ///< its outputs after each pass
};
Ran run_fed(const std::string& firmware, const chips::Bytes& fed);
/// Adds what it does with other passes.
void run_on(Ran& ran, const std::string& firmware, const chips::Bytes& fed);

/// Whether all bounds so far were kept.
bool all_kept();
void not_kept();
void bound(const std::string& what, double measured, double most, const std::string& unit);

/// Small devices, the hen house and the other examples, beside their twins where they have one.
void print_devices();
/// A whole firmware with its pins beside its twin.
void print_with_pins();

} // namespace metal
