// SPDX-License-Identifier: MIT
// A whole firmware with its pins, as `zorilla firmware` writes it, beside the same by hand: an
// echo, a button, a duty and a tone.
#include "bench/firmware.hpp"
#include "bench/rehearse/avr_chip.hpp"
#include "bench/rehearse/rehearse.hpp"
#include "rig/rig_file.hpp"
#include "rig/text/files.hpp"
#include "tests/chips/bank.hpp"
#include "tests/chips/feed.hpp"
#include "tests/desk/process.hpp"
#include "tests/metal/metal.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <random>
#include <vector>

namespace metal {

using namespace zorilla;

namespace {

/// What its pins are after a pass.
struct Pins {
    double share, hertz;
};
struct WithPins : Figures {
    std::vector<Pins> after;
};

/// A car that comes and goes, at times nothing, and a button now and then.
WithPins run_bay(const std::string& elf) {
    WithPins out;
    out.size = chips::size_of(elf);
    bench::AvrChip chip(elf);
    std::mt19937 random(4);
    chip.put("PC3", true);
    chip.put("PD2", false);
    double mm = 802.5;
    chip.watch("PD7", [&](bool high) {
        if (high)
            return;
        // Never within 2 mm of a limit, which clocks of other steps may see on either side.
        mm = std::clamp(mm + 5 * (static_cast<double>(random() % 25) - 12), 12.5, 2502.5);
        if (random() % 25 == 0)
            return; // nothing comes back
        const auto width = static_cast<uint64_t>(std::lround(2 * mm / 0.3432));
        chip.in_cycles(16 * 450, [&chip] { chip.put("PD2", true); });
        chip.in_cycles(16 * (450 + width), [&chip] { chip.put("PD2", false); });
    });
    chip.on_mark = [&, begin = uint64_t{0}](uint8_t mark, uint64_t cycle) mutable {
        if (mark == 1) {
            begin = cycle;
            return;
        }
        out.pass.add(cycle - begin - 1); // less the mark itself
        out.after.push_back({chip.share_of("PB1"), chip.hertz_of("PD3")});
        chip.put("PC3", out.after.size() % 40 < 35);
    };
    while (out.after.size() < 2000)
        chip.step();
    out.stack = chip.stack();
    return out;
}

/// The firmware of a rig, built in a folder; false if that fails.
bool build(const rig::Rig& rig, const std::string& path, const char* name,
           const desk::Folder& folder) {
    for (const auto& [file, content] :
         bench::firmware_folder(rig, name, rig::read_file(path), {100_ms, false}).files)
        folder.write(file, content);
    const bench::Built built = bench::build_firmware(*rig.chip_facts(), folder.path().string());
    if (!built.problem.empty()) {
        not_kept();
        fmt::print("{}\n", built.problem);
    }
    return built.problem.empty();
}

void row(const char* what, double a, double b, double most) {
    bound(fmt::format("{}, {:.0f} against {:.0f} by hand", what, a, b), a / b, most, "");
}

/// The hen house with all its roles, each rehearsed: with the same inputs at random, and for the
/// one by hand with each pin looked at.
void print_house_with_pins() {
    const std::string path = ZORILLA_SOURCE "/examples/hen_house/hen_house.toml";
    const rig::Rig rig = rig::load_rig(path).rig;
    const desk::Folder folder;
    if (!build(rig, path, "hen_house", folder))
        return;
    constexpr int64_t milliseconds = 200'000;
    const std::vector<bench::RehearsedRow> rows = bench::random_rows(rig, milliseconds);
    struct Whole : Figures {
        bench::Rehearsal is;
    };
    const auto rehearsed = [&](const std::string& elf, bool compares) {
        const desk::Folder other;
        std::filesystem::copy(elf, other / "firmware.elf");
        bench::RehearsalPlan plan;
        plan.compares = compares;
        Whole out;
        out.is = bench::rehearse(rig, other.path().string(), rows, milliseconds, plan);
        const auto passes = static_cast<uint64_t>(out.is.passes);
        out.pass = {static_cast<uint64_t>(out.is.mean_cycles * static_cast<double>(passes)),
                    static_cast<uint64_t>(out.is.worst_cycles), passes};
        out.size = chips::size_of(elf);
        out.stack = out.is.stack;
        return out;
    };
    const auto as_the_rig_says = [](const Whole& one) {
        for (const std::string& line : one.is.difference)
            fmt::print("  {}\n", line);
        if (!one.is.difference.empty())
            not_kept();
        fmt::print("  pins after {} passes, {} echoes and {} frames: {}\n", one.is.passes,
                   one.is.echoes, one.is.frames,
                   one.is.difference.empty() ? "as the rig file says" : "NOT KEPT");
    };
    const Whole mine = rehearsed(folder / "firmware.elf", true);
    fmt::print("The hen house with all its pins\n\n");
    as_the_rig_says(mine);
    struct Most {
        double cycles, worst, flash, ram;
    };
    const auto beside = [&](const char* title, const std::vector<std::string>& twins, Most most) {
        Figures least = rehearsed(chips::firmware(twins.front()), false);
        for (size_t i = 1; i < twins.size(); ++i)
            least.take_least(rehearsed(chips::firmware(twins[i]), false));
        fmt::print("\n{}\n\n", title);
        row("cycles a pass", mine.pass.mean(), least.pass.mean(), most.cycles);
        row("worst", static_cast<double>(mine.pass.worst), static_cast<double>(least.pass.worst),
            most.worst);
        row("flash", mine.size.flash, least.size.flash, most.flash);
        row("RAM with stack", mine.size.ram + mine.stack, least.size.ram + least.stack, most.ram);
    };
    beside("The same by hand, the better of -Os and -O2",
           {"hen_house_pins_twin_s", "hen_house_pins_twin_2"}, {1.2, 1.17, 1.48, 1.7});
    as_the_rig_says(rehearsed(chips::firmware("hen_house_pins_twin_t"), true));
    beside("By hand with edges kept in a log, so that none waits until another is decoded",
           {"hen_house_pins_keeping_s", "hen_house_pins_keeping_2"}, {1.2, 1.17, 1.45, 1.19});
    as_the_rig_says(rehearsed(chips::firmware("hen_house_pins_keeping_t"), true));
    beside("That built by the compiler that C++17 needs on this chip, with -Os as Zorilla is",
           {"hen_house_pins_keeping_c"}, {0.92, 0.87, 1.27, 1.12});
    fmt::print("\n");
}

} // namespace

void print_with_pins() {
    print_house_with_pins();
    const std::string path = ZORILLA_SOURCE "/tests/metal/bay.toml";
    const rig::Rig rig = rig::load_rig(path).rig;
    const desk::Folder folder;
    if (!build(rig, path, "bay", folder))
        return;
    const WithPins mine = run_bay(folder / "firmware.elf");
    const WithPins small = run_bay(chips::firmware("bay_twin_s"));
    const WithPins quick = run_bay(chips::firmware("bay_twin_2"));
    size_t different = 0;
    for (size_t i = 0; i < mine.after.size(); ++i)
        for (const WithPins* other : {&small, &quick})
            // The clock by hand counts 4 us, which may be the next step of the duty.
            different += std::fabs(mine.after[i].share - other->after[i].share) > 1.01 / 255 ||
                                 std::fabs(mine.after[i].hertz - other->after[i].hertz) > 5
                             ? 1
                             : 0;
    if (different > 0)
        not_kept();
    Figures twin = small;
    twin.take_least(quick);
    fmt::print(
        "A whole firmware with its pins: an echo, a button, a fan and a tone; the same by hand, "
        "the better of -Os and -O2\n\n");
    row("cycles a pass", mine.pass.mean(), twin.pass.mean(), 2.5);
    row("worst", static_cast<double>(mine.pass.worst), static_cast<double>(twin.pass.worst), 5.1);
    row("flash", mine.size.flash, twin.size.flash, 3.8);
    row("RAM with stack", mine.size.ram + mine.stack, twin.size.ram + twin.stack, 5);
    fmt::print("  pins after {} passes: {}\n\n", mine.after.size(),
               different == 0 ? "the same"
                              : fmt::format("{} times DIFFERENT: NOT KEPT", different));
}

} // namespace metal
