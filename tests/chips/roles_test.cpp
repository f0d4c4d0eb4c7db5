// SPDX-License-Identifier: MIT
// What the board's roles make of volts, pulses and edges on the emulated chip's pins, and what its
// pins do, with all of them at work at once.
#include "tests/chips/atmega328p.hpp"
#include "tests/chips/passes.hpp"

#include <zorilla/board/roles.hpp>
#include <zorilla/zorilla.hpp>

#include <gtest/gtest.h>

#include <cmath>
#include <cstdlib>
#include <deque>
#include <random>

namespace {

using namespace zorilla;

constexpr uint64_t us = 16; // cycles

/// What one pass has read, in the order of roles_atmega328p.cpp.
struct Inputs {
    uint16_t codes[3];
    bool button;
    int echo; ///< 0 none, 1 heard, 2 not taken
    uint16_t width;
    int frame; ///< 0 silent, 1 bits, 2 garbled, 3 not tried
    Frame bits;
    uint16_t edges, period;
    int lost;
    ResetCause cause;
};
/// What one pass is to write.
struct Outputs {
    bool lamp = false;
    uint8_t duty = 0, stage = 0;
    uint16_t hertz = 0;
};

class Roles : public testing::Test {
  protected:
    explicit Roles(const char* name = "roles_atmega328p") : chip(chips::firmware(name)) {
        chip.put("PD2", true); // its pull-up
        chip.put("PC5", true);
        chip.put("PB4", false);
    }

    /// Runs one pass more, with what it is to write.
    Inputs pass(const Outputs& out = {}) {
        chip.feed({static_cast<uint8_t>(out.lamp), out.duty, out.stage,
                   static_cast<uint8_t>(out.hertz), static_cast<uint8_t>(out.hertz >> 8)});
        const size_t from = chip.collected().size(), wanted = from + 21;
        while (chip.collected().size() < wanted)
            step();
        for (int i = 0; i < 3000; ++i) // to the end of what it writes
            step();
        size_t at = from;
        const auto byte = [&] { return chip.collected().at(at++); };
        const auto word = [&] {
            const uint16_t low = byte();
            return static_cast<uint16_t>(low | byte() << 8);
        };
        Inputs in{};
        for (uint16_t& code : in.codes)
            code = word();
        in.button = byte() == 1;
        in.echo = byte();
        in.width = word();
        in.frame = byte();
        for (uint8_t& b : in.bits.bytes)
            b = byte();
        in.edges = word();
        in.period = word();
        in.lost = byte();
        in.cause = static_cast<ResetCause>(byte());
        return in;
    }

    void step() {
        chip.step();
        if (on_step)
            on_step();
    }
    /// Answers each ping, once it is over, with an echo of so many cycles; 0: none.
    void answer_pings(std::function<uint64_t()> width) {
        chip.watch("PB0", [this, width](bool high) {
            const uint64_t cycles = high ? 0 : width();
            if (cycles == 0)
                return;
            chip.in_cycles(500 * us, [this] { chip.put("PB4", true); });
            chip.in_cycles(500 * us + cycles, [this] { chip.put("PB4", false); });
        });
    }
    /// Answers each start pulse with a frame, once the line is let go.
    void answer_frames(std::function<void(std::vector<uint64_t>& pulses)> spoil = nullptr) {
        asked = chip.drives("PD2");
        on_step = [this, spoil] {
            const bool drives = chip.drives("PD2");
            if (asked && !drives) {
                std::vector<uint64_t> pulses = {30, 80, 80}; // first high, then low, high, low...
                for (const uint8_t b : frame.bytes)
                    for (int i = 7; i >= 0; --i) {
                        pulses.push_back(50);
                        pulses.push_back((b >> i & 1) != 0 ? 70 : 26);
                    }
                pulses.push_back(50);
                if (spoil)
                    spoil(pulses);
                uint64_t at = 0;
                bool high = true;
                for (const uint64_t pulse : pulses) {
                    at += pulse * us;
                    high = !high;
                    chip.in_cycles(at, [this, high] { chip.put("PD2", high); });
                }
            }
            asked = drives;
        };
    }

    chips::Atmega328p chip;
    std::function<void()> on_step;
    bool asked = false;
    Frame frame{{0x02, 0x8c, 0x01, 0x15, 0xa4}}; // 65.2 %RH, 27.7 degC
};
class RolesWithServo : public Roles {
  protected:
    RolesWithServo() : Roles("roles_servo_atmega328p") {}
};

TEST_F(Roles, converter_gives_each_channel_its_own_code) {
    std::mt19937 random(3);
    pass();
    for (int i = 0; i < 40; ++i) {
        const uint8_t channels[] = {0, 1, 7};
        uint32_t millivolts[3];
        for (int k = 0; k < 3; ++k)
            chip.set_millivolts(millivolts[k] = static_cast<uint32_t>(random() % 5000),
                                channels[k]);
        pass();
        const Inputs in = pass();
        for (int k = 0; k < 3; ++k)
            ASSERT_NEAR(in.codes[k], millivolts[k] * 1023.0 / 5000, 1) << i << " " << k;
    }
}

TEST_F(Roles, level_is_that_of_its_pin) {
    for (const bool high : {true, false, true}) {
        chip.put("PD7", high);
        EXPECT_EQ(pass().button, high);
    }
}

TEST_F(Roles, echo_is_as_long_as_its_pulse_while_frames_tones_and_pulses_go_on) {
    std::mt19937 random(5);
    std::deque<uint64_t> sent;
    answer_pings([&] {
        sent.push_back((150 + random() % 24'000) * us + random() % 16);
        return sent.back();
    });
    answer_frames();
    // A vane turns all the while, and characters come.
    std::function<void()> turns = [&] {
        chip.put("PC5", false);
        chip.in_cycles(300 * us, [&] { chip.put("PC5", true); });
        chip.in_cycles(1900 * us, turns);
    };
    turns();
    std::function<void()> talks = [&] {
        chip.receive("hello\n"[random() % 6]);
        chip.in_cycles(1777 * us, talks);
    };
    talks();
    double worst = 0;
    int heard = 0, frames = 0;
    const int passes = std::getenv("ZORILLA_DEEP") != nullptr ? 10'010 : 300;
    for (int i = 0; i < passes; ++i) {
        const Inputs in = pass({false, static_cast<uint8_t>(i), 0, 880});
        frames += in.frame == 1;
        ASSERT_NE(in.frame, 2) << "a frame was garbled";
        if (in.echo != 1)
            continue;
        ASSERT_FALSE(sent.empty());
        worst = std::max(worst, std::fabs(in.width - static_cast<double>(sent.front()) / us));
        sent.pop_front();
        ++heard;
    }
    EXPECT_GT(heard, passes - 5);
    EXPECT_GT(frames, passes / 30);
    EXPECT_LE(worst, 4) << "us";
    RecordProperty("worst_us", std::to_string(worst));
}

TEST_F(Roles, no_echo_is_told_whether_its_pin_stays_low_or_high) {
    for (int i = 0; i < 3; ++i)
        pass();
    EXPECT_EQ(pass().echo, 0) << "nothing answers";
    answer_pings([] { return 1000 * us; });
    pass();
    EXPECT_EQ(pass().echo, 1);
    answer_pings([] { return uint64_t{200'000} * us; });
    pass();
    pass();
    EXPECT_EQ(pass().echo, 0) << "it never falls";
    answer_pings([] { return 2000 * us; });
    for (int i = 0; i < 4; ++i)
        pass();
    const Inputs in = pass();
    EXPECT_EQ(in.echo, 1);
    EXPECT_NEAR(in.width, 2000, 4);
}

TEST_F(Roles, frame_comes_whole_or_is_told_to_be_garbled_or_silent) {
    std::mt19937 random(7);
    int what = 0;
    answer_frames([&](std::vector<uint64_t>& pulses) {
        if (what == 1) // one pulse in a hundred is off
            for (uint64_t& pulse : pulses)
                pulse = random() % 100 == 0 ? 45 : pulse;
        if (what == 2)
            pulses.clear();
    });
    int counts[3][4] = {};
    for (what = 0; what < 3; ++what)
        for (int i = 0; i < 200; ++i) {
            const Inputs in = pass();
            ++counts[what][in.frame];
            if (in.frame == 1) {
                for (int k = 0; k < 5; ++k)
                    ASSERT_EQ(in.bits.bytes[k], frame.bytes[k]);
            }
        }
    EXPECT_GE(counts[0][1], 7);
    EXPECT_EQ(counts[0][0] + counts[0][2], 0);
    EXPECT_GT(counts[1][2], 2);
    EXPECT_EQ(counts[1][0], 0);
    EXPECT_GE(counts[2][0], 7);
    EXPECT_EQ(counts[2][1] + counts[2][2], 0);
}

TEST_F(Roles, pulses_are_counted_without_their_glitches) {
    uint16_t before = pass().edges;
    // 2,345 us apart, each with a bounce of 100 us.
    std::function<void()> turns = [&] {
        chip.put("PC5", false);
        chip.in_cycles(50 * us, [&] { chip.put("PC5", true); });
        chip.in_cycles(100 * us, [&] { chip.put("PC5", false); });
        chip.in_cycles(900 * us, [&] { chip.put("PC5", true); });
        chip.in_cycles(2345 * us, turns);
    };
    turns();
    before = pass().edges;
    int counted = 0;
    for (int i = 0; i < 50; ++i) {
        const Inputs in = pass();
        EXPECT_NEAR(in.period, 2345, 8);
        counted += static_cast<uint16_t>(in.edges - before);
        before = in.edges;
    }
    EXPECT_NEAR(counted, 5'000'000 / 2345.0, 1.5);
}

TEST_F(Roles, outputs_are_off_from_reset_on_and_then_as_they_are_told) {
    // Of each pin the level at which its part is off; each single instruction is looked at.
    const std::vector<std::pair<const char*, bool>> offs = {
        {"PC2", true},  {"PD6", true},  {"PD3", false}, {"PB1", false},
        {"PC3", false}, {"PC4", false}, {"PB5", false}, {"PB2", false},
        {"PB3", false}, {"PD5", false}, {"PB0", false}};
    for (int i = 0; i < 3000; ++i) {
        for (const auto& [pin, off] : offs)
            ASSERT_TRUE(!chip.drives(pin) || chip.is_high(pin) == off || std::string(pin) == "PB0")
                << pin << " after " << i << " steps";
        chip.step();
    }
    for (const auto& [pin, off] : offs)
        EXPECT_TRUE(chip.drives(pin)) << pin;
    for (int i = 0; i < 12; ++i) {
        Outputs out;
        out.lamp = i % 2 == 1;
        out.stage = static_cast<uint8_t>(i % 4);
        pass(out);
        EXPECT_EQ(chip.is_high("PC2"), !out.lamp) << "active low";
        const char* const row[] = {"PC3", "PC4", "PB5"};
        for (int k = 0; k < 3; ++k)
            EXPECT_EQ(chip.is_high(row[k]), k < out.stage);
    }
}

/// The share of its time that a pin is high, by the registers of its timer: compare value, whether
/// the timer drives it, and its level where it does not.
double share(const chips::Atmega328p& chip, uint16_t control, int shift, uint16_t compare,
             const char* pin) {
    if ((chip.memory(control) >> shift & 3) == 2)
        return (chip.memory(compare) + 1) / 256.0;
    return chip.is_high(pin) ? 1 : 0;
}

TEST_F(Roles, duty_is_exact_in_the_timers_registers) {
    constexpr uint16_t tccr0a = 0x44, ocr0a = 0x47, ocr0b = 0x48, tccr2a = 0xb0, ocr2b = 0xb4;
    for (int duty = 0; duty <= 255; ++duty) {
        pass({false, static_cast<uint8_t>(duty), 0, 0});
        ASSERT_NEAR(share(chip, tccr2a, 4, ocr2b, "PD3"), duty / 255.0, 1 / 510.0) << duty;
        ASSERT_NEAR(share(chip, tccr0a, 6, ocr0a, "PD6"), 1 - duty / 255.0, 1 / 510.0) << duty;
        ASSERT_NEAR(share(chip, tccr0a, 4, ocr0b, "PD5"), duty / 255.0, 1 / 510.0) << duty;
        ASSERT_EQ(chip.is_high("PB2"), duty > 0) << "a colour that can be on or off";
    }
}

TEST_F(Roles, tone_is_within_half_a_percent_and_changes_at_once) {
    uint64_t sum = 0, last = 0, shortest = 0, longest = 0, halves = 0;
    chip.watch("PB1", [&](bool) {
        const uint64_t now = chip.cycles();
        if (last != 0) {
            shortest = std::min(shortest, now - last);
            longest = std::max(longest, now - last);
            sum += now - last, ++halves;
        }
        last = now;
    });
    for (const int hertz : {31, 440, 20'000, 199, 200, 201, 880, 3333, 12'345, 61}) {
        pass({false, 0, 0, static_cast<uint16_t>(hertz)});
        last = sum = 0, shortest = ~uint64_t{0}, longest = 0, halves = 0;
        pass({false, 0, 0, static_cast<uint16_t>(hertz)});
        pass({false, 0, 0, static_cast<uint16_t>(hertz)});
        const double half = 8e6 / hertz;
        // An edge is told behind its instruction, of up to 5 cycles.
        EXPECT_NEAR(static_cast<double>(shortest), half, std::max(half * 0.005, 5.0));
        EXPECT_NEAR(static_cast<double>(longest), half, std::max(half * 0.005, 5.0));
        EXPECT_NEAR(static_cast<double>(sum) / static_cast<double>(halves), half, half * 0.005);
        EXPECT_GT(static_cast<double>(halves), 0.19 * 2 * hertz - 3);
    }
    pass();
    halves = 0;
    pass();
    EXPECT_TRUE(halves == 0u && !chip.is_high("PB1")) << "silence";
}

TEST_F(RolesWithServo, pulses_go_with_the_position_every_20_ms) {
    constexpr uint16_t ocr1al = 0x88, icr1l = 0x86, tccr1a = 0x80, tccr1b = 0x81;
    const auto word = [&](uint16_t at) { return chip.memory(at) | chip.memory(at + 1) << 8; };
    for (const int position : {0, 1, 128, 255}) {
        pass({false, 0, 0, static_cast<uint16_t>(position)});
        EXPECT_EQ(chip.memory(tccr1a), 0x82) << "fast PWM up to ICR1 on OC1A";
        EXPECT_EQ(chip.memory(tccr1b), 0x1a) << "an eighth of the clock";
        EXPECT_EQ(word(icr1l), 39'999);
        EXPECT_NEAR((word(ocr1al) + 1) / 2.0, 1000 + position * 1000 / 255.0, 0.6);
    }
}

TEST_F(Roles, a_pass_that_hangs_resets_the_chip_with_its_outputs_off) {
    pass({true, 200, 3, 440});
    ASSERT_FALSE(chip.is_high("PC2"));
    ASSERT_EQ(pass({true, 200, 3, 0xdead}).cause, ResetCause::power);
    const uint64_t hung = chip.cycles();
    uint64_t off = 0;
    while (off == 0 && chip.cycles() < hung + 16'000 * 400) {
        chip.step();
        if (!chip.drives("PC2") || chip.is_high("PC2"))
            off = chip.cycles();
    }
    EXPECT_LE(off - hung, 300u * 16'000) << "within 0.3 s";
    for (int i = 0; i < 3000; ++i) {
        ASSERT_TRUE(!chip.drives("PC2") || chip.is_high("PC2"));
        ASSERT_TRUE(!chip.drives("PB5") || !chip.is_high("PB5"));
        chip.step();
    }
    EXPECT_EQ(pass().cause, ResetCause::watchdog);
    for (int i = 0; i < 10; ++i)
        EXPECT_EQ(pass().cause, ResetCause::watchdog) << "it goes on";
}

TEST_F(Roles, lines_come_in_whole_and_garbage_at_full_speed_disturbs_nothing) {
    const auto say = [&](const std::string& text) {
        for (size_t i = 0; i < text.size(); ++i)
            chip.in_cycles((i + 1) * 260 * us, [this, c = text[i]] { chip.receive(c); });
    };
    pass();
    say("points?\r\n");
    pass();
    pass();
    EXPECT_EQ(chip.serial(), "points?\n");
    std::mt19937 random(9);
    std::string garbage;
    for (int i = 0; i < 700; ++i)
        garbage += static_cast<char>(random() % 255);
    chip.set_millivolts(2500, 1);
    say(garbage + "\n");
    for (int i = 0; i < 12; ++i)
        EXPECT_NEAR(pass().codes[1], 512, 1);
    EXPECT_GT(pass().lost, 100);
    const size_t before = chip.serial().size();
    say(std::string(64, 'x') + "\n");
    pass();
    pass();
    EXPECT_EQ(chip.serial().substr(before), std::string(64, 'x') + "\n");
}

} // namespace
