// SPDX-License-Identifier: MIT
// curve: its straight lines, floor and dead band, and mistakes.
#include "tests/parts/output.hpp"
#include "tests/parts/promises.hpp"
#include "tests/parts/wander.hpp"

#include <gtest/gtest.h>
#include <zorilla/zorilla.hpp>

#include <cmath>
#include <random>

namespace {

using namespace parts;

constexpr auto plain_curve = curve(point(14_degC, 10_percent), point(20_degC, 90_percent),
                                   point(32_degC, 30_percent), point(33_degC, 100_percent));
constexpr auto wide = curve(point(-200_degC, 0_percent),
                            point(Temperature::from_thousandths(2'000'000'000), 100_percent));
constexpr auto breeze = curve(point(20_degC, 0_percent), point(40_degC, 100_percent))
                            .floor(20_percent)
                            .dead_band(3_percent);

TEST(Curve, lies_on_the_straight_lines_to_half_a_255th) {
    Curve<plain_curve> lines;
    for (int32_t t = 10'000; t <= 36'000; t += 3) {
        const double c = t / 1000.0;
        const double percent = c < 14   ? 10
                               : c < 20 ? 10 + (c - 14) / 6 * 80
                               : c < 32 ? 90 - (c - 20) / 12 * 60
                               : c < 33 ? 30 + (c - 32) * 70
                                        : 100;
        const double told = lines.decide(degrees(t)).value_or(Duty()).of_255();
        ASSERT_NEAR(told, percent * 2.55, 1.01) << c; // both ends of a line are rounded, too
    }
    Curve<wide> far;
    for (int64_t t = -200'000; t <= 2'000'000'000; t += 7'777'777)
        ASSERT_NEAR(far.decide(degrees(static_cast<int32_t>(t))).value_or(Duty()).of_255(),
                    255.0 * static_cast<double>(t + 200'000) / 2'000'200'000.0, 0.51);
    EXPECT_EQ(lines.decide(broken).health(), Health::open_circuit);
}

TEST(Curve, never_hunts_never_stalls_and_follows) {
    Curve<breeze> speed;
    Wander air(15'000, 45'000);
    int before = -1;
    for (int i = 0; i < 50'000; ++i) {
        const auto reading = air.next();
        const auto told = speed.decide(reading);
        if (!reading.ok()) {
            before = -1;
            continue;
        }
        const int duty = told.value_or(Duty()).of_255();
        const double exact = std::clamp((air.value() - 20'000) / 20'000.0, 0.0, 1.0) * 255;
        ASSERT_TRUE(duty == 0 || duty >= 51) << "it would stand and hum";
        if (before > 0 && duty > 0 && duty < 255 && duty != before) {
            ASSERT_GE(std::abs(duty - before), 8) << "a step smaller than the dead band";
        }
        // It follows to the dead band, and at the ends of the curve exactly.
        ASSERT_TRUE(exact <= 51 + 8 || std::fabs(duty - exact) < 8.6) << exact;
        ASSERT_TRUE(exact > 0 || duty == 0);
        ASSERT_TRUE(exact < 255 || duty == 255);
        before = duty;
    }
}

TEST(Curve, mistakes_in_a_rig_file_are_told_with_what_to_write_instead) {
    expect_told(
        {{keys_of("led") + then("on") +
              "[decide.bent]\nof = \"a\"\npoints = [[\"9 %\", \"1 %\"], [\"8 %\", \"2 %\"]]\n",
          "must go up in their quantity"}});
}

const CppMistakes curve_mistakes{
    {"constexpr auto c = curve(point(30_degC, 0_percent), point(20_degC, 9_percent)); Curve<c> "
     "t;",
     "the points of a curve must go up"},
    {"constexpr auto c = curve(point(3_degC, 0_percent), point(20_degC, 101_percent));",
     "overflow_in_a_constant"}};

} // namespace
