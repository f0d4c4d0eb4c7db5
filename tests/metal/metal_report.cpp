// SPDX-License-Identifier: MIT
// What the heat lamp costs on the chip, beside hand-written twins, and whether the chips agree with
// the desk. Everything is counted in the emulator or read from the linker's file. Ends with 1 if a
// bound is not kept.
#include "tests/chips/atmega328p.hpp"
#include "tests/chips/feed.hpp"
#include "tests/chips/passes.hpp"

#include "rig/files.hpp"
#include "rig/text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace {

using namespace zorilla;

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
    double mean() const { return static_cast<double>(sum) / static_cast<double>(count); }
};

struct Column {
    std::string name;
    Cost conversion;
    Cost pass;
    Cost chip; ///< a linear chip's conversion; the library only
    chips::Size size;
};

constexpr uint16_t first_code = 110; // 80 degC
constexpr uint16_t last_code = 975;  // -30 degC

/// Takes the time between marks 1 and 2 (a conversion) and `from` and 4 (a whole pass).
void follow_marks(chips::Atmega328p& chip, Column& column, uint8_t from) {
    chip.on_mark = [&column, from, begin = std::array<uint64_t, 7>()](uint8_t mark,
                                                                      uint64_t cycle) mutable {
        begin[mark] = cycle;
        // Less one cycle each, the mark itself.
        if (mark == 2)
            column.conversion.add(cycle - begin[1] - 1);
        if (mark == 6)
            column.chip.add(cycle - begin[5] - 1);
        if (mark == 4 && begin[from] != 0)
            column.pass.add(cycle - begin[from] - 1);
    };
}

Column measure_library(double& largest_error) {
    Column out{"zorilla", {}, {}, {}, chips::size_of(chips::firmware("heat_lamp"))};
    chips::Atmega328p chip(chips::firmware("feed_atmega328p"));
    follow_marks(chip, out, 3);
    chips::Bytes in;
    uint32_t now = 0;
    for (uint16_t code = first_code; code <= last_code; ++code) {
        uint8_t packed[feed::pass_in_size];
        feed::pack_in(packed, Instant(now += 100), Sample(code));
        in.push_back(1);
        in.insert(in.end(), packed, packed + sizeof packed);
    }
    chip.feed(in);
    chip.run_to_end();
    largest_error = 0;
    for (uint16_t code = first_code; code <= last_code; ++code) {
        const uint8_t* packed = &chip.collected()[(code - first_code) * feed::pass_out_size];
        const auto value = static_cast<int32_t>(feed::time_of(packed).milliseconds());
        const double ratio = code / (1024.0 - code); // thermistor over pull-up, both 10 kohm
        const double exact = 1 / (1 / 298.15 + std::log(ratio) / 3950) - 273.15;
        if (exact >= -20 && exact <= 80)
            largest_error = std::max(largest_error, std::fabs(value / 1000.0 - exact));
    }
    return out;
}

Column measure_twin(const std::string& name, const std::string& firmware) {
    Column out{name, {}, {}, {}, chips::size_of(chips::firmware(firmware))};
    chips::Atmega328p chip(chips::firmware(firmware));
    chip.set_millivolts(3000);
    chip.run_for(250); // past the passes without a conversion
    follow_marks(chip, out, 1);
    for (uint32_t code = first_code; code <= last_code; ++code) {
        chip.set_millivolts((code * 5000 + 5000) / 1024);
        chip.run_for(100);
    }
    return out;
}

std::string heap_symbols(const std::string& firmware) {
    const std::string elf = rig::read_file(chips::firmware(firmware));
    std::string found;
    for (const char* symbol : {"malloc", "free", "_Znwj", "_Znaj", "_ZdlPv", "_ZdaPv"})
        if (elf.find(std::string(1, '\0') + symbol + '\0') != std::string::npos)
            found += std::string(found.empty() ? "" : ", ") + symbol;
    return found.empty() ? "none" : found;
}

bool all_kept = true;

void bound(const std::string& what, double measured, double most, const std::string& unit) {
    const bool kept = measured <= most;
    all_kept = all_kept && kept;
    fmt::print("  {:<52} {:>8.3f}{}, at most {:g}: {}\n", what, measured, unit, most,
               kept ? "kept" : "NOT KEPT");
}

void same(const std::string& chip, const chips::Bytes& passes, const chips::Bytes& desk,
          const chips::Bytes& other) {
    const long different = chips::first_difference(desk, other);
    all_kept = all_kept && different < 0;
    const std::string count = rig::count_to_text(chips::count_of(passes));
    if (different < 0)
        fmt::print("  {:<22} {} passes compared with the desk: every bit equal\n", chip, count);
    else
        fmt::print("  {:<22} {} passes compared with the desk: DIFFERENT from pass {} on\n", chip,
                   count, different + 1);
}

} // namespace

int main() {
    double largest_error = 0;
    const Column library = measure_library(largest_error);
    const Column careful = measure_twin("careful twin", "careful_twin");
    const Column usual = measure_twin("usual twin", "usual_twin");
    const Column* const columns[] = {&library, &careful, &usual};

    fmt::print("Heat lamp on an ATmega328P at 16 MHz (emulated, exact to the cycle)\n\n");
    fmt::print("  {:<36}", "");
    for (const Column* column : columns)
        fmt::print("{:>14}", column->name);
    const auto row = [&](const std::string& what, auto value) {
        fmt::print("\n  {:<36}", what);
        for (const Column* column : columns)
            fmt::print("{:>14}", value(*column));
    };
    row("a conversion, mean cycles",
        [](const Column& c) { return fmt::format("{:.0f}", c.conversion.mean()); });
    row("a conversion, worst", [](const Column& c) { return std::to_string(c.conversion.worst); });
    row("a whole pass, mean cycles",
        [](const Column& c) { return fmt::format("{:.0f}", c.pass.mean()); });
    row("a whole pass, worst", [](const Column& c) { return std::to_string(c.pass.worst); });
    row("flash of the firmware, bytes",
        [](const Column& c) { return std::to_string(c.size.flash); });
    row("RAM for variables, bytes", [](const Column& c) { return std::to_string(c.size.ram); });
    fmt::print(
        "\n\n  Twins: the same device written by hand in C, by avr-gcc -Os in this run; the "
        "usual one with\n  a floating-point logarithm, the careful one with a 16-bit table.\n"
        "  Conversions over codes {} to {}, {} of them.\n\n",
        first_code, last_code, library.conversion.count);

    bound("conversion, mean cycles", library.conversion.mean(), 200, "");
    bound("a linear chip's conversion, mean cycles", library.chip.mean(), 200, "");
    bound("largest error from -20 to 80 degC, against a double", largest_error, 0.05, " degC");
    bound("flash, against the usual twin", 1.0 * library.size.flash / usual.size.flash, 0.8, "");
    bound("flash, against the careful twin", 1.0 * library.size.flash / careful.size.flash, 1.3,
          "");
    const std::string heap = heap_symbols("heat_lamp");
    all_kept = all_kept && heap == "none";
    fmt::print("  {:<52} {}\n\n", "heap functions in the firmware", heap);

    const chips::Bytes passes = chips::passes_to_compare();
    const chips::Bytes desk = chips::run_on_desk(passes);
    fmt::print("The same bit for bit: value, health, truth, cause, pin level, and a linear chip's "
               "value\n\n");
    same("ATmega328P", passes, desk, chips::run_on_atmega328p(passes));
    same("Cortex-M0", passes, desk, chips::run_on_cortex_m0(passes));
    return all_kept ? 0 : 1;
}
