// SPDX-License-Identifier: MIT
// fan: its kick, ramp and standstill, and mistakes.
#include "tests/parts/output.hpp"
#include "tests/parts/promises.hpp"

#include <gtest/gtest.h>
#include <zorilla/zorilla.hpp>

#include <cmath>
#include <random>

namespace {

using namespace parts;

constexpr auto blower = fan()
                            .safe(100_percent)
                            .kick(60_percent, 500_ms)
                            .ramp(5.1_s)
                            .stall_after(3_s)
                            .rest_when_stalled(10_s)
                            .tries(3);
constexpr auto simple = fan().safe(0_percent).ramp(2.55_s);

TEST(Fan, is_kicked_from_standstill_and_then_goes_down_its_ramp) {
    Fan<blower> air;
    std::string causes;
    for (int ms = 0; ms <= 3000; ms += 100) {
        const auto driving = air.drive(Instant(static_cast<uint32_t>(ms) + 0xffffff00), Truth::yes,
                                       Truth::no, set_when(Truth::yes, Duty(20_percent)));
        causes += driving.cause == Cause::kick_start ? 'k'
                  : driving.cause == Cause::ramp     ? 'r'
                                                     : '.';
        // 5 of 255 in each 100 ms, from 153 to 51.
        EXPECT_NEAR(driving.value.of_255(), ms < 500 ? 153 : std::max(51, 153 - (ms - 400) / 20), 1)
            << ms;
    }
    EXPECT_EQ(causes, std::string(5, 'k') + std::string(20, 'r') + std::string(6, '.'));
    // Off is off at once.
    EXPECT_EQ(air.drive(Instant(3100), Truth::yes, Truth::no, set_when(Truth::no, Duty(20_percent)))
                  .value,
              Duty());
}

TEST(Fan, never_changes_faster_than_its_ramp_and_arrives) {
    std::mt19937 random(4);
    Fan<simple> air;
    Instant now(0xfff00000);
    Duty want;
    int before = 0;
    Duration settled{};
    for (int i = 0; i < 100'000; ++i) {
        const Duration gap = Duration::from_thousandths(static_cast<int32_t>(random() % 40));
        now = now + gap;
        if (random() % 300 == 0) {
            want = Duty::from_255ths(static_cast<uint8_t>(random() % 256));
            settled = Duration{};
        }
        settled = settled + gap;
        const auto driving = air.drive(now, set_when(Truth::yes, want));
        const int have = driving.value.of_255();
        // 255ths come every 10 ms, and one more may have been waiting.
        ASSERT_TRUE(want == Duty() || std::abs(have - before) <= gap.thousandths() / 10 + 1);
        ASSERT_TRUE(settled < 2.6_s || driving.value == want);
        before = have;
    }
}

TEST(Fan, one_that_stands_rests_is_tried_again_and_fails_until_the_reset) {
    Fan<blower> air;
    std::string told;
    // It turns for five seconds, and then never again.
    for (int s = 0; s < 70; ++s) {
        const auto driving = air.drive(Instant(static_cast<uint32_t>(s) * 1000), truth_of(s < 5),
                                       truth_of(s == 60), set_when(Truth::yes, Duty(100_percent)));
        told += driving.cause == Cause::stalled  ? 's'
                : driving.cause == Cause::failed ? 'F'
                : driving.value > Duty()         ? 'o'
                                                 : '?';
    }
    EXPECT_EQ(told, "ooooooo"    // driven; last seen turning at 4 s
                    "ssssssssss" // rests for ten seconds
                    "ooo"        // tried again
                    "ssssssssss"
                    "ooo"                         // and again
                    "FFFFFFFFFFFFFFFFFFFFFFFFFFF" // until the reset
                    "ooossssss"
                    "s");
}

/// The duty after each half second that a motor is asked for `wish`.
std::string duties(const FanSpec& spec, Duty wish, int count) {
    FanState motor;
    std::string out;
    for (int i = 0; i < count; ++i)
        out += std::to_string((motor.pass(spec, Instant(static_cast<uint32_t>(i) * 500),
                                          {wish, Cause::claim, 0}, Truth::yes, Truth::no)
                                       .value.of_255() *
                                   100 +
                               127) /
                              255) +
               " ";
    return out;
}

TEST(Motor, ramp_goes_on_from_the_kick) {
    const FanSpec ramped = fan().safe(0_percent).ramp(5_s);
    EXPECT_EQ(duties(ramped, 100_percent, 5), "0 10 20 30 40 ");
    EXPECT_EQ(duties(ramped.kick(60_percent, 1_s), 100_percent, 5), "60 60 70 80 90 ");
    EXPECT_EQ(duties(ramped.kick(20_percent, 1_s), 100_percent, 5), "20 20 30 40 50 ")
        << "where the kick is below the wish too";
    EXPECT_EQ(duties(ramped.kick(100_percent, 1_s), 80_percent, 5), "100 100 90 80 80 ");
    EXPECT_EQ(duties(fan().safe(0_percent).kick(20_percent, 1_s), 100_percent, 3), "100 100 100 ");
}

TEST(Motor, a_failure_is_reset_however_old_it_is_and_not_by_a_held_button) {
    const FanSpec spec = fan().safe(0_percent).stall_after(2_s).rest_when_stalled(5_s).tries(1);
    for (const int days : {1, 26, 40, 49, 60}) {
        FanState motor;
        uint32_t now = 1;
        const auto pass = [&](uint32_t later, Truth turns, Truth reset) {
            now += later;
            return motor.pass(spec, Instant(now), {100_percent, Cause::claim, 0}, turns, reset)
                .cause;
        };
        for (int i = 0; i < 4; ++i)
            pass(1000, Truth::no, Truth::no);
        for (int i = 0; i < 4 * days; ++i)
            ASSERT_EQ(pass(21'600'000, Truth::no, Truth::no), Cause::failed);
        EXPECT_EQ(pass(100, Truth::no, Truth::yes), Cause::claim) << days << " days";
        Cause last = Cause::claim;
        for (int i = 0; i < 5; ++i)
            last = pass(1000, Truth::no, Truth::yes);
        EXPECT_EQ(last, Cause::failed) << "the button is still held";
    }
}

TEST(Fan, mistakes_in_a_rig_file_are_told_with_what_to_write_instead) {
    expect_told(
        {{keys_of("fan") + "kick = \"50 %\"\n" + then("on"),
          "\"kick\" and \"kick_for\" belong together"},
         {keys_of("fan") + "turns = \"a\"\nstall_after = \"2 s\"\n" + then("on"),
          "but here a turning speed"},
         {keys_of("fan") + "turns = \"turns\"\n" + then("on"), "needs \"stall_after\""},
         {keys_of("fan") +
              "turns = \"turns\"\nstall_after = \"1 s\"\nkick = \"on\"\nkick_for = \"2 s\"\n" +
              then("on"),
          "above \"kick_for\""}});
}

const CppMistakes fan_mistakes{
    {"constexpr auto fan = zorilla::fan().safe(0_percent); constexpr int led = 1, at = 2;"
     "Fan<fan> f; static_assert(led + at == 3);",
     ""}};

} // namespace
