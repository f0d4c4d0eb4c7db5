// SPDX-License-Identifier: MIT
// What a rig does not ask for takes nothing of the chip: each thing that the hen house has is taken
// out in turn; and of what is left check says how much it takes, however little that is.
#include "bench/budget/budget.hpp"
#include "bench/firmware.hpp"
#include "bench/rehearse/avr_chip.hpp"
#include "rig/rig_file.hpp"
#include "rig/text/files.hpp"
#include "tests/budget/chip_rig.hpp"
#include "tests/desk/process.hpp"

#include <gtest/gtest.h>

#include <cstdlib>
#include <map>
#include <sstream>
#include <string>
#include <vector>

namespace {

using namespace zorilla;

struct TakenOut {
    const char* what;
    std::vector<std::string> lines; ///< that begin so
    uint32_t flash;                 ///< at least so much less; 0 of what is a number anyhow
};

/// A text without the lines that begin with one of these.
std::string without(const std::string& text, const std::vector<std::string>& begins) {
    std::istringstream lines(text);
    std::string out;
    size_t found = 0;
    for (std::string line; std::getline(lines, line);) {
        bool goes = false;
        for (const std::string& begin : begins)
            goes = goes || line.rfind(begin, 0) == 0;
        found += goes ? 1 : 0;
        out += goes ? "" : line + "\n";
    }
    EXPECT_GE(found, begins.size()) << begins.front();
    return out;
}

bench::Built built(const std::string& text) {
    const rig::RigFile file = rig::parse_rig(text);
    EXPECT_TRUE(file.mistakes.empty()) << file.mistakes.front().text;
    const desk::Folder folder;
    for (const auto& [name, content] : bench::firmware_folder(file.rig, "rig", text).files)
        folder.write(name, content);
    return bench::build_firmware(*file.rig.chip_facts(), folder.path().string());
}

TEST(Firmware, has_nothing_of_what_its_rig_does_not_ask_for) {
    if (std::getenv("ZORILLA_DEEP") == nullptr)
        GTEST_SKIP() << "./dev test deep";
    const std::vector<TakenOut> all = {
        {"a smoothing", {"smooth ="}, 300},
        {"a time that must have passed", {"for_at_least ="}, 30},
        {"a hold", {"hold ="}, 1},
        {"a fade", {"fade ="}, 60},
        {"a kick start", {"kick =", "kick_for ="}, 5},
        {"a ramp", {"ramp ="}, 10},
        {"longest times", {"longest_on ="}, 10},
        {"a lock of two outputs", {"never_with ="}, 10},
        {"dead bands", {"dead_band ="}, 0},
        {"a floor", {"floor ="}, 0},
        {"a hand", {"by_hand =", "    { when = \"by_hand(ventilator)\""}, 60},
    };
    const std::string text = desk::read_all(ZORILLA_SOURCE "/examples/hen_house/hen_house.toml");
    const bench::Built whole = built(text);
    for (const TakenOut& out : all) {
        const bench::Built less = built(without(text, out.lines));
        EXPECT_LE(less.flash + out.flash, whole.flash) << out.what;
        EXPECT_LE(less.ram, whole.ram) << out.what;
    }
}

TEST(Budget, of_a_device_with_one_sensor_or_two_is_as_close_as_that_of_a_large_one) {
    chip_rig::Maker maker(
        chip_rig::sections_of(rig::read_file(ZORILLA_SOURCE "/tests/desk/every_part.toml")), 1);
    const desk::Folder folder;
    const std::map<std::string, int> taken = {{"soil", 1},   {"turns", 1},  {"wish", 1},
                                              {"button", 1}, {"barrel", 2}, {"by_points", 2}};
    size_t built = 0;
    for (const chip_rig::Section& one : maker.sections()) {
        const auto how_many = taken.find(one.name);
        if (one.group != "sense" || how_many == taken.end())
            continue;
        const bool two = how_many->second == 2;
        const std::string text = maker.small(
            one, !two, two,
            "[drive.out]\npart = \"relay\"\npin = \"PB1\"\nactive = \"high\"\nsafe = \"off\"\n");
        const rig::RigFile file = rig::parse_rig(text);
        ASSERT_TRUE(!text.empty() && file.mistakes.empty()) << one.name;
        const std::string out = folder / one.name;
        ASSERT_EQ(desk::zorilla(fmt::format("firmware {} --out {} --build",
                                            folder.write(one.name + ".toml", text), out))
                      .status,
                  0);
        const bench::Cost said = bench::budget_of(file.rig).all;
        const bench::Size is = bench::size_of(out + "/firmware.elf");
        EXPECT_NEAR(said.flash / is.flash, 1, 0.15) << one.name << " takes " << is.flash;
        EXPECT_NEAR(said.ram / is.ram, 1, 0.15) << one.name << " takes " << is.ram;
        ++built;
    }
    EXPECT_EQ(built, taken.size());
}

TEST(Budget, knows_what_each_block_costs) {
    for (const uint32_t seed : {1U, 2U, 3U, 4U}) {
        chip_rig::Maker maker(
            chip_rig::sections_of(rig::read_file(ZORILLA_SOURCE "/tests/desk/every_part.toml")),
            seed, true);
        for (int i = 0; i < 100; ++i)
            if (const std::string text = maker.text(); !text.empty()) {
                const bench::Budget is = bench::budget_of(rig::parse_rig(text).rig);
                ASSERT_TRUE(is.unknown.empty()) << is.unknown.front() << "\n" << text;
            }
    }
}

} // namespace
