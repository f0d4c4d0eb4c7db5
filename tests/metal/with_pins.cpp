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
struct WithPins {
    Cost pass;
    chips::Size size;
    uint32_t stack = 0;
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
    struct Whole {
        bench::Rehearsal is;
        chips::Size size;
    };
    const auto rehearsed = [&](const std::string& elf, bool compares) {
        const desk::Folder other;
        std::filesystem::copy(elf, other / "firmware.elf");
        bench::RehearsalPlan plan;
        plan.compares = compares;
        return Whole{bench::rehearse(rig, other.path().string(), rows, milliseconds, plan),
                     chips::size_of(elf)};
    };
    const Whole mine = rehearsed(folder / "firmware.elf", true);
    const Whole told = rehearsed(chips::firmware("hen_house_pins_twin_t"), true);
    const Whole small = rehearsed(chips::firmware("hen_house_pins_twin_s"), false);
    const Whole quick = rehearsed(chips::firmware("hen_house_pins_twin_2"), false);
    fmt::print("The hen house with all its pins; the same by hand, the better of -Os and -O2\n\n");
    row("cycles a pass", mine.is.mean_cycles, std::min(small.is.mean_cycles, quick.is.mean_cycles),
        1.15);
    row("worst", static_cast<double>(mine.is.worst_cycles),
        static_cast<double>(std::min(small.is.worst_cycles, quick.is.worst_cycles)), 1.12);
    row("flash", mine.size.flash, std::min(small.size.flash, quick.size.flash), 1.52);
    row("RAM with stack", mine.size.ram + mine.is.stack,
        std::min(small.size.ram, quick.size.ram) + std::min(small.is.stack, quick.is.stack), 1.85);
    bool same = true;
    for (const Whole* one : {&mine, &told}) {
        same = same && one->is.difference.empty();
        for (const std::string& line : one->is.difference)
            fmt::print("  {}\n", line);
    }
    if (!same)
        not_kept();
    fmt::print("  pins after {} passes, {} echoes and {} frames ({} here): {}\n\n", told.is.passes,
               told.is.echoes, told.is.frames, mine.is.frames,
               same ? "as the rig file says" : "NOT KEPT");
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
    WithPins twin = small;
    twin.pass.sum = std::min(twin.pass.sum, quick.pass.sum);
    twin.pass.worst = std::min(twin.pass.worst, quick.pass.worst);
    twin.size.flash = std::min(twin.size.flash, quick.size.flash);
    twin.size.ram = std::min(twin.size.ram, quick.size.ram);
    twin.stack = std::min(twin.stack, quick.stack);
    fmt::print(
        "A whole firmware with its pins: an echo, a button, a fan and a tone; the same by hand, "
        "the better of -Os and -O2\n\n");
    row("cycles a pass", mine.pass.mean(), twin.pass.mean(), 2.6);
    row("worst", static_cast<double>(mine.pass.worst), static_cast<double>(twin.pass.worst), 5.2);
    row("flash", mine.size.flash, twin.size.flash, 4);
    row("RAM with stack", mine.size.ram + mine.stack, twin.size.ram + twin.stack, 5.5);
    fmt::print("  pins after {} passes: {}\n\n", mine.after.size(),
               different == 0 ? "the same"
                              : fmt::format("{} times DIFFERENT: NOT KEPT", different));
}

} // namespace metal
