// SPDX-License-Identifier: MIT
// attempts: acts, rests, looks again and locks; and mistakes.
#include "tests/parts/feeder.hpp"
#include "tests/parts/promises.hpp"

#include <gtest/gtest.h>
#include <zorilla/zorilla.hpp>

#include <cmath>
#include <random>

namespace {

using namespace parts;

constexpr auto unjam = act_for(2_s).rest_for(5_s).tries(3);
constexpr auto mist = act_for(10_s).rest_for(20_s).longest_total(25_s);

/// What a timed action does second by second, as letters.
template <const auto& Spec> std::string played(const std::string& causes) {
    Attempts<Spec> action;
    std::string out;
    uint32_t now = 0xffffe000; // the clock wraps on the way
    for (const char c : causes) {
        const Truth cause = c == '?' ? Truth::unknown : truth_of(c == 'x');
        action.pass(Instant(now), cause, truth_of(c == 'r'));
        out += action.is_locked() == Truth::yes  ? 'L'
               : action.acts() == Truth::unknown ? '?'
               : action.acts() == Truth::yes     ? 'A'
                                                 : '.';
        now += 1000;
    }
    return out;
}

TEST(Attempts, act_rest_look_again_and_lock) {
    EXPECT_EQ(played<unjam>("..x........x.xxxxxxx.."), "..AA.......AA.....AA..");
    // The cause persists: three actions, then locked until the reset.
    EXPECT_EQ(played<unjam>("xxxxxxxxxxxxxxxxxxxxxxxxx..rxx."), "AA.....AA.....AA.....LLLLLL.AA.");
    // It goes away while resting: counting begins anew.
    EXPECT_EQ(played<unjam>("xxxx....xxxxxxxxxxxxxxxxxxxxxxx"), "AA......AA.....AA.....AA.....LL");
    // An unknown ends an action and neither starts one nor locks.
    EXPECT_EQ(played<unjam>("??x?xxxxxxx"), "??A?....AA.") << "a rest, then another look";
    EXPECT_EQ(played<unjam>("xxxxxxxxxxxxxxxxx?????xx"), "AA.....AA.....AA.?????LL");
    // The longest total: twice ten seconds, and no third.
    EXPECT_EQ(played<mist>(std::string(62, 'x')), std::string(10, 'A') + std::string(20, '.') +
                                                      std::string(10, 'A') + std::string(20, '.') +
                                                      "LL");
}

TEST(Attempts, never_act_longer_or_more_often_than_they_may) {
    std::mt19937 random(9);
    AttemptsState state;
    constexpr auto spec = unjam;
    Instant now(0xfffff000);
    Instant begun{};
    int actions = 0;
    auto before = Attempting::idle;
    for (int i = 0; i < 100'000; ++i) {
        now = now + Duration::from_thousandths(static_cast<int32_t>(random() % 400));
        const Truth cause = random() % 30 == 0 ? Truth::unknown : truth_of(random() % 4 != 0);
        const bool reset = random() % 500 == 0;
        const auto doing = state.pass(spec, now, cause, truth_of(reset));
        if (reset) {
            actions = 0;
            before = Attempting::idle;
        }
        if (doing == Attempting::acting && before != Attempting::acting) {
            begun = now;
            ASSERT_LE(++actions, 3);
        }
        ASSERT_TRUE(doing != Attempting::acting || now - begun < 2_s + 400_ms);
        if (doing == Attempting::idle)
            actions = 0;
        before = doing;
    }
}

TEST(Attempts, mistakes_in_a_rig_file_are_told_with_what_to_write_instead) {
    expect_told_of_feeder(
        {{with("rest_for = \"5 s\"", ""), "needs \"rest_for\""},
         {with("tries = 3", "tries = 0"), "from 1 to 255"},
         {with("tries = 3", "longest_total = \"1 s\""), "room for one action"},
         {with("act_for = \"2 s\"", "act_for = \"0 s\""), "between 1 ms and 24 d"}});
}

const CppMistakes attempts_mistakes{
    {"constexpr auto a = act_for(2_s); Attempts<a> t;", "needs act_for and rest_for"},
    {"constexpr auto a = act_for(2_s).rest_for(1_s).longest_total(1_s); Attempts<a> t;",
     "leave room for one action"}};

} // namespace
