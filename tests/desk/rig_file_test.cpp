// SPDX-License-Identifier: MIT
// Rig files: what they mean, and that every mistake is told where it is and how to mend it.
#include "rig/rig_file.hpp"
#include "rig/running_rig.hpp"
#include "rig/text.hpp"
#include "tests/desk/process.hpp"

#include <gtest/gtest.h>

namespace {

using namespace zorilla;
using desk::has;

const char* const good = R"([rig]
name = "Heat lamp"
[board]
chip = "atmega328p"
[sense.roost]
part = "thermistor"
pin = "ADC0"
nominal = "10 kohm"
beta = "3950 K"
pull_up = "10 kohm"
range = ["-30 degC", "80 degC"]
[decide.cold]
of = "roost"
below = "39.2 degF"
release = "6 degC"
[drive.heat_lamp]
part = "relay"
pin = "PB0"
active = "low"
safe = "off"
min_on = "120 s"
claims = [ { when = "cold", then = "on" } ]
)";

/// The good rig with one line in place of another; an empty one takes it out.
std::string with(const std::string& line, const std::string& instead) {
    std::string text = good;
    const size_t at = text.find(line + "\n");
    EXPECT_NE(at, std::string::npos) << line;
    return text.replace(at, line.size(), instead);
}

TEST(RigFile, means_what_it_says) {
    const rig::RigFile file = rig::parse_rig(good);
    ASSERT_TRUE(file.mistakes.empty()) << file.mistakes.front().text;
    const rig::Rig& r = file.rig;
    EXPECT_EQ(r.name, "Heat lamp");
    ASSERT_EQ(r.senses.size(), 1u);
    EXPECT_EQ(r.senses[0].lowest(), Temperature(-30_degC));
    EXPECT_EQ(r.senses[0].table.size(), r.senses[0].plan.entries);
    ASSERT_EQ(r.decides.size(), 1u);
    EXPECT_EQ(r.decides[0].spec.threshold, Temperature(4_degC)) << "written in Fahrenheit";
    EXPECT_EQ(r.decides[0].spec.side, Side::below);
    ASSERT_EQ(r.drives.size(), 1u);
    EXPECT_EQ(r.drives[0].spec.min_on(), 2_min);
    EXPECT_EQ(r.drives[0].spec.level(on), Level::low);
    EXPECT_EQ(r.drives[0].claims[0].then, on);
}

TEST(RigFile, tells_every_mistake_where_it_is_and_how_to_mend_it) {
    const struct {
        const char* line;
        const char* instead;
        uint32_t at_line, at_column;
        const char* said;
    } cases[] = {
        {"nominal = \"10 kohm\"", "nominl = \"10 kohm\"", 8, 1, "did you mean \"nominal\"?"},
        {"[board]", "[bord]", 3, 2, "did you mean [board]?"},
        {"beta = \"3950 K\"", "beta = 3950", 9, 8, "write for example beta = \"3950 K\""},
        {"beta = \"3950 K\"", "beta = \"3950\"", 9, 8, "has no unit"},
        {"pull_up = \"10 kohm\"", "pull_up = \"10 degC\"", 10, 11,
         "is a temperature, but here a res"},
        {"pull_up = \"10 kohm\"", "pull_up = \"10 khom\"", 10, 11, "did you mean \"10 kohm\"?"},
        {"pull_up = \"10 kohm\"", "", 5, 1, "needs either \"pull_up\""},
        {"pull_up = \"10 kohm\"", "pull_up = \"-10 kohm\"", 10, 11, "between 1 ohm and"},
        {"pull_up = \"10 kohm\"", "pull_up = \"9999999 Mohm\"", 10, 11, "too large"},
        {"part = \"thermistor\"", "part = \"termistor\"", 6, 8, "write \"thermistor\""},
        {"pin = \"ADC0\"", "pin = \"ADC8\"", 7, 7, "ADC0 to ADC7"},
        {"pin = \"PB0\"", "pin = \"PC0\"", 18, 7, "already used by [sense.roost] in line 7"},
        {"pin = \"PB0\"", "pin = \"B0\"", 18, 7, "write PB0 to PB7"},
        {"range = [\"-30 degC\", \"80 degC\"]", "range = [\"-90 degC\", \"80 degC\"]", 5, 1,
         "broken or shorted wire"},
        {"range = [\"-30 degC\", \"80 degC\"]", "range = [\"80 degC\", \"-30 degC\"]", 11, 9,
         "the lower end first"},
        {"range = [\"-30 degC\", \"80 degC\"]", "range = [\"-30 degC\"]", 11, 9, "the highest"},
        {"of = \"roost\"", "of = \"rost\"", 13, 6, "did you mean \"roost\"?"},
        {"release = \"6 degC\"", "release = \"2 degC\"", 15, 11,
         "must lie above the threshold 4 degC"},
        {"release = \"6 degC\"", "release = \"4.05 degC\"", 15, 11,
         "noise alone would make the output"},
        {"release = \"6 degC\"", "", 12, 1, "needs \"release\""},
        {"release = \"6 degC\"", "release = \"200 degC\"", 15, 11, "roost cannot measure 200 degC"},
        {"below = \"39.2 degF\"", "below = \"-29.9 degC\"", 14, 9, "from the end of roost's range"},
        {"safe = \"off\"", "", 16, 1, "needs \"safe\""},
        {"safe = \"off\"", "safe = \"of\"", 20, 8, "write \"off\" or \"on\""},
        {"active = \"low\"", "", 16, 1, "needs \"active\""},
        {"min_on = \"120 s\"", "min_on = \"30 d\"", 21, 10, "too large"},
        {"min_on = \"120 s\"", "longest_on = \"1 h\"", 16, 1, "needs a \"min_off\""},
        {"claims = [ { when = \"cold\", then = \"on\" } ]", "claims = [ { when = \"cold\" } ]", 22,
         12, "needs \"then\""},
        {"claims = [ { when = \"cold\", then = \"on\" } ]",
         "claims = [ { when = \"not (cold or hot)\", then = \"on\" } ]", 22, 35, "no [decide.hot]"},
        {"claims = [ { when = \"cold\", then = \"on\" } ]",
         "claims = [ { when = \"cold cold\", then = \"on\" } ]", 22, 27, "join names with"},
        {"claims = [ { when = \"cold\", then = \"on\" } ]", "claims = []", 22, 10,
         "1 to 255 claims"},
        {"[decide.cold]", "[decide.roost]", 12, 9, "already used by [sense.roost]"},
        {"[decide.cold]", "[decide.not]", 12, 9, "word with a meaning of its own"},
        {"chip = \"atmega328p\"", "chip = \"other\"", 3, 1, "needs \"adc_bits\""},
        {"chip = \"atmega328p\"", "adc_bits = 12", 4, 12, "converter of 10 bits"},
        {"min_on = \"120 s\"", "größe = 1", 21, 3, "\"ö\" may stand only in quotes"},
        {"min_on = \"120 s\"", "x = \"\"\"ä\"\"\"\"\"  é", 21, 16,
         "\"é\" may stand only in quotes"},
        {"name = \"Heat lamp\"", "name = ", 2, 8, "this is not TOML"},
    };
    for (const auto& c : cases) {
        const rig::RigFile file = rig::parse_rig(with(c.line, c.instead));
        bool found = false;
        std::string all;
        for (const rig::Mistake& mistake : file.mistakes) {
            all += fmt::format("{}:{}: {}\n", mistake.line, mistake.column, mistake.text);
            found = found || (mistake.line == c.at_line && mistake.column == c.at_column &&
                              has(mistake.text, c.said));
        }
        EXPECT_TRUE(found) << "after \"" << c.instead << "\", wanted " << c.at_line << ":"
                           << c.at_column << " with \"" << c.said << "\"; said\n"
                           << all;
    }
}

TEST(RigFile, knows_linear_chips) {
    const std::string chip = "[sense.air]\npart = \"linear_chip\"\npin = \"ADC1\"\n"
                             "slope = \"5 mV/degF\"\nat_zero = \"0.41 V\"\n";
    const rig::RigFile file = rig::parse_rig(chip + "reference = \"5 V\"\n");
    ASSERT_TRUE(file.mistakes.empty()) << file.mistakes.front().text;
    const int code = file.rig.senses[0].code_at(50_degC);
    EXPECT_EQ(code, 177) << "410 mV and 9 mV for each of 50 degrees are 860 mV of 5,000";
    const struct {
        const char* reference;
        const char* said;
    } wrong[] = {{"", "[sense.air] needs \"reference\""},
                 {"reference = \"50 V\"\n", "\"reference\" must lie between 0.5 and 10 V"},
                 {"reference = \"5 kohm\"\n", "is a resistance, but here a voltage is needed"},
                 {"reference = \"1.1 V\"\n", "broken or shorted wire"},
                 {"reference = \"10 V\"\nrange = [\"0.1 degC\", \"10.1 degC\"]\n",
                  "fewer than 10 codes of the converter"}};
    for (const auto& c : wrong) {
        const rig::RigFile bad = rig::parse_rig(chip + c.reference);
        ASSERT_EQ(bad.mistakes.size(), 1u) << c.reference;
        EXPECT_TRUE(has(bad.mistakes[0].text, c.said)) << bad.mistakes[0].text;
    }
}

TEST(RigFile, any_letter_may_stand_in_quotes_and_comments) {
    const rig::RigFile file =
        rig::parse_rig(with("name = \"Heat lamp\"", "name = \"Wärmelampe \\\" ø\" # für Hühner"));
    ASSERT_TRUE(file.mistakes.empty()) << file.mistakes.front().text;
    EXPECT_EQ(file.rig.name, "Wärmelampe \" ø");
}

TEST(RigFile, a_wide_converter_of_another_chip_is_fine) {
    std::string text = with("chip = \"atmega328p\"", "chip = \"other\"\nadc_bits = 12");
    const rig::RigFile file = rig::parse_rig(text);
    ASSERT_TRUE(file.mistakes.empty()) << file.mistakes.front().text;
    EXPECT_EQ(file.rig.senses[0].full_scale(), 4095);
}

TEST(Condition, not_binds_before_and_before_or) {
    const std::vector<std::string> names = {"a", "b", "c"};
    const struct {
        const char* text;
        bool (*meaning)(bool, bool, bool);
    } cases[] = {
        {"a or b and c", [](bool a, bool b, bool c) { return a || (b && c); }},
        {"(a or b) and c", [](bool a, bool b, bool c) { return (a || b) && c; }},
        {"not a and b", [](bool a, bool b, bool) { return !a && b; }},
        {"not (a and not b) or c", [](bool a, bool b, bool c) { return !(a && !b) || c; }},
    };
    for (const auto& c : cases) {
        const rig::ConditionText read = rig::parse_condition(c.text, names);
        ASSERT_EQ(read.problem, "");
        for (unsigned bits = 0; bits < 8; ++bits) {
            const bool v[] = {(bits & 1) != 0, (bits & 2) != 0, (bits & 4) != 0};
            const Truth truths[] = {truth_of(v[0]), truth_of(v[1]), truth_of(v[2])};
            EXPECT_EQ(read.condition.evaluate(truths), truth_of(c.meaning(v[0], v[1], v[2])))
                << c.text << " with " << bits;
        }
    }
    const Truth truths[] = {Truth::unknown, Truth::no, Truth::yes};
    EXPECT_EQ(rig::parse_condition("a and b", names).condition.evaluate(truths), Truth::no);
    EXPECT_EQ(rig::parse_condition("a and c", names).condition.evaluate(truths), Truth::unknown);
}

TEST(Condition, one_too_deep_is_refused) {
    std::string deep;
    for (int i = 0; i < 1000; ++i)
        deep += "not ";
    EXPECT_TRUE(has(rig::parse_condition(deep + "a", {"a"}).problem, "nested too deeply"));
}

TEST(Text, quantities_are_shown_in_full) {
    EXPECT_EQ(rig::to_text(Temperature(-4.25_degC), 1), "-4.25 degC");
    EXPECT_EQ(rig::to_text(Temperature(4_degC), 1), "4.0 degC");
    EXPECT_EQ(rig::to_text(Temperature(4_degC), 0), "4 degC");
    EXPECT_EQ(rig::to_text(4.7_kohm), "4.7 kohm");
    EXPECT_EQ(rig::to_text(330_ohm), "330 ohm");
    EXPECT_EQ(rig::span_to_text(0), "0 s");
    EXPECT_EQ(rig::span_to_text(90'250), "1 min 30 s 250 ms");
    EXPECT_EQ(rig::time_to_text(2 * 86'400'000LL + 3'661'005), "2d 01:01:01.005");
    EXPECT_EQ(rig::count_to_text(1'234'567), "1,234,567");
    EXPECT_EQ(rig::nearest("recieve", {"receive", "deceive"}), "receive");
    EXPECT_EQ(rig::nearest("xyz", {"receive"}), "");
}

} // namespace
