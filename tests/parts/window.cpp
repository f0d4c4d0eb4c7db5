// SPDX-License-Identifier: MIT
// window: each value against the plainest way to say it, and mistakes.
#include "tests/parts/feeder.hpp"
#include "tests/parts/promises.hpp"
#include "tests/parts/wander.hpp"

#include <gtest/gtest.h>
#include <zorilla/zorilla.hpp>

#include <cmath>
#include <random>

namespace {

using namespace parts;

constexpr auto comfort = inside(18_degC, 24_degC).release(17_degC, 25_degC);
constexpr auto odd = outside(18_degC, 24_degC).release(19_degC, 23_degC);

TEST(Window, is_yes_in_its_range_and_lets_go_only_at_its_release_points) {
    Window<comfort> in;
    Window<odd> out;
    Wander air(12'000, 30'000);
    bool in_holds = false, out_holds = false;
    int changes = 0;
    for (int i = 0; i < 50'000; ++i) {
        const auto reading = air.next();
        const Truth is_in = in.decide(reading), is_out = out.decide(reading);
        if (!reading.ok()) {
            EXPECT_EQ(is_in, Truth::unknown);
            continue;
        }
        const double t = air.value() / 1000.0;
        const bool before = in_holds;
        in_holds = in_holds ? t > 17 && t < 25 : t >= 18 && t <= 24;
        out_holds = out_holds ? t < 19 || t > 23 : t < 18 || t > 24;
        ASSERT_EQ(is_in, truth_of(in_holds)) << t;
        ASSERT_EQ(is_out, truth_of(out_holds)) << t;
        changes += before != in_holds;
    }
    EXPECT_GT(changes, 200);
}

TEST(Window, mistakes_in_a_rig_file_are_told_with_what_to_write_instead) {
    expect_told_of_feeder(
        {{with("[\"17 degC\", \"25 degC\"]", "[\"19 degC\", \"25 degC\"]"),
          "further out than \"inside\""},
         {with("[\"18 degC\", \"24 degC\"]", "[\"24 degC\", \"18 degC\"]"),
          "with the lower end first"},
         {with("[\"18 degC\", \"24 degC\"]", "[\"18 degC\"]"), "must be a list of 2"},
         {with("[\"17 degC\", \"25 degC\"]", "\"17 degC\""), "must be a list of 2"},
         {with("[\"17 degC\", \"25 degC\"]", "[\"-20 degC\", \"25 degC\"]"),
          "room cannot measure -20"},
         {with("[\"17 degC\", \"25 degC\"]", "[\"17.999 degC\", \"25 degC\"]"),
          "make the output chatter"},
         {with("for_at_least = \"10 s\"", "for_at_least = \"10\""), "has no unit"},
         {with("for_at_least = \"10 s\"", "for_at_least = \"-1 s\""), "between 0 and 24 d"}});
}

const CppMistakes window_mistakes{
    {"constexpr auto w = inside(18_degC, 24_degC).release(17_degC, 25_degC); Window<w> t;", ""},
    {"constexpr auto w = inside(18_degC, 24_degC).release(19_degC, 25_degC); Window<w> t;",
     "the release points must lie further out"},
    {"constexpr auto w = outside(24_degC, 18_degC).release(19_degC, 20_degC); Window<w> t;",
     "the lower end of a window must lie below"},
    {"constexpr auto w = inside(18_degC, 24_degC); Window<w> t;",
     "say where this window lets go again"},
    {"constexpr auto p = thermistor(10_kohm, 3950_K).pull_up(10_kohm).range(0_degC, 40_degC);"
     "constexpr auto w = inside(-5_degC, 20_degC).release(-8_degC, 25_degC);"
     "Truth f(Window<w>& t, Thermistor<p>& s) { return t.decide(s.read(Sample(5))); }",
     "the sensor cannot reach a point of this window"}};

} // namespace
