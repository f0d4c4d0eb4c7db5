// SPDX-License-Identifier: MIT
// relay: what it warns of and may not do; and mistakes.
#include "tests/parts/feeder.hpp"
#include "tests/parts/promises.hpp"

#include <gtest/gtest.h>
#include <zorilla/zorilla.hpp>

#include <cmath>
#include <random>

namespace {

using namespace parts;

constexpr auto gate = relay(active_high).safe(off).warn(3_s).min_off(2_s);

TEST(Relay, warns_before_it_switches_on_and_takes_it_back_if_nobody_wants_it) {
    Relay<gate> motor;
    std::string told;
    for (const char c : std::string("....xxxxxxxx..xx..xxxxx?.xxxxxx")) {
        static uint32_t now = 0xffffd000;
        now += 1000;
        const auto switching =
            motor.drive(Instant(now), on_when(c == '?' ? Truth::unknown : truth_of(c == 'x')));
        EXPECT_EQ(switching.cause == Cause::warning, motor.is_warning() == Truth::yes);
        told += motor.is_warning() == Truth::yes ? 'w' : motor.value() == on ? 'O' : '.';
    }
    EXPECT_EQ(told, "....wwwOOOOO..ww..wwwOO..wwwOOO");
}

constexpr auto lifting = relay(active_high).safe(off).min_on(1_s);

TEST(Relay, interlocked_ones_are_never_on_together) {
    std::mt19937 random(8);
    Relay<lifting> up, down;
    Instant now(0xffff0000);
    int ups = 0, downs = 0, held = 0;
    for (int i = 0; i < 100'000; ++i) {
        now = now + Duration::from_thousandths(static_cast<int32_t>(random() % 900));
        const auto truth = [&] {
            return random() % 20 == 0 ? Truth::unknown : truth_of(random() % 2 == 0);
        };
        const auto a = up.drive_unless(truth_of(down.value() == on), now, on_when(truth()));
        const auto b = down.drive_unless(truth_of(up.value() == on), now, on_when(truth()));
        ASSERT_FALSE(up.value() == on && down.value() == on);
        ups += up.value() == on;
        downs += down.value() == on;
        held += a.cause == Cause::interlock || b.cause == Cause::interlock;
    }
    EXPECT_GT(std::min({ups, downs, held}), 1000);
}

constexpr auto told_of =
    relay(active_high).safe(off).min_off(2_s).longest_on(9_s).warn(2_s).warn_off(3_s);

TEST(Relay, warns_before_it_switches_off_too_but_not_where_it_must_be_off) {
    // A letter a second: w warns before on, W before off, 1 on, . off.
    const auto life = [](const std::string& wishes) {
        Relay<told_of> relay;
        std::string out;
        uint32_t now = 0;
        for (const char wish : wishes) {
            relay.drive(Instant(now += 1000),
                        on_when(wish == '?' ? Truth::unknown : truth_of(wish == '1')));
            out += relay.is_warning_off() == Truth::yes ? 'W'
                   : relay.is_warning() == Truth::yes   ? 'w'
                   : relay.value() == on                ? '1'
                                                        : '.';
        }
        return out;
    };
    EXPECT_EQ(life("..1111......"), "..ww11WWW...");
    EXPECT_EQ(life("..1111.11111"), "..ww11W111WW") << "a wish for on ends the warning";
    EXPECT_EQ(life("..1111?....."), "..ww11......") << "a broken sensor does not wait";
    EXPECT_EQ(life("..11111111111111111111"), "..ww111111WWW..ww11111")
        << "before the longest time is over it warns in time";
}

TEST(Relay, mistakes_in_a_rig_file_are_told_with_what_to_write_instead) {
    expect_told_of_feeder({{with("never_with = \"second_fan\"", "never_with = \"motor\""),
                            "cannot be kept off by itself"},
                           {with("never_with = \"second_fan\"", "never_with = \"secnd_fan\""),
                            "did you mean \"second_fan\"?"},
                           {with("warns(motor)", "warns(moto)"), "did you mean \"motor\"?"},
                           {with("warn = \"1 s\"", "warn = \"-2 s\""), "times must lie between"}});
}

const CppMistakes relay_mistakes{
    {"constexpr auto r = relay(active_low).safe(off); Relay<r> t;", ""},
    {"constexpr auto r = relay(active_low); Relay<r> t;",
     "say what this relay does when a sensor fails"},
    {"constexpr auto r = relay(active_low).safe(off).longest_on(1_h); Relay<r> t;",
     "needs a min_off to rest for"},
    {"constexpr auto r = relay(active_low).safe(off).min_on(-1_s); Relay<r> t;",
     "times must lie between 0 and 24 days"}};

} // namespace
