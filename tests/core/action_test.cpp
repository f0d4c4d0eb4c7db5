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

} // namespace
