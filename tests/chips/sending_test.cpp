// SPDX-License-Identifier: MIT
// What a device on the emulated chip sends: a trace of its inputs and outputs that the desk runs.
#include "bench/live/watched.hpp"
#include "rig/rig_file.hpp"
#include "rig/sense/part.hpp"
#include "rig/text/files.hpp"
#include "tests/chips/atmega328p.hpp"
#include "tests/desk/process.hpp"

#include <gtest/gtest.h>

#include <cmath>
#include <random>
#include <sstream>

namespace {

using namespace zorilla;
using desk::has;
using desk::Outcome;

/// What a device has sent, as somebody keeps it who does not care for its checks.
std::string without_checks(const std::string& sent) {
    std::istringstream lines(sent);
    std::string out;
    for (std::string line; std::getline(lines, line);)
        out += line.substr(0, line.rfind(',')) + "\n";
    return out;
}

const std::string examples = ZORILLA_SOURCE "/examples/";

TEST(Firmware, sends_a_trace_that_the_desk_runs_as_the_chip_did) {
    const desk::Folder folder;
    const std::string rig = examples + "pellet_feeder/pellet_feeder.toml";
    ASSERT_EQ(desk::zorilla("firmware " + rig + " --send --build --out " + folder / "f").status, 0);
    chips::Atmega328p chip(folder / "f/firmware.elf");
    chip.set_millivolts(3900);
    chip.put("PD2", true);
    chip.put("PD3", true);
    chip.run_for(1000);
    chip.put("PD2", false); // somebody feeds the goats
    chip.run_for(300);
    chip.put("PD2", true);
    std::string forward; // of each pass, after it
    chip.on_mark = [&](uint8_t mark, uint64_t) {
        if (mark == 2)
            forward += chip.is_high("PB0") ? '1' : '0';
    };
    chip.run_for(5000);
    chip.put("PD3", false); // and it jams
    chip.run_for(2050);
    const Outcome run =
        desk::zorilla("run " + rig + " --trace " + folder.write("sent.csv", chip.serial()) +
                      " --csv " + folder / "out.csv");
    ASSERT_EQ(run.status, 0) << run.err << chip.serial();
    // Of the table each row has the state of the relay as the desk finds it.
    std::istringstream table(desk::read_all(folder / "out.csv"));
    std::string line, desk_forward;
    std::getline(table, line);
    size_t column = 0;
    std::istringstream head(line);
    for (std::string field; std::getline(head, field, ',') && field != "forward";)
        ++column;
    while (std::getline(table, line)) {
        std::istringstream fields(line);
        std::string field;
        for (size_t i = 0; i <= column; ++i)
            std::getline(fields, field, ',');
        desk_forward += field == "on" ? '1' : '0';
    }
    ASSERT_GT(desk_forward.size(), forward.size());
    // The last rows of both; the very last one is still on its way.
    const std::string there = forward.substr(0, forward.size() - 1);
    EXPECT_NE(desk_forward.find(there), std::string::npos) << desk_forward << "\n" << there;
    EXPECT_NE(there.find("10"), std::string::npos) << there;

    // The device has told its outputs too; where somebody has changed one, it is found.
    EXPECT_TRUE(has(run.out, "passes: they are the rig's")) << run.out;
    std::string other = without_checks(chip.serial());
    const size_t on = other.rfind(",1,0,0\n");
    ASSERT_NE(on, std::string::npos) << other;
    other[on + 1] = '0';
    const Outcome found =
        desk::zorilla("run " + rig + " --trace " + folder.write("other.csv", other));
    EXPECT_EQ(found.status, 1) << found.out;
    EXPECT_TRUE(has(found.out, "did otherwise in 1 of ")) << found.out;
    EXPECT_TRUE(has(found.out, "forward was off, the rig says on")) << found.out;
    EXPECT_TRUE(has(found.err, "the device has done otherwise than")) << found.err;
    EXPECT_TRUE(
        has(desk::zorilla("firmware " + rig + " --send --pass '20 ms' --out " + folder / "q").err,
            "a row of this rig takes up to"));
}

// A header of more than a hundred characters takes longer than a pass; no row is lost behind it.
TEST(Firmware, sends_each_pass_from_the_first_one_on_however_long_its_header_is) {
    const desk::Folder folder;
    ASSERT_EQ(desk::zorilla("firmware " + examples +
                            "hen_house/hen_house.toml --send --build --out " + folder / "f")
                  .status,
              0);
    chips::Atmega328p chip(folder / "f/firmware.elf");
    chip.set_millivolts(2500);
    chip.run_for(3000);
    std::istringstream lines(chip.serial());
    std::string line;
    std::getline(lines, line);
    EXPECT_GT(line.size(), 100U) << line;
    std::vector<int64_t> times;
    while (std::getline(lines, line))
        if (line.find(',') != std::string::npos)
            times.push_back(std::llround(std::stod(line) * 1000));
    times.pop_back(); // still on its way
    ASSERT_GT(times.size(), 20U) << chip.serial();
    for (size_t i = 1; i < times.size(); ++i)
        EXPECT_NEAR(static_cast<double>(times[i] - times[i - 1]), 100, 2) << i;
}

TEST(Firmware, reports_as_often_as_its_rig_says_and_nobody_says_more_of_it_than_rows_tell) {
    const desk::Folder folder;
    std::string text = desk::read_all(examples + "heat_lamp/heat_lamp.toml");
    text.insert(text.find("[sense.roost]"), "report = \"250 ms\"\n\n");
    const std::string rig = folder.write("lamp.toml", text);
    const std::string build = "firmware " + rig + " --send --build --out " + folder / "f";
    const Outcome refused = desk::zorilla(build + " --pass '300 ms'");
    EXPECT_EQ(refused.status, 2);
    EXPECT_TRUE(has(refused.err, "reports each 250 ms, and passes each 300 ms")) << refused.err;
    // Shorter passes than a row takes, which could not send each of them.
    ASSERT_EQ(desk::zorilla(build + " --pass '10 ms'").status, 0);
    chips::Atmega328p chip(folder / "f/firmware.elf");
    chip.set_millivolts(2500);
    uint64_t passes = 0;
    chip.on_mark = [&](uint8_t mark, uint64_t) { passes += mark == 2 ? 1 : 0; };
    chip.run_for(5000);
    EXPECT_GT(passes, 480U); // some more while its header goes out
    std::istringstream rows(chip.serial());
    std::string line;
    std::getline(rows, line);
    double first = -1;
    for (int i = 0; i < 18; ++i) {
        ASSERT_TRUE(std::getline(rows, line)) << chip.serial();
        first = i == 0 ? std::stod(line) : first;
        EXPECT_NEAR(std::stod(line), first + 0.25 * i, 0.0105) << line;
    }
    const std::string sent = folder.write("sent.csv", chip.serial());
    const Outcome run = desk::zorilla("run " + rig + " --trace " + sent);
    EXPECT_EQ(run.status, 0) << run.err;
    EXPECT_TRUE(has(run.err, "reports each 250 ms")) << run.err;
    EXPECT_FALSE(has(run.out, "the device")) << run.out;
    const Outcome live = desk::zorilla("live " + rig + " " + sent);
    EXPECT_EQ(live.status, 2);
    EXPECT_TRUE(has(live.err, "drop \"report\" in [board]")) << live.err;
}

TEST(Firmware, sends_outputs_of_every_kind_as_the_rig_has_them_in_a_self_test_too) {
    const desk::Folder folder;
    const std::string path = folder.write("all.toml", R"([rig.self_test]
when = "tried"
each = "500 ms"
[sense.tried]
part = "digital_input"
pin = "PB4"
active = "low"
[sense.probe]
part = "raw"
pin = "ADC0"
[decide.high]
of = "probe"
above = "512 counts"
release = "400 counts"
[decide.level]
of = "probe"
rising = ["200 counts", "500 counts", "800 counts"]
release = ["100 counts", "400 counts", "700 counts"]
[drive.lamp]
part = "relay"
pin = "PB0"
active = "high"
safe = "off"
claims = [ { when = "high", then = "on" } ]
[drive.glow]
part = "led"
pin = "PB1"
safe = "off"
fade = "2 s"
claims = [ { when = "high", then = "80 %" } ]
[drive.bar]
part = "led_bar"
pins = ["PD5", "PD6", "PD7"]
safe = "off"
claims = [ { then = "level" } ]
[drive.horn]
part = "buzzer"
pin = "PD3"
safe = "off"
claims = [ { when = "high", then = "880 Hz" } ]
[drive.status]
part = "rgb_led"
red_pin = "PC1"
green_pin = "PC2"
blue_pin = "PC3"
safe = "off"
claims = [ { when = "high", then = "red 100 %, blue 100 %" } ]
)");
    const Outcome made =
        desk::zorilla("firmware " + path + " --send --build --out " + folder / "f");
    ASSERT_EQ(made.status, 0) << made.err;
    chips::Atmega328p chip(folder / "f/firmware.elf");
    chip.put("PB4", true);
    // Its lamp fades from its first pass on, which comes once the header is sent.
    for (const int code : {900, 50, 300, 600, 900, 450, 150, 700}) {
        chip.set_code(code, 0);
        chip.run_for(1500);
    }
    chip.put("PB4", false);
    chip.run_for(4000);
    const std::string sent = chip.serial().substr(0, chip.serial().rfind('\n') + 1);
    EXPECT_TRUE(has(sent, ",204,3,880,16711935,")) << sent; // all that they are asked for
    const Outcome run = desk::zorilla("run " + path + " --trace " + folder.write("sent.csv", sent));
    EXPECT_EQ(run.status, 0) << run.out << run.err;
    EXPECT_TRUE(has(run.out, "passes: they are the rig's")) << run.out;
    // The same while it comes; and of one that is joined later, nothing is said that is not so.
    const rig::RigFile file = rig::parse_rig(rig::read_file(path));
    for (const size_t from : {size_t{0}, sent.size() / 2}) {
        bench::Watched watched(file.rig, {});
        watched.take(sent.substr(from));
        EXPECT_EQ(watched.companion().standing(),
                  from == 0 ? bench::Standing::whole : bench::Standing::caught);
        EXPECT_EQ(watched.companion().different(), 0U);
        EXPECT_EQ(watched.companion().missed(), 0U);
        EXPECT_GT(watched.companion().compared(), 60U);
    }
    const Outcome wrong =
        desk::zorilla("run " + path + " --trace " +
                      folder.write("wrong.csv", without_checks(sent) + "99,1,600,2,0,0,0,0\n"));
    EXPECT_TRUE(has(wrong.err, "\"2\" is not what this output can be, a whole number from 0 to 1"))
        << wrong.err;
}

TEST(Firmware, sends_codes_of_more_bits_where_conversions_are_added_up) {
    const std::string text =
        "[board]\nchip = \"atmega328p\"\n"
        "[sense.fine]\npart = \"raw\"\npin = \"ADC0\"\nextra_bits = 2\n"
        "[sense.plain]\npart = \"raw\"\npin = \"ADC2\"\n"
        "[sense.finest]\npart = \"raw\"\npin = \"ADC1\"\nextra_bits = 3\n"
        "[decide.much]\nof = \"fine\"\nabove = \"1700 counts\"\nrelease = \"1650 counts\"\n"
        "[drive.lamp]\npart = \"led\"\npin = \"PB0\"\nsafe = \"off\"\n"
        "claims = [ { when = \"much\", then = \"100 %\" } ]\n";
    const rig::RigFile file = rig::parse_rig(text);
    ASSERT_TRUE(file.mistakes.empty()) << file.mistakes.front().text;
    EXPECT_EQ(file.rig.senses[0].largest_raw, 4095);
    const desk::Folder folder;
    const std::string build =
        "firmware " + folder.write("rig.toml", text) + " --send --out " + folder / "f";
    ASSERT_EQ(desk::zorilla(build + " --build").status, 0);
    chips::Atmega328p chip(folder / "f/firmware.elf");
    chip.set_code(700, 2);
    chip.set_code(300, 1);
    // It trembles between two codes: a quarter of the time it is the upper one.
    std::mt19937 random(5);
    for (int i = 0; i < 6000; ++i) {
        chip.set_code(random() % 4 == 0 ? 401 : 400, 0);
        chip.run_for(1);
    }
    std::istringstream rows(chip.serial());
    std::string line;
    std::getline(rows, line);
    std::getline(rows, line); // the first may still lack a code
    int count = 0;
    double sum = 0;
    bool between = false;
    for (double time = 0; std::getline(rows, line) && !rows.eof(); ++count) {
        int fine = 0, plain = 0, finest = 0;
        ASSERT_EQ(std::sscanf(line.c_str(), "%lf,%d,%d,%d,", &time, &fine, &plain, &finest), 4)
            << line;
        EXPECT_EQ(plain, 700) << line;
        EXPECT_EQ(finest, 8 * 300) << line;
        EXPECT_NEAR(fine, 1601, 3) << line;
        between = between || fine % 4 != 0;
        sum += fine;
    }
    ASSERT_GT(count, 40);
    // The quarter of a sum of 16, as whole codes are told: three eighths less on average.
    EXPECT_NEAR(sum / count, 4 * 400.25 - 0.375, 0.25);
    EXPECT_TRUE(between);

    // A trace of plain codes is not taken for such a one in silence.
    const Outcome plain =
        desk::zorilla("run " + folder / "rig.toml" + " --trace " +
                      folder.write("plain.csv", "time (s),fine (code),plain (code),finest (code)\n"
                                                "0,400,700,2400\n1,1023,700,2400\n"));
    EXPECT_TRUE(has(plain.err, "no code of fine is above 1,023, and with extra_bits = 2 they go up "
                               "to 4,095: was it recorded without?"))
        << plain.err;
    EXPECT_FALSE(has(plain.err, "no code of finest")) << plain.err;

    // On the desk the same wire gives codes of as many bits, and so many conversions need their
    // time.
    rig::Noise noise(3);
    EXPECT_GT(file.rig.senses[0].part->forward({1600.0}, noise, rig::Fault::none, {}).bits(), 1590);
    const Outcome out = desk::zorilla(build + " --pass '60 ms' --force");
    EXPECT_EQ(out.status, 2);
    EXPECT_TRUE(has(out.err, "takes 84 ms to come round all channels")) << out.err;
}

} // namespace
