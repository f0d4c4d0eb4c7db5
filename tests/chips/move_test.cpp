// SPDX-License-Identifier: MIT
// Plans of pins for rigs that have none that fits.
#include "tests/budget/chip_rig.hpp"
#include "tests/desk/process.hpp"

#include <gtest/gtest.h>

#include <random>
#include <regex>

namespace {

using namespace zorilla;
using desk::has;
using desk::zorilla;

TEST(Move, finds_a_plan_for_pins_in_any_disorder_and_of_a_chip_of_which_nothing_is_known) {
    chip_rig::Maker make(
        chip_rig::sections_of(desk::read_all(ZORILLA_SOURCE "/tests/desk/every_part.toml")), 12);
    const desk::Folder folder;
    std::mt19937 random(3);
    const char* const pins[] = {"PD0", "PD3", "PB6", "PC9", "ADC1", "PD13", "PB1", "XY"};
    int planned = 0;
    for (int tries = 0; tries < 200 && planned < 12; ++tries) {
        std::string text = make.text();
        if (text.empty())
            continue;
        const bool other = random() % 2 == 0;
        if (other)
            text.replace(text.find("atmega328p"), 10, "other");
        // One in three of its pins is just anything, twice the same perhaps.
        static const std::regex pin("\"(ADC\\d|P[BCD]\\d)\"");
        std::string mixed;
        auto at = text.cbegin();
        for (std::smatch match; std::regex_search(at, text.cend(), match, pin);
             at = match.suffix().first) {
            mixed.append(at, match.prefix().second);
            mixed += random() % 3 == 0 ? fmt::format("\"{}\"", pins[random() % std::size(pins)])
                                       : match.str();
        }
        mixed.append(at, text.cend());
        if (!other && rig::parse_rig(mixed).mistakes.empty())
            continue;
        const std::string path = folder.write("rig.toml", mixed), out = folder / "out";
        const desk::Outcome is =
            zorilla(fmt::format("move {} --board atmega328p --force --out {}", path, out));
        EXPECT_EQ(is.status, 0) << is.out << is.err << mixed;
        EXPECT_TRUE(rig::parse_rig(desk::read_all(out + "/rig.toml")).mistakes.empty()) << mixed;
        const desk::Outcome check = zorilla("check " + path + " --board atmega328p");
        EXPECT_TRUE(has(check.out, "\nPins\n")) << check.out << check.err << mixed;
        ++planned;
    }
    EXPECT_EQ(planned, 12);
}

} // namespace
