// SPDX-License-Identifier: MIT
// led: fades no faster than it may, and mistakes.
#include "tests/parts/output.hpp"
#include "tests/parts/promises.hpp"

#include <gtest/gtest.h>
#include <zorilla/zorilla.hpp>

#include <cmath>
#include <random>

namespace {

using namespace parts;

constexpr auto dusk_lamp = led(active_low).safe(20_percent).fade(2_s);

TEST(Led, fades_no_faster_than_it_may_and_arrives_in_time) {
    std::mt19937 random(3);
    Led<dusk_lamp> lamp;
    Instant now(0xffff'fff0);
    int before = 0, ways = 0;
    for (int i = 0; i < 300; ++i) {
        const Duty wanted = Duty::from_255ths(static_cast<uint8_t>(random()));
        int32_t spent = 0;
        while (spent < 2000) {
            const auto step = static_cast<int32_t>(1 + random() % 300);
            spent += step;
            now = now + Duration::from_thousandths(step);
            const auto driven = lamp.drive(now, set_when(Truth::yes, wanted));
            const int value = lamp.value().of_255(), moved = std::abs(value - before);
            ASSERT_LE(moved * 2000, (step + 8) * 255) << "a 255th takes 7.8 ms";
            ASSERT_EQ(driven.cause, value == wanted.of_255() ? Cause::claim : Cause::ramp);
            ASSERT_EQ(lamp.high_for().of_255(), 255 - even(lamp.value()).of_255());
            ways += moved > 0;
            before = value;
        }
        ASSERT_EQ(lamp.value(), wanted);
    }
    EXPECT_GT(ways, 1000);
    lamp.drive(now, set_when(Truth::unknown, Duty()));
    lamp.drive(now + 2_s, set_when(Truth::unknown, Duty()));
    EXPECT_EQ(lamp.value(), Duty(20_percent));
}

TEST(Led, mistakes_in_a_rig_file_are_told_with_what_to_write_instead) {
    expect_told(
        {{keys_of("led") + then("120 %"), "between 0 % and 100 %"},
         {keys_of("led") + then("blnk"), "did you mean \"blink\"?"},
         {keys_of("led") + then("high"), "high is yes or no; it belongs in \"when\""},
         {keys_of("led") + then("stages"), "stages is a ladder, which a led cannot follow"},
         {keys_of("led") + "claims = [ { then = \"40 %\" } ]\n", "needs \"when\""},
         {keys_of("led") + "claims = [ { then = \"much\" }, { when = \"high\", then = \"on\" } ]\n",
          "put it last"},
         {keys_of("led") + then("off"), "it can never be anything but off"},
         {keys_of("led") + "fade = \"30 min\"\n" + then("on"), "between 0 and 25 min"},
         {keys_of("led") + "min_on = \"1 s\"\n" + then("on"), "unknown key \"min_on\""},
         {keys_of("led") + "by_hand = { when = \"key\", then = \"on\" }\n" + then("on"),
          "needs \"longest\""},
         {keys_of("led") + "claims = [ { when = \"by_hand(user)\", then = \"on\" } ]\n",
          "has no \"by_hand\", who may take it over"},
         {keys_of("led") + "claims = [ { when = \"stalled(it)\", then = \"on\" } ]\n",
          "has no \"turns\""},
         {keys_of("led") + "claims = [ { when = \"much\", then = \"on\" } ]\n",
          "much is a curve"}});
}

const CppMistakes led_mistakes{
    {"constexpr auto l = led(active_high).safe(0_percent).fade(3_s); Led<l> t;", ""},
    {"constexpr auto l = led(active_high).fade(3_s); Led<l> t;", "when a sensor fails"},
    {"constexpr auto l = led(active_high).safe(0_percent).fade(1_h); Led<l> t;", "0 to 25 min"},
    {"constexpr auto l = led(active_high).safe(0_percent);"
     "void f(Led<l>& t, Truth x) { t.drive(Instant(1), set_when(x, 100_percent)); }",
     ""}};

} // namespace
