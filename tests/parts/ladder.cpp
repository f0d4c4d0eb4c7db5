// SPDX-License-Identifier: MIT
// ladder: climbed rung by rung, and mistakes.
#include "tests/parts/feeder.hpp"
#include "tests/parts/promises.hpp"
#include "tests/parts/wander.hpp"

#include <gtest/gtest.h>
#include <zorilla/zorilla.hpp>

#include <cmath>
#include <random>

namespace {

using namespace parts;

constexpr auto fans = rising(30_degC, 35_degC).release(27_degC);
constexpr auto bar =
    rising(16_degC, 20_degC, 24_degC, 28_degC).release(15_degC, 15_degC, 23.5_degC, 26_degC);
constexpr auto frost = falling(24_degC, 18_degC, 16_degC).release(26_degC, 25_degC, 17_degC);

template <const auto& Spec> void stage_by_stage() {
    Ladder<Spec> ladder;
    Wander air(12'000, 40'000);
    int stage = 0;
    std::vector<int> seen(Spec.count + 1);
    for (int i = 0; i < 50'000; ++i) {
        const auto reading = air.next();
        const Reading<Stage> told = ladder.decide(reading);
        if (!reading.ok()) {
            ASSERT_EQ(told.health(), Health::open_circuit);
            ASSERT_EQ(at_least(told, 1), Truth::unknown);
            continue;
        }
        const auto value = reading.value_or(Temperature());
        // One rung at a time, as somebody climbs.
        while (stage < Spec.count && Spec.stage(static_cast<uint8_t>(stage)).reached_by(value))
            ++stage;
        while (stage > 0 && Spec.stage(static_cast<uint8_t>(stage - 1)).released_by(value))
            --stage;
        ASSERT_EQ(told.value_or(Stage()).number(), stage) << air.value();
        for (uint8_t n = 0; n <= Spec.count; ++n)
            ASSERT_EQ(at_least(told, n), truth_of(stage >= n));
        ++seen[static_cast<size_t>(stage)];
    }
    for (const int times : seen)
        EXPECT_GT(times, 50);
}

TEST(Ladder, climbs_and_descends_as_one_goes_rung_by_rung) {
    stage_by_stage<fans>();
    stage_by_stage<bar>();
    stage_by_stage<frost>();
}

TEST(Ladder, mistakes_in_a_rig_file_are_told_with_what_to_write_instead) {
    expect_told_of_feeder(
        {{with("[\"28 degC\", \"34 degC\"]", "[\"34 degC\", \"28 degC\"]"),
          "each stage beyond the one"},
         {with("release = \"26 degC\"", "release = \"29 degC\""),
          "below the point where the stage begins"},
         {with("release = \"26 degC\"", "release = [\"26 degC\"]"), "must be a list of 2"},
         {with("release = \"26 degC\"", ""), "one point for all, or one for each"},
         {with("release = \"26 degC\"", "release = \"26 degC\"\nfalling = [\"9 degC\"]"),
          "give one of them"}});
}

const CppMistakes ladder_mistakes{
    {"constexpr auto l = rising(30_degC, 35_degC).release(31_degC); Ladder<l> t;",
     "each stage must let go below where it begins"},
    {"constexpr auto l = rising(30_degC, 29_degC).release(27_degC); Ladder<l> t;",
     "the stages must begin one after the other"},
    {"constexpr auto l = rising(30_degC, 35_degC); Ladder<l> t;",
     "say where these stages let go again"},
    {"constexpr auto p = percent_between(100, 900);"
     "constexpr auto l = rising(30_percent, 140_percent).release(20_percent);"
     "auto f(Ladder<l>& t, Share<p>& s) { return t.decide(s.read(Sample(5))); }",
     "the sensor cannot reach a stage"}};

} // namespace
