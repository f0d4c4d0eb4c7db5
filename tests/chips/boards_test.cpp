// SPDX-License-Identifier: MIT
// The same rigs on every chip: moved there, built, and rehearsed with inputs of every kind; and
// what each chip alone has.
#include "bench/firmware.hpp"
#include "bench/moving.hpp"
#include "bench/rehearse/avr_chip.hpp"
#include "bench/rehearse/rehearse.hpp"
#include "tests/budget/chip_rig.hpp"
#include "tests/desk/process.hpp"

#include <zorilla/board/chips/atmega2560.hpp>
#include <zorilla/board/chips/attiny85.hpp>
#include <zorilla/board/chips/rp2040.hpp>

#include <gtest/gtest.h>

#include <cstdlib>
#include <set>

namespace {

using namespace zorilla;
using desk::has;
using desk::zorilla;

const std::string examples = ZORILLA_SOURCE "/examples/";
bool is_deep() { return std::getenv("ZORILLA_DEEP") != nullptr; }

std::string text_of(const std::string& example) {
    return desk::read_all(examples + example + "/" + example + ".toml");
}

/// A rig on another chip. Empty if it does not fit there.
std::string moved(const std::string& text, const ChipFacts& to) {
    const bench::Move move = bench::move_of(rig::parse_rig(text), text, to);
    return move.problem.empty() ? move.text : std::string();
}

/// A rig's firmware, built in a folder.
bench::Built build_in(const desk::Folder& folder, const rig::Rig& rig, const std::string& text,
                      const rig::FirmwarePlan& plan) {
    for (const auto& [name, content] : bench::firmware_folder(rig, "rig", text, plan).files)
        folder.write(name, content);
    const bench::Built out = bench::build_firmware(*rig.chip_facts(), folder.path().string());
    EXPECT_EQ(out.problem, "") << text;
    return out;
}

/// What a rig is on its chip: built, and run beside the rig file for a while.
struct OnChip {
    bench::Built built;
    bench::Rehearsal is;
};
OnChip on_chip(const std::string& text, int64_t milliseconds) {
    const rig::RigFile file = rig::parse_rig(text);
    EXPECT_TRUE(file.mistakes.empty()) << file.mistakes.front().text << "\n" << text;
    const desk::Folder folder;
    OnChip out{build_in(folder, file.rig, text, {100_ms, false}), {}};
    if (out.built.problem.empty() && out.built.fits.empty())
        out.is = bench::rehearse(file.rig, folder.path().string(),
                                 bench::random_rows(file.rig, milliseconds), milliseconds);
    return out;
}

struct Where {
    const char* example;
    const char* chip;
    bool is_deep = false;
};
class OnEveryChip : public testing::TestWithParam<Where> {};

TEST_P(OnEveryChip, a_rig_does_what_its_file_says) {
    const Where where = GetParam();
    if (where.is_deep && !is_deep())
        GTEST_SKIP() << "./dev test deep";
    const std::string text = moved(text_of(where.example), *rig::chip_named(where.chip));
    ASSERT_FALSE(text.empty());
    const OnChip is = on_chip(text, is_deep() ? 30'000 : 8'000);
    EXPECT_EQ(is.built.fits, "");
    EXPECT_TRUE(is.is.difference.empty()) << is.is.difference.front() << is.is.difference.at(2);
    EXPECT_GE(is.is.passes, is_deep() ? 295U : 75U);
    EXPECT_EQ(is.is.missed, 0U);

    // And takes what the table says, where it stands there.
    const std::string page = desk::read_all(ZORILLA_SOURCE "/docs/boards.md");
    const std::string row = fmt::format("| {} | {} | ", where.example, where.chip);
    const size_t at = page.find(row);
    if (at == std::string::npos) {
        EXPECT_TRUE(where.is_deep);
        return;
    }
    std::string numbers = page.substr(at + row.size(), page.find('\n', at) - at - row.size());
    numbers.erase(std::remove(numbers.begin(), numbers.end(), ','), numbers.end());
    int flash = 0, ram = 0, cycles = 0;
    ASSERT_EQ(std::sscanf(numbers.c_str(), "%d B | %d B | %d cycles", &flash, &ram, &cycles), 3);
    EXPECT_NEAR(flash, is.built.flash, 0.02 * flash);
    EXPECT_NEAR(ram, is.built.ram + is.is.stack, 0.06 * ram);
    // The worst of 20 s is seldom seen in fewer.
    EXPECT_LE(is.is.worst_cycles, 1.1 * cycles);
    EXPECT_GE(is.is.worst_cycles, 0.5 * cycles);
}

INSTANTIATE_TEST_SUITE_P(
    Examples, OnEveryChip,
    testing::Values(Where{"hen_house", "rp2040"}, Where{"hen_house", "atmega2560"},
                    Where{"dew_heater", "attiny85"}, Where{"aquarium_light", "rp2040"},
                    Where{"heat_lamp", "attiny85", true}, Where{"heat_lamp", "rp2040", true},
                    Where{"heat_lamp", "atmega2560", true}, Where{"bilge_pump", "rp2040", true},
                    Where{"bilge_pump", "atmega2560", true}, Where{"dew_heater", "rp2040", true},
                    Where{"dew_heater", "atmega2560", true}, Where{"fume_hood", "rp2040", true},
                    Where{"fume_hood", "atmega2560", true}, Where{"pellet_feeder", "rp2040", true},
                    Where{"pellet_feeder", "atmega2560", true},
                    Where{"proofing_box", "rp2040", true},
                    Where{"proofing_box", "atmega2560", true}, Where{"rain_barrel", "rp2040", true},
                    Where{"rain_barrel", "atmega2560", true},
                    Where{"aquarium_light", "atmega2560", true}),
    [](const testing::TestParamInfo<Where>& one) {
        return std::string(one.param.example) + "_on_" + one.param.chip;
    });

TEST(EveryChip, builds_and_runs_random_rigs_that_fit_it) {
    if (!is_deep())
        GTEST_SKIP() << "./dev test deep";
    chip_rig::Maker make(
        chip_rig::sections_of(desk::read_all(ZORILLA_SOURCE "/tests/desk/every_part.toml")), 11);
    for (const char* name : {"atmega2560", "rp2040", "attiny85"}) {
        const ChipFacts& chip = *rig::chip_named(name);
        // On eight pins little fits: what does not is passed over.
        for (int made = 0, tried = 0; made < 100 && tried < 3'000; ++tried) {
            const std::string text = make.text();
            const std::string there = text.empty() ? text : moved(text, chip);
            if (there.empty() || rig::parse_rig(there).rig.drives.empty() ||
                !rig::parse_rig(there).mistakes.empty())
                continue;
            const OnChip is = on_chip(there, 5'000);
            if (!is.built.fits.empty())
                continue;
            EXPECT_TRUE(is.is.difference.empty())
                << name << ": " << is.is.difference.front() << is.is.difference.at(2) << "\n"
                << there;
            ++made;
        }
    }
}

TEST(Move, random_rigs_stay_what_they_are_but_for_pins_and_codes) {
    chip_rig::Maker make(
        chip_rig::sections_of(desk::read_all(ZORILLA_SOURCE "/tests/desk/every_part.toml")), 5);
    std::set<std::string> fitted;
    for (int i = 0; i < 60; ++i) {
        const std::string text = make.text();
        if (text.empty())
            continue;
        const rig::RigFile before = rig::parse_rig(text);
        for (const ChipFacts* chip : rig::all_chips()) {
            const std::string there = moved(text, *chip);
            if (there.empty())
                continue;
            fitted.insert(chip->name);
            const rig::RigFile after = rig::parse_rig(there);
            // At a lower voltage a sensor may come to the end of the converter.
            if (!after.mistakes.empty() && chip->supply < 5'000 &&
                has(after.mistakes.front().text, "Narrow \"range\""))
                continue;
            ASSERT_TRUE(after.mistakes.empty())
                << chip->name << ": " << after.mistakes.front().text << "\n"
                << there;
            EXPECT_EQ(after.rig.chip, chip->name);
            EXPECT_EQ(after.rig.senses.size(), before.rig.senses.size());
            EXPECT_EQ(after.rig.facts.size(), before.rig.facts.size());
            EXPECT_EQ(after.rig.drives.size(), before.rig.drives.size());
            // Its comments come along, and it comes back as it was.
            EXPECT_EQ(std::count(there.begin(), there.end(), '#'),
                      std::count(text.begin(), text.end(), '#'));
            if (chip->converter_bits == 10) {
                EXPECT_FALSE(moved(there, *before.rig.chip_facts()).empty()) << there;
            }
        }
    }
    EXPECT_GE(fitted.size(), 3U);
}

TEST(Move, changes_what_is_written_in_whatever_way_and_nothing_else) {
    const std::string barrel = "part = \"ranger\"", at = "pin = \"PD2\"",
                      rest = "ping_pin = \"PD7\"", far = "blind = \"20 mm\"",
                      near = "far = \"4 m\"", air = "temperature = \"20 degC\"";
    const std::string lines =
        fmt::format("[sense.a]\n{}\n{}\n{}\n{}\n{}\n{}\n", barrel, at, rest, far, near, air);
    const std::string one_line = fmt::format("[sense]\na = {{ {}, {}, {}, {}, {}, {} }} # \u00e4\n",
                                             barrel, at, rest, far, near, air);
    const std::string named = "[rig]\nname = \"H\u00fchner # 1\"\n";
    for (const std::string& board :
         {std::string(), std::string("[board] # mine\n"), std::string("board = {}\n"),
          std::string("[board]\nchip = 'atmega328p' # it\n"),
          std::string("[board]\nline = \"serial\"\n"),
          std::string("board = { line = \"serial\" }\n"),
          std::string("[board]\nadc_bits = 10 # bits\n"),
          std::string("board = { chip = \"atmega328p\", adc_bits = 10, line = \"serial\" }\n")})
        for (const std::string& sensors : {lines, one_line}) {
            const std::string text = board + named + sensors;
            const rig::RigFile before = rig::parse_rig(text);
            ASSERT_TRUE(before.mistakes.empty()) << before.mistakes.front().text << "\n" << text;
            const bench::Move move = bench::move_of(before, text, chips::Rp2040::facts);
            EXPECT_EQ(move.problem, "");
            const rig::RigFile after = rig::parse_rig(move.text);
            ASSERT_TRUE(after.mistakes.empty()) << after.mistakes.front().text << "\n" << move.text;
            EXPECT_EQ(after.rig.chip, "rp2040");
            EXPECT_EQ(after.rig.converter_bits, 12);
            EXPECT_EQ(after.rig.line, "usb");
            EXPECT_TRUE(has(move.text, "echo_divider")) << move.text;
            EXPECT_TRUE(has(move.text, named));
        }
}

TEST(Move, command_writes_the_rig_its_wires_and_what_is_left_to_do) {
    const desk::Folder folder;
    const std::string rig = examples + "hen_house/hen_house.toml", out = folder / "p";
    const desk::Outcome first = zorilla("move " + rig + " --board rp2040 --out " + out);
    EXPECT_EQ(first.status, 0) << first.err;
    for (const char* words : {"roost        ADC0 stays", "PD7 becomes GPIO",
                              "barrel  its echo is 5 V high, and a pin bears 3.3 V"})
        EXPECT_TRUE(has(first.out, words)) << first.out;
    const std::string wires = desk::read_all(out + "/wiring.md");
    EXPECT_TRUE(has(wires, "its echo through the first of 10 kohm and 20 kohm")) << wires;
    EXPECT_TRUE(has(desk::read_all(out + "/wiring.svg"), "GPIO"));
    // What somebody has changed since is not lost.
    folder.write("p/hen_house.toml", "[board]\n");
    const desk::Outcome again = zorilla("move " + rig + " --board rp2040 --out " + out);
    EXPECT_EQ(again.status, 2);
    EXPECT_TRUE(has(again.err, "--force overwrites it")) << again.err;
    const desk::Outcome small = zorilla("check " + rig + " --board attiny85");
    EXPECT_EQ(small.status, 1);
    EXPECT_TRUE(has(small.out, "the rig wants 16 pins, 3 of them of the converter, and the "
                               "attiny85 has 5 and 3"))
        << small.out;
}

TEST(Move, a_pin_that_would_not_bear_it_is_a_mistake_with_its_divider) {
    const std::string barrel = "[board]\nchip = \"rp2040\"\n[sense.a]\npart = \"ranger\"\npin = "
                               "\"GPIO2\"\nping_pin = \"GPIO3\"\nblind = \"20 mm\"\nfar = \"4 m\"\n"
                               "temperature = \"20 degC\"\n";
    struct Case {
        const char* more;
        const char* said; ///< empty: nothing
    };
    for (const Case& one : std::initializer_list<Case>{
             {"", "echo_divider = [\"10 kohm\", \"20 kohm\"]"},
             {"echo_divider = [\"10 kohm\", \"20 kohm\"]\n", ""},
             {"supply = \"3.3 V\"\n", ""},
             {"echo_divider = [\"10 kohm\", \"47 kohm\"]\n", "and 4.12 V behind its divider"},
             {"echo_divider = [\"20 kohm\", \"10 kohm\"]\n", "leave \"echo_divider\" out"}}) {
        const rig::RigFile file = rig::parse_rig(barrel + one.more);
        EXPECT_EQ(file.mistakes.empty(), *one.said == '\0') << one.more;
        if (!file.mistakes.empty()) {
            EXPECT_TRUE(has(file.mistakes.front().text, one.said)) << file.mistakes.front().text;
        }
    }
}

TEST(Attiny85, heat_lamp_sends_what_it_does_and_takes_little_of_the_chip) {
    std::string text = moved(text_of("heat_lamp"), chips::Attiny85::facts);
    text.replace(text.find("chip ="), 6, "line = \"timer\"\nchip =");
    const rig::Rig rig = rig::parse_rig(text).rig;
    const desk::Folder folder;
    const bench::Built built = build_in(folder, rig, text, {100_ms, true});
    bench::AvrChip chip(chips::Attiny85::facts, folder / "firmware.elf");
    chip.set_code(700, 1);
    chip.run_for(10'000);
    // Each character came as it was sent: each row stands, one after the other.
    const std::string said = chip.serial();
    EXPECT_EQ(said.find('\xff'), std::string::npos);
    EXPECT_EQ(said.rfind("time (s),roost (code),heat_lamp (out),check (", 0), 0U) << said;
    int rows = 0;
    for (size_t at = 0; (at = said.find(",700,0,", at)) != std::string::npos; ++at)
        ++rows;
    EXPECT_GE(rows, 95) << said.substr(0, 400);
    EXPECT_LE(built.flash, 3 * 1024U);
    EXPECT_LE(built.ram + chip.stack(), 128U);
}

TEST(Atmega2560, each_of_its_lines_sends_and_hears) {
    for (int number = 0; number < 4; number += is_deep() ? 1 : 3) {
        std::string text = moved(text_of("heat_lamp"), chips::Atmega2560::facts) +
                           "[sense.wish]\npart = \"line_switch\"\nlongest = \"2 h\"\n";
        text.replace(text.find("chip ="), 6,
                     "line = \"serial" + std::to_string(number) + "\"\nchip =");
        const rig::Rig rig = rig::parse_rig(text).rig;
        const desk::Folder folder;
        build_in(folder, rig, text, {100_ms, true});
        const auto emulated = bench::emulate(*rig.chip_facts(), folder.path().string(), rig.line);
        auto& chip = dynamic_cast<bench::AvrChip&>(*emulated);
        chip.run_for(500);
        EXPECT_TRUE(has(chip.take_serial(), "time (s),roost (code),wish (level)")) << number;
        for (const char c : std::string("who\n")) {
            chip.receive(c);
            chip.run_for(1);
        }
        chip.run_for(300);
        EXPECT_TRUE(has("\n" + chip.serial(), "\nok ")) << number << chip.serial();
    }
}

TEST(EveryChip, waits_for_a_pass_for_longer_than_its_watchdog_waits_for_one_that_hangs) {
    for (const ChipFacts* chip : rig::all_chips()) {
        const std::string text = chip == rig::all_chips().front()
                                     ? text_of("heat_lamp")
                                     : moved(text_of("heat_lamp"), *chip);
        const rig::Rig rig = rig::parse_rig(text).rig;
        const desk::Folder folder;
        build_in(folder, rig, text, {1_s, false});
        const auto emulated = bench::emulate(*chip, folder.path().string(), rig.line);
        int passes = 0;
        emulated->on_mark = [&passes](uint8_t mark, uint64_t) { passes += mark == 1; };
        while (emulated->cycles() < 3'500 * emulated->cycles_per_ms())
            emulated->step();
        EXPECT_EQ(passes, 4) << chip->name << ": at 0, 1, 2 and 3 s";
    }
}

/// The blocks of C++ in a document, one after the other.
std::vector<std::string> blocks_of(const std::string& document) {
    std::vector<std::string> out;
    const std::string begins = "```cpp\n", ends = "```\n";
    for (size_t at = 0; (at = document.find(begins, at)) != std::string::npos;) {
        at += begins.size();
        out.push_back(document.substr(at, document.find(ends, at) - at));
    }
    return out;
}

TEST(NewBoard, of_the_document_compiles_and_obeys_in_the_emulator) {
    const std::vector<std::string> blocks =
        blocks_of(desk::read_all(ZORILLA_SOURCE "/docs/new-board.md"));
    ASSERT_EQ(blocks.size(), 2U);
    EXPECT_LT(std::count(blocks[0].begin(), blocks[0].end(), '\n') +
                  std::count(blocks[1].begin(), blocks[1].end(), '\n'),
              200);
    const desk::Folder folder;
    folder.write("microbit.hpp", blocks[0]);
    folder.write("main.cpp", blocks[1]);
    const desk::Outcome built = desk::shell(fmt::format(
        "cd {0} && arm-none-eabi-g++ -mcpu=cortex-m0 -mthumb -std=c++17 -Os -fno-exceptions "
        "-fno-rtti -Wall -Wextra -Wpedantic -Wconversion -Wshadow -Werror --specs=rdimon.specs "
        "-I{1}/include -T {1}/firmware/cortex_m/memory.ld {1}/firmware/cortex_m/vectors.cpp "
        "main.cpp -o board.elf",
        folder.path().string(), ZORILLA_SOURCE));
    ASSERT_EQ(built.status, 0) << built.err;
    // Counting instructions, the board's time is its own: a busy machine makes it neither late nor
    // short.
    const desk::Outcome ran = desk::shell(fmt::format(
        "cd {} && mkfifo typed && : > said && {{ timeout 60 qemu-system-arm -M microbit -nographic "
        "-icount shift=6,sleep=off -semihosting-config enable=on,target=native -kernel board.elf "
        "< typed > said & }} && exec 3> typed && "
        "seen() {{ for i in $(seq 500); do sed -n \"/$1$/,\\$p\" said | grep -q \"$2\" && break; "
        "sleep 0.1; done; }} && seen ready ' off' && echo set lamp on for 1 s >&3 && "
        "seen ' on' ' off'; kill $!; cat said",
        folder.path().string()));
    // It was asked for one second, and stays on for the two that its relay needs.
    EXPECT_EQ(ran.out.rfind("ready\n0.000 off\n", 0), 0U) << ran.out;
    EXPECT_TRUE(has(ran.out, "\nok\n")) << ran.out;
    int lit = 0;
    for (size_t at = 0; (at = ran.out.find(" on\n", at)) != std::string::npos; ++at)
        ++lit;
    EXPECT_GE(lit, 19) << ran.out;
    EXPECT_LE(lit, 22) << ran.out;
    EXPECT_TRUE(has(ran.out.substr(ran.out.rfind(" on\n")), " off\n")) << ran.out;
}

} // namespace
