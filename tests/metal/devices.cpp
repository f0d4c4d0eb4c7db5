// SPDX-License-Identifier: MIT
// Whole devices on the chip, each beside the same in hand-written C: small ones, and the hen house.
#include "tests/chips/device_runs.hpp"
#include "tests/metal/metal.hpp"

#include <fmt/format.h>

#include <utility>
#include <vector>

namespace metal {

void run_on(Ran& ran, const std::string& firmware, const chips::Bytes& fed) {
    chips::Atmega328p chip(chips::firmware(firmware));
    chip.on_mark = [&ran, begin = uint64_t{0}](uint8_t mark, uint64_t cycle) mutable {
        if (mark == 1)
            begin = cycle;
        else
            ran.pass.add(cycle - begin - 1); // less the mark itself
    };
    chip.feed(fed);
    chip.run_to_end();
    constexpr uint32_t top_of_ram = 0x8ff;
    ran.stack = std::max(ran.stack, top_of_ram - chip.lowest_stack());
    ran.pins.insert(ran.pins.end(), chip.collected().begin(), chip.collected().end());
}

Ran run_fed(const std::string& firmware, const chips::Bytes& fed) {
    Ran out;
    out.size = chips::size_of(chips::firmware(firmware));
    run_on(out, firmware, fed);
    return out;
}

static bool kept_so_far = true;
bool all_kept() { return kept_so_far; }
void not_kept() { kept_so_far = false; }

void bound(const std::string& what, double measured, double most, const std::string& unit) {
    const bool kept = measured <= most;
    kept_so_far = kept_so_far && kept;
    fmt::print("  {:<52} {:>8.3f}{}, at most {:g}: {}\n", what, measured, unit, most,
               kept ? "kept" : "NOT KEPT");
}

namespace {

/// What a device may take at most, beside a twin.
struct Ratios {
    double cycles, worst, flash, ram;
};
struct Beside {
    const char* name;
    const char* firmware;
    const char* twin; ///< by avr-gcc with -Os (_s) and with -O2 (_2), by the compiler of C++ (_c)
    Ratios most;
};
/// How twins were built, and what devices may take beside them.
struct Table {
    std::string title;
    std::vector<const char*> built;
    std::vector<Beside> devices;
};

/// Passes a tenth of a second apart, and now and then a minute, across the wrap of the clock: a
/// code that wanders over the whole converter, or a motor that stands and a reset that is pressed.
chips::Bytes small_inputs(bool codes) {
    chips::Bytes out;
    uint32_t now = 0xffff'ffff - 100'000, random = 1;
    int32_t code = 500, way = 1;
    for (int i = 0; i < 6000; ++i) {
        random = random * 1664525U + 1013904223U;
        const auto dice = static_cast<int32_t>(random >> 16);
        now += i % 97 == 0 ? 60'000U : 100U;
        way = dice % 61 == 0 ? -way : way;
        code = std::clamp(code + way * (dice % 9), 0, 1023);
        const auto in = static_cast<uint16_t>(
            codes ? code : (i / 40 % 3 != 0 ? 1 : 0) | (i % 700 == 650 ? 2 : 0));
        out.push_back(1);
        for (int byte = 0; byte < 4; ++byte)
            out.push_back(static_cast<uint8_t>(now >> 8 * byte));
        out.push_back(static_cast<uint8_t>(in));
        out.push_back(static_cast<uint8_t>(in >> 8));
    }
    return out;
}

/// Runs twins, and takes the best of each figure.
Ran twin_of(const Beside& device, const std::vector<const char*>& built,
            const std::vector<chips::Bytes>& fed, const chips::Bytes& pins) {
    Ran best;
    for (const char* level : built) {
        const std::string firmware = std::string(device.twin) + level;
        Ran twin;
        twin.size = chips::size_of(chips::firmware(firmware));
        for (const chips::Bytes& passes : fed)
            run_on(twin, firmware, passes);
        if (twin.pins != pins) {
            not_kept();
            fmt::print("  {}: it does something else than {}: NOT KEPT\n", device.name, firmware);
        }
        if (best.pass.count == 0) {
            best = twin;
            continue;
        }
        best.take_least(twin);
    }
    return best;
}

/// What a device is fed: for the hen house its trace, and random steps.
std::vector<chips::Bytes> fed_to(const std::string& firmware) {
    if (firmware != "hen_house")
        return {small_inputs(firmware != "four_device_motor")};
    const chips::ExampleDevice& house = chips::example_devices().front();
    const zorilla::rig::Rig rig = chips::rig_of(house);
    return {chips::announced(chips::trace_of(house, rig)),
            chips::announced(chips::random_steps(house, rig, 20'000))};
}

void print(const Table& table) {
    fmt::print("{}\n\n  {:<24}{:>16}{:>16}{:>16}{:>18}\n", table.title, "", "cycles (twin)",
               "worst (twin)", "flash (twin)", "RAM+stack (twin)");
    std::vector<std::pair<Ran, Ran>> all;
    for (const Beside& device : table.devices) {
        const std::vector<chips::Bytes> fed = fed_to(device.firmware);
        Ran mine;
        mine.size = chips::size_of(chips::firmware(device.firmware));
        for (const chips::Bytes& passes : fed)
            run_on(mine, device.firmware, passes);
        const Ran twin = twin_of(device, table.built, fed, mine.pins);
        fmt::print("  {:<24}{:>8.0f} ({:>5.0f}){:>8} ({:>5}){:>8} ({:>5}){:>10} ({:>5})\n",
                   device.name, mine.pass.mean(), twin.pass.mean(), mine.pass.worst,
                   twin.pass.worst, mine.size.flash, twin.size.flash, mine.size.ram + mine.stack,
                   twin.size.ram + twin.stack);
        all.emplace_back(mine, twin);
    }
    fmt::print("\n");
    for (size_t i = 0; i < all.size(); ++i) {
        const auto& [mine, twin] = all[i];
        const Ratios& at_most = table.devices[i].most;
        const auto one = [&](const char* what, double of_mine, double of_twin, double bound_) {
            bound(fmt::format("{}: {}, against the twin", table.devices[i].name, what),
                  of_mine / of_twin, bound_, "");
        };
        one("cycles", mine.pass.mean(), twin.pass.mean(), at_most.cycles);
        one("worst pass", static_cast<double>(mine.pass.worst),
            static_cast<double>(twin.pass.worst), at_most.worst);
        one("flash", mine.size.flash, twin.size.flash, at_most.flash);
        one("RAM with stack", mine.size.ram + mine.stack, twin.size.ram + twin.stack, at_most.ram);
    }
    fmt::print("\n");
}

void print_beside_twins() {
    const char *threshold = "four_device_threshold", *fans = "four_device_two_fans",
               *bar = "four_device_bar", *motor = "four_device_motor", *house = "hen_house";
    print({"Devices on the ATmega328P, each beside the same in careful integer C: the better of "
           "-Os and -O2",
           {"_s", "_2"},
           {{"a threshold and a pin", threshold, "four_twin_threshold", {1.25, 1.2, 1.1, 1}},
            {"two staged fans", fans, "four_twin_two_fans", {1.05, 1, 1.15, 0.9}},
            {"a bar of four lights", bar, "four_twin_bar", {1.57, 1, 1.2, 1}},
            {"a motor that jams", motor, "four_twin_motor", {1.15, 1.1, 1.15, 1}},
            {"the hen house", house, "hen_house_twin", {1.2, 1.15, 1.31, 1.2}}}});
    fmt::print(
        "  Both are fed the same passes (6,000; the hen house 71,840), and must set the same "
        "outputs after each.\n\n");
    print({"The same twins built by the compiler that C++17 needs on this chip, with -Os as the "
           "devices are",
           {"_c"},
           {{"a threshold and a pin", threshold, "four_twin_threshold", {1, 1, 1, 1}},
            {"two staged fans", fans, "four_twin_two_fans", {0.6, 0.65, 1.2, 0.7}},
            {"a bar of four lights", bar, "four_twin_bar", {1.4, 1, 1.1, 1}},
            {"a motor that jams", motor, "four_twin_motor", {1.15, 1.05, 1, 1}},
            {"the hen house", house, "hen_house_twin", {0.9, 0.8, 1.13, 1.13}}}});
    print({"Twins that keep what blocks keep: code for each fan, the number of the level, the "
           "other pins of a port; by that compiler too",
           {"_c"},
           {{"two staged fans", fans, "four_keeping_two_fans", {1, 0.95, 1.02, 1}},
            {"a bar of four lights", bar, "four_keeping_bar", {1.2, 1, 1.05, 1}},
            {"a motor that jams", motor, "four_keeping_motor", {1, 0.95, 1, 1}}}});
}

/// A whole pass of each example device, over its trace and random steps.
void print_examples() {
    fmt::print(
        "The example devices on the ATmega328P, a whole pass with all sensors and outputs\n\n"
        "  {:<24}{:>10}{:>10}{:>10}{:>8}\n",
        "", "mean", "worst", "flash", "RAM");
    for (const chips::ExampleDevice& device : chips::example_devices()) {
        const zorilla::rig::Rig rig = chips::rig_of(device);
        Ran ran = run_fed(device.firmware + "_atmega328p",
                          chips::announced(chips::trace_of(device, rig)));
        run_on(ran, device.firmware + "_atmega328p",
               chips::announced(chips::random_steps(device, rig, 20'000)));
        fmt::print("  {:<24}{:>10.0f}{:>10}{:>10}{:>8}\n", device.name, ran.pass.mean(),
                   ran.pass.worst, ran.size.flash, ran.size.ram);
    }
    fmt::print(
        "\n  16,000 cycles are a millisecond. The firmwares hold the device and what feeds it; "
        "RAM is without the stack.\n\n");
    const chips::Size house = chips::size_of(chips::firmware("device_HenHouse_atmega328p"));
    bound("hen house: flash", house.flash, 10'240, " B");
    bound("hen house: RAM", house.ram, 256, " B");
    bound("frost light, with the board: flash",
          chips::size_of(chips::firmware("frost_light")).flash, 700, " B");
    fmt::print("\n");
}

} // namespace

void print_devices() {
    print_beside_twins();
    print_examples();
}

} // namespace metal
