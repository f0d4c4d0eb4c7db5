// SPDX-License-Identifier: MIT
// A rig as data: written out and read again it is the same; and what the pins of its chip allow.
#include "bench/random_raws.hpp"
#include "rig/derive/part.hpp"
#include "rig/rig_file.hpp"
#include "rig/run/running_rig.hpp"
#include "rig/text/files.hpp"
#include "tests/desk/process.hpp"
#include "tests/desk/rig_text.hpp"
#include "tests/prove/random_rig.hpp"

#include <gtest/gtest.h>

#include <random>
#include <regex>

namespace {

using namespace zorilla;
using desk::has;
using desk::mistakes_of;
namespace fs = std::filesystem;

std::vector<fs::path> examples() {
    std::vector<fs::path> out;
    for (const auto& entry : fs::recursive_directory_iterator(ZORILLA_SOURCE "/examples"))
        if (entry.path().extension() == ".toml" &&
            entry.path().stem() == entry.path().parent_path().filename())
            out.push_back(entry.path());
    return out;
}

/// Whether a rig is the same after it was written as TOML and read again, and after it was made
/// from its tables alone; and whether it then still says the same of itself.
void expect_the_same_again(const std::string& text) {
    const rig::RigFile file = rig::parse_rig(text);
    ASSERT_TRUE(file.mistakes.empty()) << file.mistakes.front().text << "\n" << text;
    const std::string written = rig::to_toml(file.rig);
    const rig::RigFile again = rig::parse_rig(written);
    ASSERT_TRUE(again.mistakes.empty()) << again.mistakes.front().text << "\n" << written;
    EXPECT_TRUE(again.rig == file.rig) << text << "\nbecame\n" << written;
    EXPECT_EQ(rig::to_toml(again.rig), written);
    EXPECT_TRUE(rig::make_rig(file.rig.written).mistakes.empty());
    ASSERT_EQ(again.rig.senses.size(), file.rig.senses.size());
    for (size_t i = 0; i < file.rig.senses.size(); ++i) {
        EXPECT_EQ(again.rig.senses[i].about, file.rig.senses[i].about);
        const auto same = [](rig::AnyReading a, rig::AnyReading b) {
            return a.health() == b.health() && a.value_or({}) == b.value_or({});
        };
        const auto &a = again.rig.senses[i].by_code, &b = file.rig.senses[i].by_code;
        EXPECT_TRUE(std::equal(a.begin(), a.end(), b.begin(), b.end(), same));
    }
    for (size_t i = 0; i < file.rig.decides.size(); ++i)
        EXPECT_EQ(again.rig.decides[i].part->about({again.rig.decides[i], again.rig}),
                  file.rig.decides[i].part->about({file.rig.decides[i], file.rig}));
}

TEST(Model, every_example_is_the_same_after_it_was_written_and_read_again) {
    const std::vector<fs::path> all = examples();
    EXPECT_GT(all.size(), 8u);
    for (const fs::path& path : all)
        expect_the_same_again(desk::read_all(path));
}

TEST(Model, any_rig_is_the_same_after_it_was_written_and_read_again) {
    int tried = 0;
    for (uint64_t seed = 1; seed <= 300; ++seed) {
        const std::string text = random_rig::Maker(seed).text();
        if (!rig::parse_rig(text).mistakes.empty())
            continue;
        expect_the_same_again(text);
        ++tried;
    }
    EXPECT_GT(tried, 200);
}

TEST(Model, does_the_same_whatever_time_it_is_at_its_first_pass) {
    for (uint64_t seed = 0; seed < 200; ++seed) {
        const rig::RigFile file = rig::parse_rig(random_rig::Maker(seed).text());
        if (!file.mistakes.empty())
            continue;
        rig::RunningRig early(file.rig), late(file.rig);
        std::mt19937 random(static_cast<unsigned>(seed));
        std::vector<rig::Raw> raws(file.rig.senses.size());
        const auto first = static_cast<uint32_t>(random());
        for (uint32_t i = 0; i < 200; ++i) {
            if (i % 10 == 0)
                bench::random_raws(file.rig, random, raws);
            early.pass(Instant(100 * i), raws.data());
            late.pass(Instant(first + 100 * i), raws.data());
            ASSERT_EQ(early.truths(), late.truths()) << seed << " from " << first;
            for (size_t d = 0; d < file.rig.drives.size(); ++d)
                ASSERT_EQ(early.drivens()[d].value.bits(), late.drivens()[d].value.bits())
                    << seed << " from " << first << ": " << file.rig.drives[d].name;
        }
    }
}

/// What a rig does, in readings that tremble and wander, beside the same rig with a sensor more
/// whose truth changes in each pass, so that nothing in it may ever rest.
void expect_rest_to_change_nothing(const std::string& text, unsigned seed, uint32_t longest_pass) {
    const rig::RigFile file = rig::parse_rig(text);
    if (!file.mistakes.empty())
        return;
    const rig::RigFile restless = rig::parse_rig(
        text + "\n[sense.restless]\npart = \"line_switch\"\n[decide.stirs]\nwhen = \"restless\"\n");
    ASSERT_TRUE(restless.mistakes.empty()) << restless.mistakes.front().text << "\n" << text;
    const rig::Rig& rig = file.rig;
    rig::RunningRig resting(rig), stirred(restless.rig);
    std::mt19937 random(seed);
    std::vector<rig::Raw> raws(rig.senses.size()), more;
    uint32_t now = static_cast<uint32_t>(random());
    for (uint32_t pass = 0; pass < 600; ++pass) {
        now += pass % 100 == 99 ? 100'000 : static_cast<uint32_t>(random() % longest_pass);
        if (pass % 60 == 0)
            bench::random_raws(rig, random, raws);
        for (size_t i = 0; i < raws.size(); ++i)
            if (raws[i].bits() > 2 && rig.senses[i].raw != rig::RawKind::frame)
                raws[i] = rig::Raw(std::min(raws[i].bits() + static_cast<int64_t>(random() % 5) - 2,
                                            rig.senses[i].largest_raw));
        more = raws;
        more.push_back(rig::Raw(int64_t{pass % 2}));
        resting.pass(Instant(now), raws.data());
        stirred.pass(Instant(now), more.data());
        const auto where = [&] { return fmt::format("{}, pass {}\n{}", seed, pass, text); };
        for (size_t i = 0; i < rig.drives.size(); ++i) {
            const rig::Driven &a = resting.drivens()[i], &b = stirred.drivens()[i];
            ASSERT_TRUE(a.value == b.value && a.cause == b.cause && a.claim == b.claim &&
                        a.asked == b.asked && a.is_on == b.is_on && a.warns == b.warns)
                << rig.drives[i].name << ": " << a.value.bits() << " and " << b.value.bits()
                << ", cause " << int(a.cause) << " and " << int(b.cause) << "; " << where();
        }
        for (size_t i = 0; i < rig.decides.size(); ++i) {
            const rig::Decide& decide = rig.decides[i];
            if (decide.has_truth()) {
                ASSERT_EQ(resting.truths()[decide.fact],
                          stirred.truths()[restless.rig.decides[i].fact])
                    << decide.name << "; " << where();
            }
            ASSERT_EQ(resting.duty(i).value_or({}), stirred.duty(i).value_or({}))
                << decide.name << "; " << where();
            ASSERT_EQ(resting.stage(i).value_or(Stage()).number(),
                      stirred.stage(i).value_or(Stage()).number())
                << decide.name << "; " << where();
        }
        for (size_t i = 0; i < rig.machines.size(); ++i)
            ASSERT_EQ(resting.state(i), stirred.state(i)) << rig.machines[i].name << where();
    }
}
TEST(Model, what_rests_while_nothing_changes_does_the_same_as_what_never_may) {
    for (const fs::path& path : examples())
        for (unsigned seed = 0; seed < 8; ++seed)
            expect_rest_to_change_nothing(rig::read_file(path), seed, seed % 2 == 0 ? 200 : 3000);
    for (unsigned seed = 0; seed < 150; ++seed)
        expect_rest_to_change_nothing(random_rig::Maker(seed).text(), seed, 3000);
}

TEST(Model, says_the_same_in_other_units_and_another_thing_with_another_number) {
    const std::string text = desk::read_all(ZORILLA_SOURCE "/examples/heat_lamp/heat_lamp.toml");
    const auto with = [&text](const std::string& from, const std::string& to) {
        std::string out = text;
        EXPECT_NE(out.find(from), std::string::npos) << from;
        return rig::parse_rig(out.replace(out.find(from), from.size(), to)).rig;
    };
    const rig::Rig rig = rig::parse_rig(text).rig;
    EXPECT_TRUE(rig == with("below = \"4 degC\"", "below = \"39.2 degF\" # frost"));
    EXPECT_TRUE(rig == with("min_off = \"5 min\"", "min_off = \"300 s\""));
    EXPECT_FALSE(rig == with("below = \"4 degC\"", "below = \"4.001 degC\""));
    EXPECT_FALSE(rig == with("min_off = \"5 min\"", "min_off = \"301 s\""));
    EXPECT_FALSE(rig == with("[decide.cold]", "[decide.cald]"));
    EXPECT_EQ(rig.senses[0].word, "thermistor");
    const auto line = static_cast<uint32_t>(
        1 + std::count(text.begin(), text.begin() + static_cast<ptrdiff_t>(text.find("[sense.")),
                       '\n'));
    EXPECT_EQ(rig.senses[0].place.line, line);
}

// --- Pins

/// An output of a kind that is asked for something that needs all that it can.
std::string output(const std::string& name, const std::string& part, const std::string& pin) {
    const std::string value = part == "buzzer" ? "880 Hz" : part == "relay" ? "on" : "40 %";
    return fmt::format("[drive.{}]\npart = \"{}\"\npin = \"{}\"\n{}safe = \"off\"\nclaims = [ {{ "
                       "when = \"hot\", then = \"{}\" }} ]\n",
                       name, part, pin, part == "relay" ? "active = \"low\"\n" : "", value);
}
const std::string hot = "[sense.t]\npart = \"percent\"\npin = \"ADC0\"\ncode_at_0 = 60\n"
                        "code_at_100 = 900\n[decide.hot]\nof = \"t\"\nabove = \"60 %\"\n"
                        "release = \"50 %\"\n";

TEST(Pins, what_the_chip_cannot_do_is_refused_with_both_names_and_a_pin_that_would_do) {
    EXPECT_EQ(
        mistakes_of(hot + output("heater", "relay", "PB6") + output("lamp", "relay", "PD1") +
                    output("chime", "buzzer", "PD6") + output("horn", "buzzer", "PB1") +
                    output("flap", "servo", "PB2")),
        "12:7: PB6 carries the crystal that the clock runs on; PB0 would do\n"
        "18:7: PD1 is where the serial line sends; PB4 would do\n"
        "24:7: [drive.chime] on PD6 would take timer 0 for a tone, but that runs the clock, and "
        "gives nothing but duties beside it; "
        "PB3 would do\n"
        "29:7: [drive.horn] on PB1 would take timer 1 for a tone, but [drive.flap] on PB2 takes "
        "that for a servo's pulses; PD3 would do, unless timer 2 is taken for [drive.chime] "
        "then\n");
    EXPECT_EQ(mistakes_of(hot + output("flap", "servo", "PD3")),
              "12:7: [drive.flap] on PD3 would take timer 2 for a servo's pulses, which takes more "
              "than its 8 bits; PB1 would do\n");
    EXPECT_EQ(mistakes_of(hot + output("lamp", "led", "PB4")),
              "12:7: PB4 can only be on or off; a duty for [drive.lamp] needs a pin that a timer "
              "drives; PB1 would do\n");
    EXPECT_EQ(mistakes_of(hot + output("one", "led", "PB1") + output("two", "fan", "PB2") +
                          output("three", "buzzer", "PD3")),
              "");
}

TEST(Pins, what_is_proposed_can_be_taken) {
    const char* const parts[] = {"relay", "led", "fan", "servo", "buzzer", "pwm"};
    const char* const pins[] = {"PB0", "PB1", "PB2", "PB3", "PB4", "PB6", "PB7", "PD0",
                                "PD1", "PD2", "PD3", "PD4", "PD5", "PD6", "PD7", "PC5"};
    const std::regex proposal("; (P[BCD][0-7]) would do$");
    int taken = 0;
    for (unsigned seed = 1; seed <= 300; ++seed) {
        std::mt19937 random(seed);
        std::vector<std::string> free(std::begin(pins), std::end(pins));
        std::shuffle(free.begin(), free.end(), random);
        std::string text = hot;
        for (unsigned i = 0; i < 1 + random() % 7; ++i)
            text += output(fmt::format("o{}", i), parts[random() % 6], free[i]);
        std::vector<std::string> lines;
        std::stringstream stream(text);
        for (std::string line; std::getline(stream, line);)
            lines.push_back(line);
        std::vector<uint32_t> mended;
        for (const rig::Mistake& mistake : rig::parse_rig(text).mistakes) {
            std::smatch match;
            ASSERT_NE(mistake.line, 0u);
            if (!std::regex_search(mistake.text, match, proposal))
                continue;
            lines[mistake.line - 1] = fmt::format("pin = \"{}\"", match[1].str());
            mended.push_back(mistake.line);
        }
        text.clear();
        for (const std::string& line : lines)
            text += line + "\n";
        for (const rig::Mistake& mistake : rig::parse_rig(text).mistakes)
            EXPECT_EQ(std::count(mended.begin(), mended.end(), mistake.line), 0)
                << seed << ": " << mistake.text << "\n"
                << text;
        taken += static_cast<int>(mended.size());
    }
    EXPECT_GT(taken, 300);
}

TEST(Names, that_are_words_of_cpp_are_refused_with_another) {
    const std::string text = hot + output("lamp", "relay", "PB0");
    for (const char* name : {"double", "new", "switch", "static_cast"}) {
        std::string with = text;
        with.replace(with.find("[drive.lamp]"), 12, fmt::format("[drive.{}]", name));
        EXPECT_TRUE(has(mistakes_of(with), fmt::format("such as \"{}_one\"", name))) << name;
    }
    EXPECT_TRUE(has(mistakes_of(text + "[machine.m]\nstart = \"default\"\nmoves = [ { from = "
                                       "\"default\", to = \"b\", when = \"hot\" }, { from = \"b\", "
                                       "to = \"default\", when = \"not hot\" } ]\n"),
                    "another state, such as \"default_one\""));
}

} // namespace
