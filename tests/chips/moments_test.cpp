// SPDX-License-Identifier: MIT
// The worst moments: an edge at each cycle of a pass, and the clock's wrap with everything running.
#include "tests/chips/atmega328p.hpp"
#include "tests/desk/process.hpp"

#include <gtest/gtest.h>

#include <cmath>
#include <cstdlib>

namespace {

using namespace zorilla;
using desk::has;
using desk::Outcome;
using desk::zorilla;

constexpr uint64_t us = 16; // cycles

TEST(WorstMoments, an_edge_at_any_cycle_of_a_pass_is_counted_once_and_moves_no_echo) {
    const desk::Folder folder;
    const std::string rig = folder.write(
        "vane.toml",
        "[sense.vane]\npart = \"pulse_counter\"\npin = \"PC3\"\nedges_per_turn = 1\n"
        "[sense.wall]\npart = \"ranger\"\npin = \"PD4\"\nping_pin = \"PD7\"\nblind = \"2 "
        "cm\"\nfar = \"4 m\"\ntemperature = \"20 degC\"\n[decide.near]\nof = \"wall\"\nbelow = \"1 "
        "m\"\nrelease = "
        "\"1.2 m\"\n[decide.wind]\nof = \"vane\"\nabove = \"700 rpm\"\nrelease = \"500 "
        "rpm\"\n[drive.lamp]\npart = \"relay\"\npin = \"PB0\"\nactive = \"high\"\nsafe = "
        "\"off\"\nclaims = [ { when = \"near or wind\", then = \"on\" } ]\n");
    const Outcome made = zorilla("firmware " + rig + " --send --build --out " + folder / "f");
    ASSERT_EQ(made.status, 0) << made.err;
    bench::AvrChip chip(folder / "f/firmware.elf");
    chip.put("PC3", true);
    const bool deep = std::getenv("ZORILLA_DEEP") != nullptr;
    const uint64_t stride = deep ? 1 : 11, last = 9'000;
    uint64_t at = 0, edges = 0;
    chip.watch("PD7", [&chip](bool high) {
        if (high)
            return;
        chip.in_cycles(300 * us, [&chip] { chip.put("PD4", true); });
        chip.in_cycles(3300 * us, [&chip] { chip.put("PD4", false); });
    });
    chip.on_mark = [&](uint8_t mark, uint64_t) {
        if (mark != 1)
            return;
        at += stride;
        ++edges;
        chip.in_cycles(at, [&chip] { chip.put("PC3", false); });
        chip.in_cycles(at + 700 * us, [&chip] { chip.put("PC3", true); });
    };
    while (at < last)
        chip.run_for(50);
    chip.on_mark = nullptr;
    chip.run_for(350);
    std::istringstream rows(chip.serial());
    std::string line;
    std::getline(rows, line);
    EXPECT_EQ(line, "time (s),vane (edges),wall (us),lamp (out),check (c9dcaf54)");
    int counted = 0, heard = 0, before = 0;
    for (; std::getline(rows, line) && line.size() > 6;) {
        const size_t first = line.find(','), second = line.find(',', first + 1),
                     third = line.find(',', second + 1);
        counted = std::atoi(line.c_str() + first + 1);
        ASSERT_LE(counted - before, 2) << line;
        before = counted;
        const std::string echo = line.substr(second + 1, third - second - 1);
        if (echo.empty())
            continue;
        ASSERT_NEAR(std::atoi(echo.c_str()), 3000, 4) << line;
        ++heard;
    }
    EXPECT_EQ(static_cast<uint64_t>(counted), edges);
    EXPECT_GT(heard, static_cast<int>(edges) - 5);
}

TEST(EightMegahertz, times_tones_and_echoes_are_as_long_as_at_sixteen) {
    const desk::Folder folder;
    const std::string rig = folder.write(
        "slow.toml",
        "[sense.wall]\npart = \"ranger\"\npin = \"PD4\"\nping_pin = \"PD7\"\nblind = \"2 "
        "cm\"\nfar = \"4 m\"\ntemperature = \"20 degC\"\n[sense.level]\npart = "
        "\"raw\"\npin = \"ADC2\"\n[decide.near]\nof = \"wall\"\nbelow = \"1 m\"\nrelease = "
        "\"1.2 m\"\n[drive.horn]\npart = \"buzzer\"\npin = \"PB1\"\nsafe = "
        "\"off\"\nclaims = [ { when = \"near\", then = \"880 Hz\" } ]\n");
    ASSERT_EQ(zorilla("firmware " + rig + " --send --out " + folder / "f").status, 0);
    std::string main = desk::read_all(folder / "f/main.cpp");
    const std::string board = "using Board = Atmega328p;";
    main.replace(main.find(board), board.size(), "using Board = Atmega328p8MHz;");
    folder.write("f/main.cpp", main);
    const Outcome built = desk::shell(
        fmt::format("{} --target=avr -mmcu=atmega328p -std=c++17 -Os -mno-relax -fno-exceptions "
                    "-fno-rtti -isystem /usr/lib/avr/include -I{}/include {} -o {}",
                    ZORILLA_CLANG, ZORILLA_SOURCE, folder / "f/main.cpp", folder / "f/slow.elf"));
    ASSERT_EQ(built.status, 0) << built.err;
    bench::AvrChip chip(folder / "f/slow.elf");
    constexpr uint64_t slow_us = 8; // cycles
    chip.set_code(600, 2);
    chip.watch("PD7", [&chip](bool high) {
        if (high)
            return;
        chip.in_cycles(300 * slow_us, [&chip] { chip.put("PD4", true); });
        chip.in_cycles(3300 * slow_us, [&chip] { chip.put("PD4", false); });
    });
    std::vector<uint64_t> rises, passes;
    chip.watch("PB1", [&](bool high) {
        if (high)
            rises.push_back(chip.cycles());
    });
    chip.on_mark = [&](uint8_t mark, uint64_t cycle) {
        if (mark == 1)
            passes.push_back(cycle);
    };
    chip.run_for(1000); // of 16 MHz: two of its own seconds
    ASSERT_GT(passes.size(), 15U);
    for (size_t i = 3; i < passes.size(); ++i)
        EXPECT_NEAR(static_cast<double>(passes[i] - passes[i - 1]) / slow_us, 100'000, 3000);
    ASSERT_GT(rises.size(), 100U);
    const double period = static_cast<double>(rises.back() - rises[rises.size() - 81]) / 80;
    EXPECT_NEAR(8e6 / period, 880, 4);
    std::istringstream rows(chip.serial());
    std::string line;
    int heard = 0;
    double before = 0;
    for (std::getline(rows, line); std::getline(rows, line) && !rows.eof();) {
        double seconds = 0;
        int width = 0, code = 0;
        if (std::sscanf(line.c_str(), "%lf,%d,%d", &seconds, &width, &code) != 3)
            continue;
        EXPECT_NEAR(width, 3000, 8) << line;
        EXPECT_EQ(code, 600) << line;
        if (before > 0) {
            EXPECT_NEAR(seconds - before, 0.1, 0.003) << line;
        }
        before = seconds;
        ++heard;
    }
    EXPECT_GT(heard, 12);
}

TEST(WorstMoments, nothing_happens_as_the_clock_begins_anew) {
    const struct {
        const char* rig;
        const char* trace;
        const char* from;
        bool deep;
    } cases[] = {{"bilge_pump", "rough_day", "1 s", true},
                 {"dew_heater", "night", "5 min 10 s", true},
                 {"fume_hood", "evening", "150 s", false},
                 {"pellet_feeder", "half_hour", "2 s", false},
                 {"rain_barrel", "shower", "1 s", true}};
    for (const auto& one : cases) {
        if (one.deep && std::getenv("ZORILLA_DEEP") == nullptr)
            continue;
        const Outcome out =
            zorilla(fmt::format("rehearse {0}{1}/{1}.toml --trace {0}{1}/{2}.csv "
                                "--from '{3}' --for '80 s' --wrap",
                                ZORILLA_SOURCE "/examples/", one.rig, one.trace, one.from));
        EXPECT_EQ(out.status, 0) << one.rig << "\n" << out.out << out.err;
        EXPECT_TRUE(has(out.out, "No difference")) << out.out;
        EXPECT_TRUE(has(out.out, "800, 0 of them late")) << out.out;
        EXPECT_TRUE(has(out.out, "began anew")) << out.out;
    }
}

} // namespace
