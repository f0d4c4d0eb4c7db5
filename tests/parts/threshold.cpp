// SPDX-License-Identifier: MIT
// threshold: each value against the plainest way to say it, and mistakes.
#include "tests/parts/feeder.hpp"
#include "tests/parts/promises.hpp"
#include "tests/parts/wander.hpp"

#include <gtest/gtest.h>

namespace {

using namespace parts;

/// The rig of output.hpp with a threshold of its first sensor, which is a percentage.
std::string judged(const std::string& points) {
    return keys_of("led") + then("judged") + "[decide.judged]\nof = \"a\"\n" + points;
}

TEST(Threshold, is_yes_from_its_point_on_until_it_is_released) {
    static constexpr auto cold = below(18_degC).release(20_degC);
    static constexpr auto hot = above(24_degC).release(23_degC);
    Threshold<cold> low;
    Threshold<hot> high;
    Wander air(12'000, 30'000);
    bool is_low = false, is_high = false;
    int changes = 0;
    for (int i = 0; i < 50'000; ++i) {
        const auto reading = air.next();
        const Truth a = low.decide(reading), b = high.decide(reading);
        if (!reading.ok()) {
            ASSERT_EQ(a, Truth::unknown);
            ASSERT_EQ(b, Truth::unknown);
            continue;
        }
        const double t = air.value() / 1000.0;
        const bool before = is_low;
        is_low = is_low ? t < 20 : t < 18;
        is_high = is_high ? t > 23 : t > 24;
        ASSERT_EQ(a, truth_of(is_low)) << t;
        ASSERT_EQ(b, truth_of(is_high)) << t;
        changes += before != is_low;
    }
    EXPECT_GT(changes, 200);
}

TEST(Threshold, mistakes_in_a_rig_file_are_told_with_what_to_write_instead) {
    expect_told(
        {{judged("below = \"40 %\"\nrelease = \"30 %\"\n"), "for example release = \"44 %\""},
         {judged("below = \"40 %\"\n"), "[decide.judged] needs \"release\""},
         {judged("above = \"140 %\"\nrelease = \"30 %\"\n"), "a cannot measure 140"},
         {judged("above = \"40 degC\"\nrelease = \"30 %\"\n"), "but here a percentage is needed"}});
}

const CppMistakes threshold_mistakes{
    {"constexpr auto b = below(4_degC).release(6_degC); Threshold<b> t;", ""},
    {"constexpr auto b = below(4_degC).release(3_degC); Threshold<b> t;",
     "the release point must lie above a below()"},
    {"constexpr auto b = above(4_degC).release(4_degC); Threshold<b> t;",
     "the release point must lie above a below()"},
    {"constexpr auto b = below(4_degC); Threshold<b> t;", "say where this threshold lets go again"},
    {"constexpr auto p = thermistor(10_kohm, 3950_K).pull_up(10_kohm).range(0_degC, 60_degC);"
     "constexpr auto f = below(70_degC).release(72_degC); CodeThreshold<p, f> t;",
     "cannot reach both points"},
    {"constexpr auto p = thermistor(10_kohm, 3950_K).pull_up(10_kohm).range(0_degC, 40_degC);"
     "constexpr auto b = above(60_degC).release(55_degC);"
     "Truth f(Threshold<b>& t, Thermistor<p>& s) { return t.decide(s.read(Sample(5))); }",
     "the sensor cannot reach this threshold"},
    {"constexpr auto p = thermistor(10_kohm, 3950_K).pull_up(10_kohm).range(0_degC, 70_degC);"
     "constexpr auto b = above(60_degC).release(55_degC);"
     "Truth f(Threshold<b>& t, Thermistor<p>& s) { return t.decide(s.read(Sample(5))); }",
     ""}};

} // namespace
