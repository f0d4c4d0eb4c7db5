// SPDX-License-Identifier: MIT
// The heat lamp's real firmware on the emulated board: its converter fed with voltages, its relay
// pin and its serial line watched. The relay is active low on PB0.
#include "tests/chips/atmega328p.hpp"
#include "tests/chips/passes.hpp"

#include <zorilla/board/stored.hpp>

#include <gtest/gtest.h>

namespace {

constexpr uint32_t cold_millivolts = 3846;   // about 1 degC
constexpr uint32_t warm_millivolts = 3305;   // about 11 degC
constexpr uint32_t broken_millivolts = 5000; // the pull-up alone

class Port : public testing::Test {
  protected:
    Port() : chip(chips::firmware("heat_lamp")) {}

    bool lamp_is_on() const { return chip.drives("PB0") && !chip.is_high("PB0"); }

    /// Runs until the lamp is as wanted; the time at which that was, or 0 if it never came.
    uint32_t milliseconds_until_lamp(bool is_on, uint32_t at_most) {
        const uint32_t end = chip.milliseconds() + at_most;
        while (chip.milliseconds() < end) {
            chip.step();
            if (lamp_is_on() == is_on)
                return chip.milliseconds();
        }
        return 0;
    }

    std::string last_line() const {
        const std::string& all = chip.serial();
        const size_t end = all.rfind('\n');
        const size_t begin = all.rfind('\n', end - 1);
        return all.substr(begin + 1, end - begin - 1);
    }

    chips::Atmega328p chip;
};

TEST_F(Port, relay_is_off_from_the_first_instruction_until_the_rest_time_is_over) {
    chip.set_millivolts(cold_millivolts);
    // Each single instruction is looked at; the pin is not even driven before it has its level.
    const uint32_t switched_on = milliseconds_until_lamp(true, 310'000);
    EXPECT_GE(switched_on, 300'000u);
    EXPECT_LE(switched_on, 300'200u);
}

TEST_F(Port, relay_pin_is_driven_high_soon_after_power_up) {
    chip.run_for(1);
    EXPECT_TRUE(chip.drives("PB0"));
    EXPECT_TRUE(chip.is_high("PB0"));
}

TEST_F(Port, lamp_goes_on_in_the_cold_stays_for_its_shortest_time_and_goes_off_in_the_warm) {
    chip.set_millivolts(cold_millivolts);
    const uint32_t switched_on = milliseconds_until_lamp(true, 310'000);
    ASSERT_NE(switched_on, 0u);
    chip.set_millivolts(warm_millivolts);
    const uint32_t switched_off = milliseconds_until_lamp(false, 200'000);
    EXPECT_GE(switched_off - switched_on, 119'900u);
    EXPECT_LE(switched_off - switched_on, 120'200u);
}

TEST_F(Port, a_broken_wire_switches_the_lamp_off_within_a_few_passes) {
    chip.set_millivolts(cold_millivolts);
    const uint32_t switched_on = milliseconds_until_lamp(true, 310'000);
    ASSERT_NE(switched_on, 0u);
    chip.run_for(1000);
    chip.set_millivolts(broken_millivolts);
    const uint32_t broke = chip.milliseconds();
    const uint32_t switched_off = milliseconds_until_lamp(false, 10'000);
    ASSERT_NE(switched_off, 0u);
    EXPECT_LE(switched_off - broke, 300u);
    chip.run_for(2000);
    EXPECT_NE(last_line().find("roost=open circuit lamp=off"), std::string::npos) << last_line();
}

TEST_F(Port, serial_line_reports_once_a_second_with_units) {
    chip.set_millivolts(cold_millivolts);
    chip.run_for(3900);
    EXPECT_EQ(chip.serial().substr(0, chip.serial().find('\n')),
              "t=3 ms roost=0.339 degC lamp=off");
    // 3,846 mV of 5,000 are code 786 in the emulator, for which the Beta model gives 0.41 degC.
    EXPECT_EQ(last_line().substr(0, 14), "t=3003 ms roos") << last_line();
    EXPECT_NE(last_line().find(" degC lamp=off"), std::string::npos) << last_line();
}

// --- A trim in the EEPROM, and a chip that loses its power

/// What tests/chips/trim_atmega328p.cpp tells.
struct Told {
    zorilla::StoredState state;
    int32_t at_power_up; ///< what it makes of 20 degC
    int32_t trimmed;
};
Told told(const chips::Atmega328p& chip) {
    const std::vector<uint8_t>& out = chip.collected();
    const auto number = [&out](size_t from) {
        uint32_t bits = 0;
        for (size_t i = 0; i < 4; ++i)
            bits |= uint32_t{out.at(from + i)} << (8 * i);
        return static_cast<int32_t>(bits);
    };
    return {static_cast<zorilla::StoredState>(out.at(0)), number(1), number(6)};
}

TEST(Eeprom, power_lost_at_any_byte_leaves_the_old_trim_or_the_new_one) {
    const std::string elf = chips::firmware("trim_atmega328p");
    // The old trim: it reads 0.5 degC in ice water and 25.5 degC where it is 25 degC.
    chips::Atmega328p first(elf);
    first.set_eeprom(std::vector<uint8_t>(1024, 0xff));
    first.feed({5, 255});
    first.run_to_end();
    EXPECT_EQ(told(first).state, zorilla::StoredState::empty);
    EXPECT_EQ(told(first).at_power_up, 20'000);
    EXPECT_EQ(told(first).trimmed, 19'500);
    EXPECT_EQ(first.collected().back(), 1) << "a byte for each pass, and passes in between";
    const std::vector<uint8_t> old = first.eeprom();

    // The new one: 1 degC and 25.5 degC. Each byte that it writes is the last in its turn.
    const int32_t renewed = 19'388;
    int found_old = 0, found_new = 0;
    for (int last = 1;; ++last) {
        chips::Atmega328p chip(elf);
        chip.set_eeprom(old);
        chip.feed({10, 255});
        int writes = 0;
        uint8_t address = 0;
        chip.on_mark = [&](uint8_t mark, uint64_t) {
            ++writes;
            address = mark;
        };
        while (writes < last && chip.step()) {
        }
        if (writes < last) {
            EXPECT_EQ(told(chip).at_power_up, 19'500);
            EXPECT_EQ(told(chip).trimmed, renewed);
            break;
        }
        for (const uint8_t remains : {uint8_t{0xff}, uint8_t{0}, chip.eeprom()[address]}) {
            std::vector<uint8_t> left = chip.eeprom();
            left[address] = remains;
            chips::Atmega328p again(elf);
            again.set_eeprom(left);
            again.feed({5, 255});
            again.run_to_end();
            EXPECT_EQ(told(again).state, zorilla::StoredState::found);
            (told(again).at_power_up == renewed ? found_new : found_old) += 1;
            EXPECT_TRUE(told(again).at_power_up == renewed || told(again).at_power_up == 19'500)
                << told(again).at_power_up;
        }
    }
    EXPECT_GT(found_old, 20);
    chips::Atmega328p after(elf);
    after.set_eeprom(old);
    after.feed({10, 255});
    after.run_to_end();
    chips::Atmega328p next(elf);
    next.set_eeprom(after.eeprom());
    next.run_to_end();
    EXPECT_EQ(told(next).at_power_up, renewed);
}

} // namespace
