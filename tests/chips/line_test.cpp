// SPDX-License-Identifier: MIT
// The serial line of a device on the emulated chip: what it sends, and what it can be told.
#include "tests/chips/atmega328p.hpp"
#include "tests/desk/process.hpp"

#include <gtest/gtest.h>

#include <random>

namespace {

using namespace zorilla;
using desk::has;
using desk::Outcome;
using desk::zorilla;

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
    bench::Atmega328p chip(folder / "f/firmware.elf");
    const auto say = [&chip](const std::string& text) {
        for (size_t i = 0; i < text.size(); ++i)
            chip.in_cycles((i + 1) * 4'167, [&chip, c = text[i]] { chip.receive(c); });
    };
    chip.set_code(300, 0);
    const auto duty = [&chip] { return chip.memory(0xb4); }; // OCR2B
    std::string answers;
    const auto after = [&](const std::string& command, uint32_t ms) {
        const size_t from = chip.serial().size();
        say(command + "\n");
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
    EXPECT_EQ(duty(), 153);
    EXPECT_EQ(answers, "ok|ok|ok|ok|no: more than it may be|no: nothing is called that|no: set, "
                       "clear, header or who|");
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
    say(noise);
    chip.run_for(2000);
    EXPECT_NEAR(static_cast<double>(passes), 20, 1);
    EXPECT_LE(worst, 102 * 16'000U);
    EXPECT_TRUE(duty() == 153 || duty() == 17) << int{duty()};
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
    bench::Atmega328p chip(folder / "f/firmware.elf");
    chip.run_for(1500);
    const std::string& sent = chip.serial();
    EXPECT_EQ(sent.find("time (s)"), sent.rfind("time (s)")) << sent;
    EXPECT_GT(std::count(sent.begin(), sent.end(), '\n'), 8) << sent;
}

} // namespace
