// SPDX-License-Identifier: MIT
// The serial line of a device on the emulated chip: what it sends, and what it can be told.
#include "tests/chips/atmega328p.hpp"
#include "tests/desk/process.hpp"

#include <gtest/gtest.h>

#include <random>
#include <set>

namespace {

using namespace zorilla;
using desk::has;
using desk::Outcome;
using desk::zorilla;

/// Somebody types it, as fast as the line is.
void say(bench::AvrChip& chip, const std::string& text) {
    for (size_t i = 0; i < text.size(); ++i)
        chip.in_cycles((i + 1) * 4'167, [&chip, c = text[i]] { chip.receive(c); });
}

TEST(Line, commands_act_are_answered_and_stand_in_the_trace) {
    const desk::Folder folder;
    const std::string rig = folder.write(
        "loft.toml",
        "[rig.shutdown]\nwhen = \"quiet\"\norder = [\"fan\"]\n"
        "[sense.loft]\npart = \"raw\"\npin = \"ADC0\"\n[sense.boost]\npart = \"line_value\"\n"
        "[sense.quiet]\npart = \"line_switch\"\n[decide.hot]\nof = \"loft\"\nabove = \"700 "
        "counts\"\nrelease = \"600 counts\"\n[decide.boosted]\nof = \"boost\"\npoints = [[\"0 "
        "%\", \"0 %\"], [\"100 %\", \"100 %\"]]\n[drive.fan]\npart = \"fan\"\npin = \"PD3\"\nsafe "
        "= "
        "\"0 %\"\nclaims = [ { when = \"not lost(boost)\", then = \"boosted\" }, { when = \"hot\", "
        "then = \"100 %\" } ]\n");
    ASSERT_EQ(zorilla("firmware " + rig + " --send --build --out " + folder / "f").status, 0);
    bench::AvrChip chip(folder / "f/firmware.elf");
    chip.set_code(300, 0);
    const auto duty = [&chip] { return chip.memory(0xb4); }; // OCR2B
    std::string answers;
    const auto after = [&](const std::string& command, uint32_t ms) {
        const size_t from = chip.serial().size();
        say(chip, command + "\n");
        chip.run_for(ms);
        std::istringstream lines(chip.serial().substr(from));
        for (std::string line; std::getline(lines, line);)
            if (line.rfind("ok", 0) == 0 || line.rfind("no: ", 0) == 0)
                answers += line + "|";
    };
    chip.run_for(500);
    after("set boost 40 for 1 s", 300);
    EXPECT_EQ(duty(), 101); // 102 of 256
    chip.run_for(1000);
    after("set quiet on", 300);
    after("set boost 60", 300);
    after("clear quiet", 300);
    EXPECT_EQ(duty(), 153);
    after("set boost 101", 300);
    after("clear loft", 300);
    after("please", 300);
    // A word too many, or a half of on and off, changes nothing.
    after("clear boost now", 300);
    after("set quiet 0.5", 300);
    after("set quiet 1 %", 300);
    after("who who", 300);
    EXPECT_EQ(duty(), 153);
    EXPECT_EQ(answers,
              "ok|ok|ok|ok|no: outside of what it may be|no: nothing is called that|no: set, "
              "clear, header or who|no: nothing is called that|no: outside of what it may be|no: "
              "end it with a time: for 90 s|no: set, clear, header or who|");
    // The header again, and after it rows as before; none is torn.
    after("header", 1000);
    after("who", 300);
    EXPECT_EQ(answers.substr(answers.size() - 12, 3), "ok ");
    const std::string sent = chip.serial().substr(0, chip.serial().rfind('\n') + 1);
    const Outcome taken = desk::shell(fmt::format("cd '{}' && '{}' capture - --rig loft.toml --out "
                                                  "c.csv < {}",
                                                  folder.path().string(), ZORILLA_TOOL,
                                                  folder.write("sent.txt", sent)));
    EXPECT_EQ(taken.status, 0) << taken.err << sent;
    // And the desk sees what was done, and why.
    const Outcome run = desk::shell(fmt::format("cd '{}' && '{}' run loft.toml --trace c.csv",
                                                folder.path().string(), ZORILLA_TOOL));
    EXPECT_EQ(run.status, 0) << run.err;
    for (const char* event :
         {"fan       40 %           claim 1", "fan       off            shutdown",
          "fan       60 %           claim 1"})
        EXPECT_TRUE(has(run.out, event)) << run.out;
    // Noise at full speed, also with lines of the right kind in it, holds up no pass.
    std::mt19937 random(5);
    std::string noise;
    while (noise.size() < 4000)
        noise +=
            random() % 9 == 0 ? "\nset boost 7\n" : std::string(1, static_cast<char>(random()));
    uint64_t last = 0, worst = 0, passes = 0;
    chip.on_mark = [&](uint8_t mark, uint64_t cycle) {
        if (mark != 1)
            return;
        worst = std::max(worst, last == 0 ? 0 : cycle - last);
        last = cycle;
        ++passes;
    };
    say(chip, noise);
    chip.run_for(2000);
    EXPECT_NEAR(static_cast<double>(passes), 20, 1);
    EXPECT_LE(worst, 102 * 16'000U);
    EXPECT_TRUE(duty() == 153 || duty() == 17) << int{duty()};
}

TEST(Line, a_rehearsal_types_what_stands_in_the_trace) {
    const desk::Folder folder;
    const std::string rig = folder.write(
        "loft.toml",
        "[rig.shutdown]\nwhen = \"quiet\"\norder = [\"fan\"]\n[sense.loft]\npart = \"raw\"\npin = "
        "\"ADC0\"\n[sense.boost]\npart = \"line_value\"\n[sense.quiet]\npart = "
        "\"line_switch\"\n[sense.limit]\npart = \"line_setting\"\nvalue = \"500 counts\"\nfrom = "
        "\"-200 counts\"\nto = \"800 counts\"\n[derive.over]\npart = \"difference\"\nof = "
        "[\"loft\", \"limit\"]\n[decide.hot]\nof = \"over\"\nabove = \"10 counts\"\nrelease = "
        "\"0 counts\"\n[decide.boosted]\nof = \"boost\"\npoints = [[\"0 %\", \"0 %\"], [\"100 "
        "%\", \"100 %\"]]\n[drive.fan]\npart = \"fan\"\npin = \"PD3\"\nsafe = \"0 %\"\nclaims = "
        "[ { when = \"not lost(boost)\", then = \"boosted\" }, { when = \"hot\", then = \"100 %\" "
        "} ]\n");
    // The setting goes below 400, and the fan comes on; it is boosted, then quiet, then set back.
    const std::string trace = folder.write(
        "t.csv",
        "time (s),loft (code),boost (code),quiet (level),limit (code)\n0,400,,0,\n1,400,,0,"
        "25000\n2,400,255,0,25000\n3,400,255,1,25000\n4,400,,0,25000\n5,400,,0,\n");
    const Outcome check = zorilla("check " + rig);
    ASSERT_EQ(check.status, 0) << check.err;
    const Outcome out = zorilla("rehearse " + rig + " --trace " + trace + " --for '6 s'");
    EXPECT_EQ(out.status, 0) << out.out << out.err;
    EXPECT_TRUE(has(out.out, "fan changed 5 times")) << out.out;
    EXPECT_TRUE(has(out.out, "No difference")) << out.out;
}

TEST(Line, a_header_longer_than_the_watchdog_waits_goes_out_whole) {
    const desk::Folder folder;
    std::string rig, name(40, 'n');
    for (int i = 0; i < 6; ++i)
        rig += fmt::format("[sense.{}_{}]\npart = \"raw\"\npin = \"ADC{}\"\n", name, i, i);
    rig +=
        fmt::format("[decide.hot]\nof = \"{}_0\"\nabove = \"700 counts\"\nrelease = \"600 "
                    "counts\"\n[drive.lamp]\npart = \"relay\"\npin = \"PB0\"\nactive = "
                    "\"high\"\nsafe = \"off\"\nclaims = [ {{ when = \"hot\", then = \"on\" }} ]\n",
                    name);
    ASSERT_EQ(zorilla("firmware " + folder.write("long.toml", rig) + " --send --build --out " +
                      folder / "f")
                  .status,
              0);
    bench::AvrChip chip(folder / "f/firmware.elf");
    chip.run_for(1500);
    const std::string& sent = chip.serial();
    EXPECT_EQ(sent.find("time (s)"), sent.rfind("time (s)")) << sent;
    EXPECT_GT(std::count(sent.begin(), sent.end(), '\n'), 8) << sent;
}

TEST(Line, a_setting_outlives_a_loss_of_power_at_every_byte) {
    const desk::Folder folder;
    const std::string rig = folder.write(
        "frame.toml",
        "[sense.probe]\npart = \"raw\"\npin = \"ADC0\"\n[sense.limit]\npart = "
        "\"line_setting\"\nvalue "
        "= \"500 counts\"\nfrom = \"200 counts\"\nto = \"800 counts\"\n[derive.over]\npart = "
        "\"difference\"\nof = [\"probe\", \"limit\"]\n[decide.high]\nof = \"over\"\nabove = \"20 "
        "counts\"\nrelease = \"0 counts\"\n[drive.lamp]\npart = \"relay\"\npin = \"PB0\"\nactive = "
        "\"high\"\nsafe = \"off\"\nclaims = [ { when = \"high\", then = \"on\" } ]\n");
    const Outcome made = zorilla("firmware " + rig + " --send --build --out " + folder / "f");
    ASSERT_EQ(made.status, 0) << made.err;
    const std::string elf = folder / "f/firmware.elf";
    // What a chip with this memory says that its setting is: before its output and the check.
    const auto limit_of = [&elf](const std::vector<uint8_t>& memory) {
        bench::AvrChip chip(elf);
        chip.set_eeprom(memory);
        chip.run_for(250);
        const std::string& said = chip.serial();
        size_t at = said.rfind('\n');
        for (int field = 0; field < 3; ++field)
            at = said.rfind(',', at - 1);
        return std::atoi(said.c_str() + at + 1);
    };
    bench::AvrChip chip(elf);
    chip.set_code(600, 0);
    chip.run_for(300);
    EXPECT_TRUE(chip.is_high("PB0")); // over 500
    say(chip, "set limit 700\n");
    chip.run_for(3000);
    EXPECT_FALSE(chip.is_high("PB0"));
    std::vector<uint8_t> before = chip.eeprom();
    const int old_code = limit_of(before);
    const int usual = limit_of(std::vector<uint8_t>(1024, 0xff));
    EXPECT_NE(old_code, usual);
    say(chip, "set limit 300\n");
    std::mt19937 random(3);
    int cuts = 0;
    std::set<int> found;
    for (int ms = 0; ms < 3000; ++ms) {
        chip.run_for(1);
        const std::vector<uint8_t> now = chip.eeprom();
        if (now == before)
            continue;
        // The power goes while this byte is written: it holds the old one, the new one, or neither.
        const auto at = static_cast<size_t>(
            std::mismatch(now.begin(), now.end(), before.begin()).first - now.begin());
        std::vector<uint8_t> torn = now;
        torn[at] = static_cast<uint8_t>(random());
        const int whole = limit_of(now), half = limit_of(torn);
        EXPECT_TRUE(half == old_code || half == whole) << "torn at " << at << ": " << half;
        found.insert(whole);
        before = now;
        ++cuts;
    }
    EXPECT_GE(cuts, 6);
    // Never what nobody has set.
    EXPECT_EQ(found, (std::set<int>{old_code, limit_of(chip.eeprom())}));
    EXPECT_TRUE(chip.is_high("PB0")); // over 300
    EXPECT_EQ(found.count(usual), 0U);
}

} // namespace
