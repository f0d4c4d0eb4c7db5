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
        ASSERT_NEAR(duty, 255 * y, 0.5) << b;
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

} // namespace
