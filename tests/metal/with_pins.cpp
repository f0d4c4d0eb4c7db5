// SPDX-License-Identifier: MIT
// A whole firmware with its pins, as `zorilla firmware` writes it, beside the same by hand: an
// echo, a button, a duty and a tone.
#include "bench/firmware.hpp"
#include "bench/rehearse/avr_chip.hpp"
#include "rig/rig_file.hpp"
#include "rig/text/files.hpp"
#include "tests/chips/bank.hpp"
#include "tests/chips/feed.hpp"
#include "tests/desk/process.hpp"
#include "tests/metal/metal.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
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

} // namespace

void print_with_pins() {
    const std::string path = ZORILLA_SOURCE "/tests/metal/bay.toml";
    const rig::Rig rig = rig::load_rig(path).rig;
    const desk::Folder folder;
    for (const auto& [name, content] :
         bench::firmware_folder(rig, "bay", rig::read_file(path), {100_ms, false}).files)
        folder.write(name, content);
    const bench::Built built = bench::build_firmware(*rig.chip_facts(), folder.path().string());
    if (!built.problem.empty()) {
        not_kept();
        fmt::print("{}\n", built.problem);
        return;
    }
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
    const auto row = [](const char* what, double a, double b, double most) {
        bound(fmt::format("{}, {:.0f} against {:.0f} by hand", what, a, b), a / b, most, "");
    };
    row("cycles a pass", mine.pass.mean(), twin.pass.mean(), 2.6);
    row("worst", static_cast<double>(mine.pass.worst), static_cast<double>(twin.pass.worst), 5.2);
    row("flash", mine.size.flash, twin.size.flash, 4);
    row("RAM with stack", mine.size.ram + mine.stack, twin.size.ram + twin.stack, 5.5);
    fmt::print("  pins after {} passes: {}\n\n", mine.after.size(),
               different == 0 ? "the same"
                              : fmt::format("{} times DIFFERENT: NOT KEPT", different));
}

} // namespace metal
