// SPDX-License-Identifier: MIT
// What the heat lamp and each conversion cost on the chip, beside hand-written twins, and whether
// the chips agree with the desk. Everything is counted in the emulator or read from the linker's
// file. Ends with 1 if a bound is not kept.
#include "tests/chips/bank.hpp"
#include "tests/chips/feed.hpp"
#include "tests/metal/metal.hpp"
#include "tests/parts/promises.hpp"

#include "rig/text/files.hpp"
#include "rig/text/text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <filesystem>

namespace {

using namespace zorilla;

using metal::bound;
using metal::Cost;

struct Column {
    std::string name;
    Cost conversion;
    Cost pass;
    chips::Size size;
};

constexpr uint16_t first_code = 110; // 80 degC
constexpr uint16_t last_code = 975;  // -30 degC

/// Takes the time between marks 1 and 2 (a conversion) and `from` and 4 (a whole pass).
void follow_marks(chips::Atmega328p& chip, Column& column, uint8_t from) {
    chip.on_mark = [&column, from, begin = std::array<uint64_t, 5>()](uint8_t mark,
                                                                      uint64_t cycle) mutable {
        begin[mark] = cycle;
        // Less one cycle each, the mark itself.
        if (mark == 2)
            column.conversion.add(cycle - begin[1] - 1);
        if (mark == 4 && begin[from] != 0)
            column.pass.add(cycle - begin[from] - 1);
    };
}

Column measure_library(double& largest_error) {
    Column out{"zorilla", {}, {}, chips::size_of(chips::firmware("heat_lamp"))};
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
    Column out{name, {}, {}, chips::size_of(chips::firmware(firmware))};
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

void same(const std::string& chip, const chips::Fed& fed, const chips::Bytes& desk,
          const chips::Bytes& other) {
    const long different = chips::first_difference(fed, desk, other);
    if (different >= 0)
        metal::not_kept();
    const std::string count = rig::count_to_text(fed.count());
    if (different < 0)
        fmt::print("  {:<22} {} compared with the desk: every bit equal\n", chip, count);
    else
        fmt::print("  {:<22} {} compared with the desk: DIFFERENT from number {} on\n", chip, count,
                   different + 1);
}

void same_everywhere(const std::string& what, const chips::Fed& fed) {
    fmt::print("{}\n\n", what);
    const chips::Bytes desk = chips::run_on_desk(fed);
    same("ATmega328P", fed, desk, chips::run_on_atmega328p(fed));
    same("Cortex-M0", fed, desk, chips::run_on_cortex(fed, "m0"));
    same("Cortex-M3", fed, desk, chips::run_on_cortex(fed, "m3"));
    fmt::print("\n");
}

// --- Each conversion

/// Inputs of one conversion that yield a value; a fault costs less, and would flatter the mean.
chips::Fed inputs_of(const chips::Fed& all, bank::Which which) {
    chips::Fed one{all.firmware, all.in_size, all.out_size, {}};
    const auto add = [&one](const bank::In& in) {
        uint8_t packed[bank::in_size];
        bank::pack(packed, in);
        one.inputs.insert(one.inputs.end(), packed, packed + sizeof packed);
    };
    if (which == bank::rate_by_window || which == bank::rate_by_period) {
        // Each pass has something to convert.
        for (uint32_t i = 1; i < 4000; ++i)
            add({which, i * 1001, i * (1 + i % 700), static_cast<int32_t>(1300 + i * i), 0});
        return one;
    }
    if (which == bank::mean_of_four || which == bank::rate_of_change || which == bank::smoothing) {
        // Temperatures as they are, not the ends of what can be stored.
        for (uint32_t i = 0; i < 4000; ++i)
            add({which, i * 997, 0, static_cast<int32_t>(20'000 + i * i % 7001 - i * 3), 0});
        return one;
    }
    for (size_t i = 0; i < all.count(); ++i)
        if (all.inputs[i * all.in_size] == which)
            add(bank::unpack(&all.inputs[i * all.in_size]));
    return one;
}

Cost cost_of(const std::string& firmware, const chips::Fed& fed, const chips::Bytes& desk) {
    chips::Atmega328p chip(chips::firmware(firmware));
    Cost out;
    uint64_t begin = 0;
    size_t pass = 0;
    chip.on_mark = [&](uint8_t mark, uint64_t cycle) {
        if (mark == 1)
            begin = cycle;
        else if (desk[pass++ * fed.out_size + 4] == 0)
            out.add(cycle - begin - 1); // less the mark itself
    };
    chip.feed(chips::announced(fed));
    chip.run_to_end();
    return out;
}

/// How a conversion does in one way of writing it, without what hands its input over.
struct Way {
    Cost cost;
    uint32_t flash = 0;
    std::string astray{}; ///< what a twin says otherwise than the library
};
Way way_of(const std::string& kind, const std::string& which, const chips::Fed& fed,
           const chips::Bytes& desk, const Way& none) {
    Way out{cost_of(kind + which, fed, desk), chips::size_of(chips::firmware(kind + which)).flash};
    out.cost.less(static_cast<uint64_t>(none.cost.count == 0 ? 0 : none.cost.mean()));
    out.flash -= none.flash;
    return out;
}
/// Where a twin has another health than the library, or is beside it by more than a hundredth, and
/// more than 0.15; nothing if it hardly ever is. (At a jump of a formula both may be right.)
std::string astray(const std::string& firmware, const chips::Fed& fed, const chips::Bytes& desk) {
    chips::Atmega328p chip(chips::firmware(firmware));
    chip.feed(chips::announced(fed));
    chip.run_to_end();
    const auto value_at = [](const uint8_t* at) {
        return static_cast<double>(static_cast<int32_t>(uint32_t{at[0]} | uint32_t{at[1]} << 8 |
                                                        uint32_t{at[2]} << 16 |
                                                        uint32_t{at[3]} << 24));
    };
    size_t count = 0;
    std::string first;
    for (size_t i = 0; i < fed.count(); ++i) {
        const uint8_t* const is = &desk[i * fed.out_size];
        const uint8_t* const says = &chip.collected().at(i * 5);
        const double value = value_at(is);
        if (is[4] == says[4] && (is[4] != 0 || std::fabs(value_at(says) - value) <=
                                                   std::max(150.0, std::fabs(value) / 100)))
            continue;
        if (++count == 1)
            first = fmt::format("for {}, {} and {} it says {}, health {}, where it is {}, {}",
                                value_at(&fed.inputs[i * fed.in_size + 5]),
                                value_at(&fed.inputs[i * fed.in_size + 9]),
                                value_at(&fed.inputs[i * fed.in_size + 13]), value_at(says),
                                says[4], value, is[4]);
    }
    return count * 1000 < fed.count()
               ? ""
               : fmt::format("{} of {} times wrong, {}", count, fed.count(), first);
}

/// The better of what -Os and -O2 make of it.
Way careful_way(const std::string& which, const chips::Fed& fed, const chips::Bytes& desk,
                const Way (&none)[2]) {
    const std::string kind = "careful_";
    const Way small = way_of(kind, which + "_s", fed, desk, none[0]);
    Way best = way_of(kind, which + "_2", fed, desk, none[1]);
    best.cost.sum = std::min(best.cost.sum, small.cost.sum);
    best.flash = std::min(best.flash, small.flash);
    best.astray = astray(kind + which + "_s", fed, desk);
    return best;
}

/// How many times the cycles of the careful integers one may take.
double most_of(bank::Which which) {
    return which == bank::mean_of_four ? 1.9 : which == bank::gas_in_climate ? 1.2 : 1.1;
}

void print_conversions(const chips::Fed& all) {
    fmt::print("Each conversion on the ATmega328P: cycles and flash, beside careful integers in C "
               "where there are such,\nand the formula in floating point\n\n"
               "  {:<28}{:>8}{:>8}{:>8}   {:>8}{:>8}{:>8}   {:>8}{:>8}{:>8}\n",
               "", "mean", "worst", "flash", "integers", "flash", "ratio", "float", "flash",
               "ratio");
    const chips::Fed nothing = inputs_of(all, bank::handing_over);
    const chips::Bytes as_it_came = chips::run_on_desk(nothing);
    const std::string handing = "handing_over";
    const Way none = way_of("only_", handing, nothing, as_it_came, {});
    const Way usual_none = way_of("usual_", handing, nothing, as_it_came, {});
    const Way careful_none[2] = {way_of("careful_", handing + "_s", nothing, as_it_came, {}),
                                 way_of("careful_", handing + "_2", nothing, as_it_came, {})};
    std::vector<parts::Cost> rows = parts::all_of<parts::Cost>();
    std::sort(rows.begin(), rows.end(),
              [](const auto& a, const auto& b) { return a.which < b.which; });
    for (const parts::Cost& row : rows) {
        const chips::Fed fed = inputs_of(all, row.which);
        const chips::Bytes desk = chips::run_on_desk(fed);
        const std::string which = bank::name_of(row.which);
        const Way mine = way_of("only_", which, fed, desk, none);
        std::string verdict;
        const auto judge = [&](bool kept, const std::string& what) {
            if (kept)
                return;
            metal::not_kept();
            verdict += "  " + what + ": NOT KEPT";
        };
        judge(row.most == 0 || mine.cost.mean() <= row.most, fmt::format("at most {}", row.most));
        fmt::print("  {:<28}{:>8.0f}{:>8}{:>8}", row.name, mine.cost.mean(), mine.cost.worst,
                   mine.flash);
        if (std::filesystem::exists(chips::firmware("careful_" + which + "_s"))) {
            const Way careful = careful_way(which, fed, desk, careful_none);
            fmt::print("   {:>8.0f}{:>8}{:>8.2f}", careful.cost.mean(), careful.flash,
                       mine.cost.mean() / careful.cost.mean());
            judge(careful.astray.empty(), "integers: " + careful.astray);
            const double most = most_of(row.which);
            judge(mine.cost.mean() <= most * careful.cost.mean(),
                  fmt::format("at most {} of the integers", most));
        } else {
            fmt::print("   {:>8}{:>8}{:>8}", "", "", "");
        }
        if (row.which != bank::frame_pulse) { // nobody decodes these in floating point
            const Way usual = way_of("usual_", which, fed, desk, usual_none);
            judge(mine.cost.mean() < usual.cost.mean(), "cheaper than floating point");
            fmt::print("   {:>8.0f}{:>8}{:>8.2f}", usual.cost.mean(), usual.flash,
                       mine.cost.mean() / usual.cost.mean());
        }
        fmt::print("{}\n", verdict);
    }
    fmt::print("\n  By hand, keeping what Zorilla keeps, or giving up what it does not\n");
    const auto other = [&](const char* what, bank::Which which, const std::string& twin,
                           double most_cycles, double most_flash) {
        const chips::Fed fed = inputs_of(all, which);
        const chips::Bytes desk = chips::run_on_desk(fed);
        const Way mine = way_of("only_", bank::name_of(which), fed, desk, none);
        const Way by_hand = careful_way(twin, fed, desk, careful_none);
        const double cycles = mine.cost.mean() / by_hand.cost.mean();
        const double flash = static_cast<double>(mine.flash) / static_cast<double>(by_hand.flash);
        const bool kept = by_hand.astray.empty() && cycles <= most_cycles && flash <= most_flash;
        if (!kept)
            metal::not_kept();
        fmt::print("  {:<56}{:>5.0f} cycles, {:>4} bytes: {:.2f}, {:.2f}, at most {}, {}: {}{}\n",
                   what, by_hand.cost.mean(), by_hand.flash, cycles, flash, most_cycles, most_flash,
                   by_hand.astray, kept ? "kept" : " NOT KEPT");
    };
    other("a mean that cannot run over", bank::mean_of_four, "mean_of_four_keeping", 0.9, 0.7);
    other("gas in a climate, axes of any points", bank::gas_in_climate, "gas_in_climate_keeping",
          0.9, 1.3);
    other("smoothing, each pass taken to come in time", bank::smoothing, "smoothing_even", 1.05,
          1.5);
    fmt::print(
        "\n  Means over inputs that yield a value, without what hands the input over ({:.0f} "
        "cycles; integers: {:.0f}, float: {:.0f}).\n  Flash is what a conversion adds to "
        "such a firmware; what several share is counted in each.\n\n",
        none.cost.mean(), careful_none[1].cost.mean(), usual_none.cost.mean());
}

} // namespace

int main() {
    double largest_error = 0;
    const Column library = measure_library(largest_error);
    const Column careful = measure_twin("careful twin", "careful_twin_s");
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
    bound("largest error from -20 to 80 degC, against a double", largest_error, 0.05, " degC");
    bound("flash, against the usual twin", 1.0 * library.size.flash / usual.size.flash, 0.8, "");
    bound("flash, against the careful twin", 1.0 * library.size.flash / careful.size.flash, 1.3,
          "");
    const std::string heap = heap_symbols("heat_lamp");
    if (heap != "none")
        metal::not_kept();
    fmt::print("  {:<52} {}\n\n", "heap functions in the firmware", heap);

    metal::print_with_pins();
    metal::print_devices();
    const chips::Fed conversions = chips::conversions();
    print_conversions(conversions);
    same_everywhere(
        "The heat lamp, the same bit for bit: value, health, truth, cause and pin level; passes",
        chips::heat_lamp_passes());
    same_everywhere("Every conversion, the same bit for bit: value and health; inputs",
                    conversions);
    return metal::all_kept() ? 0 : 1;
}
