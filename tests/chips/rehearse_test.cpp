// SPDX-License-Identifier: MIT
// Firmware that is written from rig files, on the emulated chip: a trace on its pins, and each pin
// after each pass as the rig file says.
#include "bench/budget/budget.hpp"
#include "bench/firmware.hpp"
#include "bench/rehearse/rehearse.hpp"
#include "tests/budget/chip_rig.hpp"
#include "tests/chips/atmega328p.hpp"
#include "tests/chips/passes.hpp"
#include "tests/desk/process.hpp"
#include "tests/winter.hpp"

#include <gtest/gtest.h>

#include <cmath>
#include <map>

namespace {

using namespace zorilla;
using desk::has;
using desk::Outcome;
using desk::zorilla;

const std::string examples = ZORILLA_SOURCE "/examples/";

/// The number behind a word, whatever separates its thousands.
double number_after(const std::string& text, const std::string& word) {
    std::string digits;
    for (size_t i = text.find(word) + word.size(); i < text.size() && text[i] != 'o'; ++i) {
        if (std::isdigit(static_cast<unsigned char>(text[i])) != 0)
            digits += text[i];
        else if (!digits.empty() && text[i] != ',')
            break;
    }
    return std::atof(digits.c_str());
}

struct Slice {
    const char* name;
    const char* trace;
    const char* from;
    const char* span;
    int changes; ///< of outputs, at least
    bool deep = false;
};
void PrintTo(const Slice& slice, std::ostream* out) {
    *out << slice.name << " from " << slice.from;
}

class Rehearsed : public testing::TestWithParam<Slice> {};

TEST_P(Rehearsed, agrees_from_volts_to_volts) {
    const Slice& slice = GetParam();
    if (slice.deep && std::getenv("ZORILLA_DEEP") == nullptr)
        GTEST_SKIP() << "in ./dev test deep";
    const Outcome out =
        zorilla(fmt::format("rehearse {0}{1}/{1}.toml --trace {0}{1}/{2}.csv --from '{3}' --for "
                            "'{4}'",
                            examples, slice.name, slice.trace, slice.from, slice.span));
    EXPECT_EQ(out.status, 0) << out.out << out.err;
    EXPECT_TRUE(has(out.out, "No difference")) << out.out;
    EXPECT_TRUE(has(out.out, ", 0 of them late")) << out.out;
    EXPECT_TRUE(has(out.out, "codes within 0 of")) << out.out;
    int changes = 0;
    for (size_t at = 0; (at = out.out.find("changed ", at)) != std::string::npos; ++at)
        changes += std::atoi(out.out.c_str() + at + 8);
    EXPECT_GE(changes, slice.changes) << out.out;

    // And what it takes is what check has said beforehand.
    const bench::Cost said =
        bench::budget_of(rig::load_rig(fmt::format("{0}{1}/{1}.toml", examples, slice.name)).rig)
            .all;
    EXPECT_NEAR(said.flash / number_after(out.out, "memory"), 1, 0.15) << out.out;
    EXPECT_NEAR(said.ram / number_after(out.out, "of flash;"), 1, 0.15) << out.out;
    EXPECT_NEAR(said.stack / number_after(out.out, "of RAM, and at most"), 1, 0.15) << out.out;
}

INSTANTIATE_TEST_SUITE_P(
    Examples, Rehearsed,
    testing::Values(Slice{"aquarium_light", "day", "60 s", "60 s", 3},
                    Slice{"bilge_pump", "rough_day", "1 s", "60 s", 10},
                    Slice{"dew_heater", "night", "5 min 40 s", "50 s", 3},
                    Slice{"dew_heater", "night", "1 h 39 min 40 s", "90 s", 3, true},
                    Slice{"dew_heater", "night", "1 h 51 min 50 s", "140 s", 4, true},
                    Slice{"dew_heater", "night", "1 h 11 min", "14 min", 10, true},
                    Slice{"fume_hood", "evening", "150 s", "60 s", 5},
                    Slice{"pellet_feeder", "half_hour", "2 s", "60 s", 2},
                    Slice{"proofing_box", "dough", "5 s", "13 min", 6, true},
                    Slice{"proofing_box", "dough", "1 h 19 min 40 s", "50 s", 2},
                    Slice{"proofing_box", "dough", "1 h 31 min 50 s", "140 s", 3},
                    Slice{"proofing_box", "dough", "5 s", "2 h", 20, true},
                    Slice{"rain_barrel", "shower", "1 s", "60 s", 5}));

TEST(Rehearsal, agrees_for_random_rigs_with_all_that_a_rig_can_have) {
    chip_rig::Maker make(
        chip_rig::sections_of(desk::read_all(ZORILLA_SOURCE "/tests/desk/every_part.toml")), 74);
    const int wanted = std::getenv("ZORILLA_DEEP") != nullptr ? 150 : 1;
    for (int made = 0; made < wanted;) {
        const std::string text = make.text();
        const rig::Rig rig = rig::parse_rig(text).rig;
        const desk::Folder folder;
        const bench::FirmwareFolder written = bench::firmware_folder(rig, "rig", text);
        if (text.empty() || !written.gaps.empty())
            continue;
        for (const auto& [name, content] : written.files)
            folder.write(name, content);
        const bench::Built built =
            bench::build_firmware(*zorilla::rig::all_chips().front(), folder.path().string());
        ASSERT_EQ(built.problem, "") << text;
        if (!built.fits.empty())
            continue;
        const bench::Rehearsal is =
            bench::rehearse(rig, folder.path().string(), bench::random_rows(rig, 20'000), 20'000);
        EXPECT_TRUE(is.difference.empty()) << is.difference.front() << "\n" << text;
        ++made;
    }
}

TEST(Rehearsal, tells_the_first_difference_with_both_sides) {
    const desk::Folder folder;
    const std::string out = folder / "feeder";
    ASSERT_EQ(
        zorilla("firmware " + examples + "pellet_feeder/pellet_feeder.toml --out " + out).status,
        0);
    // Somebody has wired the screw the wrong way round.
    std::string main = desk::read_all(out + "/main.cpp");
    const std::string right = "Switched<Board::pb0>";
    const size_t at = main.find(right);
    ASSERT_NE(at, std::string::npos) << main;
    main.replace(at, right.size(), "Switched<Board::pb0, active_low>");
    folder.write("feeder/main.cpp", main);
    const Outcome is =
        zorilla("rehearse " + examples + "pellet_feeder/pellet_feeder.toml --trace " + examples +
                "pellet_feeder/half_hour.csv --for '5 s' --firmware " + out);
    EXPECT_EQ(is.status, 1) << is.err;
    EXPECT_TRUE(has(is.out, "forward differs at 0d 00:00:00")) << is.out;
    EXPECT_TRUE(has(is.out, "by the rig file  off (safe: a claim is unknown)")) << is.out;
    EXPECT_TRUE(has(is.out, "on the chip      PB0 is high")) << is.out;
    // Nor is what he has changed lost.
    const Outcome again =
        zorilla("firmware " + examples + "pellet_feeder/pellet_feeder.toml --out " + out);
    EXPECT_EQ(again.status, 2);
    EXPECT_TRUE(has(again.err, "main.cpp: was not written by this command, or was changed since"))
        << again.err;
    EXPECT_EQ(desk::read_all(out + "/main.cpp"), main);
    EXPECT_EQ(
        zorilla("firmware " + examples + "pellet_feeder/pellet_feeder.toml --force --out " + out)
            .status,
        0);
    EXPECT_NE(desk::read_all(out + "/main.cpp"), main);
}

TEST(Rehearsal, each_fault_on_the_pins_is_read_as_what_it_is_and_acted_on_as_the_desk_does) {
    const struct {
        const char* rig;
        const char* trace;
        const char* span;
        const char* fault;
        const char* health; ///< "" where the device is to notice nothing
    } cases[] = {
        {"dew_heater", "night", "8 s", "lens=open", "lens: open circuit in 80 of 80"},
        {"dew_heater", "night", "8 s", "lens=shorted", "lens: short circuit in 80 of 80"},
        {"dew_heater", "night", "20 s", "air=silent", "air: missing in"},
        {"dew_heater", "night", "30 s", "air=flipped", ""},
        {"rain_barrel", "shower", "6 s", "lid=stuck",
         "lid: no echo in"}, // as a frame that is stuck
        {"rain_barrel", "shower", "6 s", "lid=silent", "lid: no echo in"},
        {"pellet_feeder", "half_hour", "8 s", "button=bouncing", ""},
        {"fume_hood", "evening", "6 s", "fan_turns=spiky", ""},
    };
    for (const auto& one : cases) {
        if (one.span == std::string_view("30 s") && std::getenv("ZORILLA_DEEP") == nullptr)
            continue; // frames are slow to emulate
        const Outcome out = zorilla(
            fmt::format("rehearse {0}{1}/{1}.toml --trace {0}{1}/{2}.csv --for '{3}' --fault {4}",
                        examples, one.rig, one.trace, one.span, one.fault));
        EXPECT_EQ(out.status, 0) << one.fault << "\n" << out.out << out.err;
        EXPECT_TRUE(has(out.out, "No difference")) << one.fault << "\n" << out.out;
        EXPECT_TRUE(has(out.out, ", 0 of them late")) << one.fault << "\n" << out.out;
        EXPECT_TRUE(has(out.out, one.health)) << one.fault << "\n" << out.out;
    }
    const std::string feeder = examples + "pellet_feeder/pellet_feeder.toml --trace " + examples +
                               "pellet_feeder/half_hour.csv --fault ";
    EXPECT_TRUE(has(zorilla("rehearse " + feeder + "none=open").err, "there is no [sense.none]"));
    EXPECT_TRUE(
        has(zorilla("rehearse " + feeder + "button").err, "possible here are button=bouncing"));
}

TEST(Rehearsal, of_the_hen_house_agrees_with_everything_wrong_at_once) {
    const desk::Folder folder;
    const std::string rig_file = examples + "hen_house/hen_house.toml";
    // Around the press of the air button on the second day.
    const Outcome out = zorilla(fmt::format(
        "rehearse {} --trace {} --from '34 h 59 min 55 s' --for '25 s' --fault roost=open --fault "
        "yard_light=shorted --fault litter=flipped --fault barrel=stuck --fault ammonia=shorted "
        "--fault air_button=bouncing --fault hush_button=bouncing",
        rig_file, folder.write("winter.csv", tests::winter_trace(rig::load_rig(rig_file).rig))));
    EXPECT_EQ(out.status, 0) << out.out << out.err;
    EXPECT_TRUE(has(out.out, "No difference")) << out.out;
    EXPECT_TRUE(has(out.out, ", 0 of them late")) << out.out;
    for (const char* fault :
         {"roost: open circuit", "yard_light: short circuit", "barrel: no echo"})
        EXPECT_TRUE(has(out.out, fault)) << out.out;
}

TEST(Rehearsal, measures_against_what_the_rig_says) {
    const desk::Folder folder;
    const auto chip = [](const char* name, const char* pin, const std::string& reference) {
        return fmt::format("[sense.{}]\npart = \"linear_chip\"\npin = \"{}\"\nslope = \"10 "
                           "mV/K\"\nat_zero = \"300 mV\"\nreference = \"{}\"\nrange = [\"2 "
                           "degC\", \"40 degC\"]\n",
                           name, pin, reference);
    };
    const std::string rest = "[decide.warm]\nof = \"a\"\nabove = \"30 degC\"\nrelease = \"28 "
                             "degC\"\n[drive.fan]\npart = \"relay\"\npin = \"PB0\"\nactive = "
                             "\"high\"\nsafe = \"off\"\nclaims = [ { when = \"warm\", then = "
                             "\"on\" } ]\n";
    for (const auto& [reference, volts] :
         std::map<std::string, double>{{"1.1 V", 1.1}, {"2.5 V", 2.5}, {"5 V", 5}}) {
        const std::string rig = folder.write("rig.toml", chip("a", "ADC0", reference) +
                                                             chip("b", "ADC3", reference) + rest);
        const auto code = [v = volts](double degrees) {
            return std::lround((0.3 + 0.01 * degrees) / v * 1024);
        };
        const std::string trace = folder.write(
            "t.csv", fmt::format("time (s),a (code),b (code)\n0,{0},{1}\n1,{2},{1}\n2,{0},{0}\n",
                                 code(20), code(10), code(32)));
        const Outcome out = zorilla("rehearse " + rig + " --trace " + trace + " --for '3 s'");
        EXPECT_EQ(out.status, 0) << out.out << out.err;
        EXPECT_TRUE(has(out.out, "fan changed 2 times")) << reference << "\n" << out.out;
    }
    const std::string mixed =
        folder.write("rig.toml", chip("a", "ADC0", "5 V") + chip("b", "ADC3", "1.1 V") + rest);
    const Outcome out = zorilla("check " + mixed);
    EXPECT_EQ(out.status, 1);
    EXPECT_TRUE(has(out.err, "rig.toml:13:13: [sense.b] is measured against 1.1 V, but [sense.a] "
                             "against 5 V"))
        << out.err;
}

TEST(Firmware, of_the_hen_house_fits_with_room_to_spare) {
    const desk::Folder folder;
    const Outcome out =
        zorilla("firmware " + examples + "hen_house/hen_house.toml --build --out " + folder / "h");
    ASSERT_EQ(out.status, 0) << out.err;
    EXPECT_LE(number_after(out.out, "flash"), 20'480) << out.out;
    EXPECT_LE(number_after(out.out, "RAM"), 700) << out.out;
    const double worst = number_after(out.out, "a pass          at worst 0.") * 160;
    const Outcome check = zorilla("check --limit '1 ms' " + examples + "hen_house/hen_house.toml");
    EXPECT_TRUE(has(check.out, "  most flash  ")) << check.out;
    EXPECT_NEAR(160 * number_after(check.out, "a pass      0.") / worst, 1, 0.15) << check.out;
    EXPECT_TRUE(std::filesystem::exists(folder / "h/firmware.hex"));
}

TEST(Firmware, written_is_as_small_as_what_a_person_has_written_of_the_same_device) {
    const std::map<std::string, std::string> devices = {
        {"HenHouse", "hen_house"},       {"PelletFeeder", "pellet_feeder"},
        {"DewHeater", "dew_heater"},     {"RainBarrel", "rain_barrel"},
        {"FumeHood", "fume_hood"},       {"BilgePump", "bilge_pump"},
        {"ProofingBox", "proofing_box"}, {"AquariumLight", "aquarium_light"}};
    for (const auto& [device, name] : devices) {
        // Two of them in an ordinary test.
        if (std::getenv("ZORILLA_DEEP") == nullptr && name != "hen_house" && name != "fume_hood")
            continue;
        // The same program around both: in the place of the example's header stands the written
        // one.
        const desk::Folder folder;
        std::filesystem::create_directories(folder / ("examples/" + name));
        ASSERT_EQ(zorilla(fmt::format("firmware {0}{1}/{1}.toml --out {2}", examples, name,
                                      folder / "out"))
                      .status,
                  0);
        std::filesystem::copy(folder / "out/device.hpp",
                              folder / ("examples/" + name + "/" + name + ".hpp"));
        const std::string elf = folder / "written.elf";
        const Outcome built = desk::shell(fmt::format(
            "{} --target=avr -mmcu=atmega328p -std=c++17 -Os -mno-relax -fno-exceptions -fno-rtti "
            "-ffunction-sections -fdata-sections -Wl,--gc-sections -isystem /usr/lib/avr/include "
            "-DDEVICE={} -I{} -I{}/include -I{} {}/tests/chips/device_atmega328p.cpp -o {}",
            ZORILLA_CLANG, device, folder.path().string(), ZORILLA_SOURCE, ZORILLA_SOURCE,
            ZORILLA_SOURCE, elf));
        ASSERT_EQ(built.status, 0) << built.err;
        const double written = chips::size_of(elf).flash;
        const double by_hand =
            chips::size_of(chips::firmware("device_" + device + "_atmega328p")).flash;
        EXPECT_LE(written, 1.02 * by_hand) << name;
        EXPECT_GE(written, 0.9 * by_hand) << name << ": is it the same device?";
    }
}

TEST(Firmware, of_a_gas_sensor_in_a_climate_puts_no_arguments_on_the_stack) {
    const desk::Folder folder;
    const Outcome built = zorilla(
        "firmware " ZORILLA_SOURCE "/tests/chips/crowded.toml --build --out " + folder / "o");
    EXPECT_EQ(built.status, 0) << built.out << built.err;
}

TEST(Firmware, tells_what_it_needs) {
    const desk::Folder folder;
    const std::string other = folder.write(
        "other.toml", "[board]\nchip = \"other\"\nadc_bits = 12\n[sense.a]\npart = \"raw\"\npin = "
                      "\"A0\"\n");
    const Outcome chip = zorilla("firmware " + other + " --out " + folder / "o");
    EXPECT_EQ(chip.status, 2);
    EXPECT_TRUE(has(chip.err, "name one of atmega328p, atmega2560, attiny85")) << chip.err;
    const std::string lamp = examples + "heat_lamp/heat_lamp.toml";
    EXPECT_TRUE(has(zorilla("firmware " + lamp + " --out " + folder / "o" + " --pass '1 h'").err,
                    "--pass: at most \"10 s\""));
    EXPECT_TRUE(has(zorilla("firmware " + lamp).err, "--out"));
}

} // namespace
