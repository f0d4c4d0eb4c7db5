// SPDX-License-Identifier: MIT
// What a held button, a reset, a kick and a warning do to whatever acts by time.
#include <zorilla/zorilla.hpp>

#include <gtest/gtest.h>

#include <string>

namespace {

using namespace zorilla;

constexpr auto unjam = act_for(2_s).rest_for(3_s).tries(2);

/// A letter for each second: a acting, r resting, l locked, . idle.
template <class Reset> std::string acts(int seconds, Reset reset) {
    AttemptsState state;
    std::string out;
    for (int i = 0; i < seconds; ++i)
        out += ".arl"[static_cast<int>(
            state.pass(unjam, Instant(static_cast<uint32_t>(i) * 1000), Truth::yes, reset(i)))];
    return out;
}

TEST(TimedAction, reset_counts_when_it_becomes_yes_and_not_while_it_is_held) {
    const std::string undisturbed = "aarrraarrrllll";
    EXPECT_EQ(acts(14, [](int) { return Truth::no; }), undisturbed);
    EXPECT_EQ(acts(14, [](int) { return Truth::yes; }), undisturbed) << "held from power-up on";
    EXPECT_EQ(acts(14, [](int i) { return truth_of(i > 0); }), "aaarrraarrrlll")
        << "pressed after a second, and held";
    EXPECT_EQ(acts(14, [](int i) { return truth_of(i == 11); }), "aarrraarrrlaar");
}

TEST(Edge, a_button_that_is_held_at_power_up_was_not_pressed) {
    for (const Truth before : {Truth::yes, Truth::unknown}) {
        Edge edge;
        EXPECT_NE(edge.pass(before), Truth::yes);
        EXPECT_EQ(edge.pass(Truth::yes), Truth::no);
        EXPECT_EQ(edge.pass(Truth::no), Truth::no);
        EXPECT_EQ(edge.pass(Truth::yes), Truth::yes);
    }
    SelfTestState test;
    EXPECT_FALSE(test.pass(2_s, 2, Instant(0), Truth::yes));
    EXPECT_FALSE(test.pass(2_s, 2, Instant(10), Truth::no));
    EXPECT_TRUE(test.pass(2_s, 2, Instant(20), Truth::yes));
    EXPECT_FALSE(test.pass(2_s, 2, Instant(4020), Truth::yes)) << "held, it is not begun again";
    CounterState counter;
    counter.pass(2, Truth::no, Truth::no);
    for (const Truth truth : {Truth::yes, Truth::no, Truth::yes})
        counter.pass(2, truth, Truth::yes);
    EXPECT_EQ(counter.count(), 1)
        << "the first came with the reset; a held reset does not count on";
}

TEST(Hand, goes_through_both_senses_and_hands_back) {
    static constexpr auto ten = 10_s;
    Hand<ten> hand;
    std::string told;
    uint32_t now = 0;
    for (const char key : std::string(".x.x.x..x...........")) {
        const auto claim = hand.in_turn(Instant(now += 1000), truth_of(key == 'x'), on, off);
        told += claim.when != Truth::yes ? '.' : claim.then == on ? '1' : '0';
    }
    EXPECT_EQ(told, ".1100...1111111111..");
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

} // namespace
