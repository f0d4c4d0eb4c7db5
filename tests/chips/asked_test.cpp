// SPDX-License-Identifier: MIT
// The parts of a rehearsal are as particular as real ones: what is asked of them in a way that
// those do not answer to is told.
#include "tests/desk/process.hpp"

#include <fmt/format.h>
#include <gtest/gtest.h>

#include <cstring>
#include <string>
#include <tuple>
#include <vector>

namespace {

using desk::has;
using desk::Outcome;
using desk::zorilla;

const std::string examples = ZORILLA_SOURCE "/examples/";

TEST(Rehearsal, tells_of_a_part_that_is_asked_in_a_way_that_a_real_one_does_not_answer_to) {
    // Registers of the ATmega328P: PORTD is 0x2b, DDRD 0x2a.
    const struct {
        const char *example, *trace, *asks, *wrongly;
        std::vector<const char*> told;
    } cases[] = {
        {"dew_heater",
         "night",
         "if (device.air.due(now))",
         "if (now.milliseconds() >= 10'000)",
         {"air is asked again after ", ", where its rig file says every 5 s",
          "main.cpp is to ask it behind device.pass()"}},
        {"dew_heater",
         "night",
         "Wires::start<pins::Air>();",
         "*(volatile uint8_t*)0x2a |= 1 << 4, *(volatile uint8_t*)0x2a &= 0xef;",
         {"air's line is pulled low for 0.0 ms; it takes no notice of less than 1 ms",
          "Wires::start pulls it"}},
        {"rain_barrel",
         "shower",
         "device.pass(now, in);",
         "device.pass(now, in); Wires::idle(); *(volatile uint8_t*)0x2b |= 1 << 7;",
         {"lid is pinged again after ", "; a ranger needs 60 ms from one ping to the next",
          "main.cpp is to drive that pin"}},
        {"rain_barrel",
         "shower",
         "in.lid = Wires::read<pins::Lid>();",
         "*(volatile uint8_t*)0x2b |= 1 << 7, *(volatile uint8_t*)0x2b &= 0x7f;",
         {"lid is pinged for 0 us; a ranger takes no notice of less than 10 us"}},
    };
    std::string built;
    for (const auto& one : cases) {
        const desk::Folder folder;
        const std::string rig = fmt::format("{0}{1}/{1}.toml", examples, one.example);
        const std::string out = folder / "out";
        ASSERT_EQ(zorilla("firmware " + rig + " --out " + out).status, 0);
        const std::string rehearse = fmt::format("rehearse {} --trace {}{}/{}.csv --for '20 s' ",
                                                 rig, examples, one.example, one.trace);
        if (built != one.example) {
            const Outcome right = zorilla(rehearse + "--firmware " + out);
            EXPECT_EQ(right.status, 0) << right.out << right.err;
            // Every five seconds, and first after as long.
            EXPECT_EQ(has(right.out, "; 4 frames"), built.empty()) << right.out;
        }
        built = one.example;
        std::string main = desk::read_all(out + "/main.cpp");
        ASSERT_NE(main.find(one.asks), std::string::npos) << main;
        main.replace(main.find(one.asks), std::strlen(one.asks), one.wrongly);
        folder.write("out/main.cpp", main);
        const Outcome wrong = zorilla(rehearse + "--firmware " + out);
        EXPECT_EQ(wrong.status, 1) << wrong.err;
        for (const char* told : one.told)
            EXPECT_TRUE(has(wrong.out, told)) << told << wrong.out;
    }
}

TEST(Rehearsal, of_a_probe_without_power_shows_that_nothing_comes_from_it) {
    const desk::Folder folder;
    const std::string rig = folder.write("pot.toml", R"toml([sense.soil]
part = "moisture_probe"
pin = "ADC1"
power_pin = "PB2"
dry = 620
wet = 210
every = "2 s"
[drive.pump]
part = "relay"
pin = "PB1"
active = "high"
safe = "off"
claims = [ { when = "lost(soil)", then = "on" } ]
)toml");
    const std::string trace = folder.write("t.csv", "time (s),soil (code)\n0,560\n20,300\n");
    const std::string out = folder / "pot";
    ASSERT_EQ(zorilla("firmware " + rig + " --out " + out).status, 0);
    const std::string rehearse =
        "rehearse " + rig + " --trace " + trace + " --for '10 s' --firmware " + out;
    EXPECT_FALSE(has(zorilla(rehearse).out, "short circuit"));
    std::string main = desk::read_all(out + "/main.cpp");
    const size_t powers = main.find("Wires::write<pins::SoilPower>");
    ASSERT_NE(powers, std::string::npos) << main;
    folder.write("pot/main.cpp", main.erase(powers, main.find('\n', powers) - powers));
    const Outcome never = zorilla(rehearse);
    EXPECT_TRUE(has(never.out, "soil: short circuit in ")) << never.out;
}

TEST(Rehearsal, of_passes_that_are_shorter_than_an_echo_may_take_pings_no_sooner) {
    const desk::Folder folder;
    const std::string rig = examples + "rain_barrel/rain_barrel.toml", out = folder / "barrel";
    ASSERT_EQ(zorilla("firmware " + rig + " --pass '20 ms' --out " + out).status, 0);
    const Outcome is = zorilla("rehearse " + rig + " --trace " + examples +
                               "rain_barrel/shower.csv --for '6 s' --firmware " + out);
    EXPECT_EQ(is.status, 0) << is.out << is.err;
    EXPECT_TRUE(has(is.out, "  297, 0 of them late")) << is.out;
    EXPECT_TRUE(has(is.out, "; 100 echoes")) << is.out;
    EXPECT_FALSE(has(is.out, "missing")) << is.out;
}

TEST(Rehearsal, of_several_rangers_shows_that_they_take_turns) {
    const struct {
        const char* chip;
        std::vector<const char*> pins; // echo and ping of each, and the lamp's
        int echoes;                    // a round of three takes 200 ms, or 180: whole passes
    } chips[] = {{"atmega328p", {"PD2", "PD7", "PD4", "PB0", "PC3", "PC4", "PB5"}, 90},
                 {"rp2040", {"GPIO2", "GPIO3", "GPIO4", "GPIO5", "GPIO6", "GPIO7", "GPIO8"}, 100}};
    for (const auto& on : chips)
        // With passes of a second each is pinged in every one, 60 ms behind the one before.
        for (const auto& [pass, passes, echoes] :
             {std::tuple("20 ms", 291, on.echoes), std::tuple("1 s", 6, 16)}) {
            const desk::Folder folder;
            std::string text = fmt::format("[board]\nchip = \"{}\"\n", on.chip);
            for (size_t i = 0; i < 3; ++i)
                text += fmt::format("[sense.r{}]\npart = \"ranger\"\npin = \"{}\"\nping_pin = "
                                    "\"{}\"\nblind = \"20 mm\"\nfar = \"4 m\"\ntemperature = \"20 "
                                    "degC\"\nsupply = \"3.3 V\"\n",
                                    i, on.pins[2 * i], on.pins[2 * i + 1]);
            text += fmt::format("[decide.near]\nof = \"r2\"\nbelow = \"300 mm\"\nrelease = \"350 "
                                "mm\"\n[drive.lamp]\npart = \"led\"\npin = \"{}\"\nsafe = "
                                "\"off\"\nclaims = [ {{ when = \"near\", then = \"on\" }} ]\n",
                                on.pins[6]);
            const std::string rig = folder.write("three.toml", text), out = folder / "three";
            const std::string trace = folder.write(
                "t.csv", "time (s),r0 (us),r1 (us),r2 (us)\n0,2000,5000,9000\n60,2000,5000,9000\n");
            const Outcome made =
                zorilla(fmt::format("firmware {} --pass '{}' --out {}", rig, pass, out));
            ASSERT_EQ(made.status, 0) << made.err;
            const Outcome is = zorilla(
                fmt::format("rehearse {} --trace {} --for '6 s' --firmware {}", rig, trace, out));
            EXPECT_EQ(is.status, 0) << is.out << is.err;
            EXPECT_TRUE(has(is.out, fmt::format("  {}, 0 of them late", passes))) << is.out;
            EXPECT_TRUE(has(is.out, fmt::format("; {} echoes", echoes))) << is.out;
        }
}

} // namespace
