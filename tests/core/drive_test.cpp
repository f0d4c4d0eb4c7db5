// SPDX-License-Identifier: MIT
// Outputs with more than two values, sequences, motors, and a relay that warns.
#include <zorilla/zorilla.hpp>

#include <gtest/gtest.h>

#include <cmath>
#include <random>
#include <string>

namespace {

using namespace zorilla;

TEST(Even, is_the_formula_of_the_eye_to_half_a_255th) {
    int before = -1;
    for (int b = 0; b <= 255; ++b) {
        const double l = 100.0 * b / 255;
        const double y = l <= 8 ? l / 903.2963 : std::pow((l + 16) / 116, 3);
        const int duty = even(Duty::from_255ths(static_cast<uint8_t>(b))).of_255();
        ASSERT_NEAR(duty, 255 * y, 0.51) << b;
        ASSERT_GE(duty, before);
        before = duty;
    }
    static_assert(even(100_percent) == Duty(100_percent) && even(0_percent) == Duty());
}

constexpr auto status = output<Colour>()
                            .safe(colour(100_percent, 0_percent, 0_percent))
                            .rest(colour(0_percent, 10_percent, 0_percent));

TEST(Output, the_first_claim_that_is_yes_wins_and_an_unknown_before_it_is_safe) {
    const Colour blue = colour(0_percent, 0_percent, 100_percent),
                 white = colour(100_percent, 100_percent, 100_percent);
    for (const Truth a : {Truth::no, Truth::unknown, Truth::yes})
        for (const Truth b : {Truth::no, Truth::unknown, Truth::yes}) {
            Output<status> light;
            const auto driving = light.drive(set_when(a, blue), set_when(b, white));
            const Colour expected = a == Truth::yes       ? blue
                                    : a == Truth::unknown ? status.safe()
                                    : b == Truth::yes     ? white
                                    : b == Truth::unknown ? status.safe()
                                                          : status.rest();
            EXPECT_TRUE(driving.value == expected && light.value() == expected);
            EXPECT_EQ(driving.cause, expected == status.safe()   ? Cause::safe
                                     : expected == status.rest() ? Cause::rest
                                                                 : Cause::claim);
        }
    constexpr Reading<Duty> known = Reading<Duty>::of_bounded(Duty(40_percent));
    EXPECT_EQ(follow(known).when, Truth::yes);
    EXPECT_EQ(follow(Reading<Duty>()).when, Truth::unknown);
    EXPECT_EQ(follow_when(Truth::no, Reading<Duty>()).when, Truth::no);
}

constexpr auto beat = sequence(step(Duty(100_percent), 100_ms), step(Duty(), 50_ms),
                               step(Duty(50_percent), 100_ms), step(Duty(), 750_ms));

TEST(Sequence, keeps_in_step_however_late_a_pass_comes_and_begins_anew_each_time) {
    std::mt19937 random(2);
    Sequence<beat> flash;
    int64_t time = 0, begun = -1;
    Truth when = Truth::no;
    int late = 0;
    for (int i = 0; i < 50'000; ++i) {
        const auto gap = random() % 200 == 0 ? random() % 500'000 : random() % 60;
        late += gap > 1000;
        time += gap;
        if (random() % 40 == 0)
            when = random() % 5 == 0 ? Truth::unknown : truth_of(random() % 3 != 0);
        if (when != Truth::yes)
            begun = -1;
        else if (begun < 0)
            begun = time;
        const auto claim = flash.claim(Instant(static_cast<uint32_t>(time + 0xffff0000)), when);
        ASSERT_EQ(claim.when, when);
        if (when != Truth::yes)
            continue;
        const int64_t phase = (time - begun) % 1000;
        const Duty expected = phase < 100                   ? Duty(100_percent)
                              : phase >= 150 && phase < 250 ? Duty(50_percent)
                                                            : Duty();
        ASSERT_EQ(claim.then, expected) << phase;
    }
    EXPECT_GT(late, 100);
}

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

/// A take-over told as a text: a letter a second, with what is pressed; then whether it is taken.
TEST(Hand, takes_over_for_a_while_and_hands_back) {
    static constexpr auto ten = 10_s;
    const struct Case {
        bool has_back;
        const char* pressed; // x: take, b: back, B: both, ?: unknown, .: nothing
        const char* taken;
    } cases[] = {
        {false, "..xx.........", "..TTTTTTTTTT."},   // for ten seconds, however long it is held
        {false, ".x.x.x..x.....", ".TT..TTT......"}, // pressed again it hands back
        {false, ".?x?.?.??....", "..TTTTTTTTTT."},   // a button that cannot be read changes nothing
        {true, ".x....x...b...", ".TTTTTTTTT...."},
        {true, ".x....x........b", ".TTTTTTTTTTTTTT."}, // pressed again the time begins anew
        {true, ".xB.b.x.......", ".T....TTTTTTTT"},
        {false, "xx.x....", "...TTTTT"}, // held at power-up it was not pressed
    };
    for (const auto& c : cases) {
        Hand<ten> hand;
        std::string taken;
        Instant now(0xffff'f000);
        for (const char key : std::string(c.pressed)) {
            now = now + 1_s;
            const Truth take = key == '?' ? Truth::unknown : truth_of(key == 'x' || key == 'B');
            const Truth back = truth_of(key == 'b' || key == 'B');
            const auto claim =
                c.has_back ? hand.claim(now, take, back, on) : hand.claim(now, take, on);
            EXPECT_EQ(claim.then, on);
            EXPECT_EQ(claim.when, hand.is_taken());
            taken += hand.is_taken() == Truth::yes ? 'T' : '.';
        }
        EXPECT_EQ(taken, c.taken) << c.pressed;
    }
}

TEST(Shutdown, goes_in_order_comes_back_at_once_and_is_not_moved_by_an_unknown) {
    ShutdownState shutdown;
    Instant now(0xffff'fc00);
    std::string told;
    for (const char when : std::string(".?xxxxxxx??.x.")) {
        now = now + 1_s;
        shutdown.pass(2_s, 3, now, when == '?' ? Truth::unknown : truth_of(when == 'x'));
        int off_by_now = 0;
        for (uint8_t place = 0; place < 3; ++place)
            off_by_now += shutdown.claim(place, off).when == Truth::yes;
        told += static_cast<char>('0' + off_by_now);
    }
    EXPECT_EQ(told, "00112233333010");
}

TEST(SelfTest, takes_each_output_in_turn_and_ends) {
    SelfTestState test;
    Instant now(0xffff'fc00);
    std::string told;
    for (const char key : std::string("..x...x....x")) {
        now = now + 1_s;
        const bool runs = test.pass(2_s, 2, now, truth_of(key == 'x'));
        told += !runs ? '.' : test.of(0) == on ? 'a' : test.of(1) == on ? 'b' : '?';
    }
    EXPECT_EQ(told, "..aabb.....a") << "a press while it runs does nothing";
}

TEST(Bars_and_servos, show_what_they_are_told) {
    for (uint8_t stage = 0; stage <= 8; ++stage) {
        int lit = 0;
        for (uint8_t i = 0; i < 8; ++i)
            lit |= bar_led(Stage(stage), i) == on ? 1 << i : 0;
        EXPECT_EQ(bar_mask(Stage(stage)), lit);
        EXPECT_EQ(lit, (1 << stage) - 1);
    }
    for (int n = 0; n <= 255; ++n) {
        const Duty position = Duty::from_255ths(static_cast<uint8_t>(n));
        ASSERT_NEAR(servo_pulse(position), 1000 + 1000.0 * n / 255, 0.51);
        ASSERT_NEAR(servo_pulse(position, 2400, 600), 2400 - 1800.0 * n / 255, 0.51);
    }
}

} // namespace
