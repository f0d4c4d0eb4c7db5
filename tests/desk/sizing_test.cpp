// SPDX-License-Identifier: MIT
// Which parts to take, against a search through all of them.
#include "bench/sizing.hpp"
#include "rig/sense/forward.hpp"
#include "tests/desk/process.hpp"

#include <gtest/gtest.h>

#include <cmath>
#include <random>

namespace {

using namespace zorilla;
using bench::DividerTask;
using bench::Series;
using desk::has;

/// Every value of a series from 1 ohm to 10 Mohm, from the printed table (IEC 60063).
std::vector<double> all_of(Series series) {
    std::vector<int> digits = {100, 110, 120, 130, 150, 160, 180, 200, 220, 240, 270, 300,
                               330, 360, 390, 430, 470, 510, 560, 620, 680, 750, 820, 910};
    if (series == Series::e12)
        digits = {100, 120, 150, 180, 220, 270, 330, 390, 470, 560, 680, 820};
    if (series == Series::e96)
        digits = {100, 102, 105, 107, 110, 113, 115, 118, 121, 124, 127, 130, 133, 137, 140, 143,
                  147, 150, 154, 158, 162, 165, 169, 174, 178, 182, 187, 191, 196, 200, 205, 210,
                  215, 221, 226, 232, 237, 243, 249, 255, 261, 267, 274, 280, 287, 294, 301, 309,
                  316, 324, 332, 340, 348, 357, 365, 374, 383, 392, 402, 412, 422, 432, 442, 453,
                  464, 475, 487, 499, 511, 523, 536, 549, 562, 576, 590, 604, 619, 634, 649, 665,
                  681, 698, 715, 732, 750, 768, 787, 806, 825, 845, 866, 887, 909, 931, 953, 976};
    std::vector<double> out;
    for (double decade = 0.01; decade < 2e5; decade *= 10)
        for (const int d : digits)
            if (d * decade < 10.0001e6)
                out.push_back(d * decade);
    return out;
}

TEST(SizeDivider, no_other_standard_value_is_better) {
    std::mt19937 random(3);
    std::uniform_real_distribution<double> exponent(1.5, 5.5), even(0, 1);
    for (int i = 0; i < 1000; ++i) {
        const Series series = i % 3 == 0 ? Series::e12 : i % 3 == 1 ? Series::e24 : Series::e96;
        DividerTask task;
        task.ohms = [](double ohms) { return ohms; };
        task.from = std::pow(10, exponent(random));
        task.to = task.from * std::pow(10, 0.1 + 2 * even(random));
        task.series = series;
        task.bits = i % 2 == 0 ? 10 : 12;
        task.sensor_to_ground = i % 5 != 0;
        if (i % 4 == 0)
            task.point = task.from + even(random) * (task.to - task.from);
        double best = -1, best_ohms = 0;
        for (const double pull : all_of(series)) {
            const auto volts = [&](double sensor) {
                return task.sensor_to_ground ? sensor / (sensor + pull) : pull / (sensor + pull);
            };
            const double worth = task.point ? pull / std::pow(*task.point + pull, 2)
                                            : std::fabs(volts(task.from) - volts(task.to));
            if (worth > best * (1 + 1e-9)) {
                best = worth;
                best_ohms = pull;
            }
        }
        const bench::DividerResult result = bench::size_divider(task);
        const double chosen = result.choices[result.best].pull;
        // Two values that are as good to nine digits are both right.
        const bool tie = std::fabs(chosen / best_ohms - 1) > 1e-9;
        if (tie) {
            const auto worth = [&](double pull) {
                return task.point
                           ? pull / std::pow(*task.point + pull, 2)
                           : std::fabs(1 / (1 + pull / task.from) - 1 / (1 + pull / task.to));
            };
            EXPECT_NEAR(worth(chosen) / worth(best_ohms), 1, 1e-6) << i;
        }
    }
}

TEST(SizeDivider, span_resolution_current_and_heat_are_those_of_the_circuit) {
    DividerTask task;
    task.ohms = rig::beta_ohms(10'000, 3950);
    task.from = 0;
    task.to = 40;
    task.point = 4;
    const bench::DividerChoice choice = bench::divider_choice(task, 10'000);
    const auto code = [&](double celsius) {
        const double ohms = task.ohms(celsius);
        return 1024 * ohms / (ohms + 10'000);
    };
    EXPECT_NEAR(choice.span(), code(0) - code(40), 1e-6);
    EXPECT_NEAR(choice.counts_per_unit, (code(3.5) - code(4.5)), 0.01);
    EXPECT_NEAR(choice.amperes, 5 / (10'000 + task.ohms(40)), 1e-9);
    EXPECT_NEAR(choice.sensor_watts, 25.0 / 40'000, 1e-6) << "where both are equal";
    EXPECT_NEAR(choice.warming, choice.sensor_watts / 0.002, 1e-9);
}

TEST(Size, tool_says_what_to_take_and_why) {
    struct Case {
        const char* arguments;
        int status;
        std::vector<const char*> told; ///< on either stream
    };
    const Case cases[] = {
        {"led --colour red", 0, {"330 ohm", "9.39 mA", "47 % of the 20 mA"}},
        {"led --forward 2V --supply 12V --current 20mA",
         0,
         {"560 ohm", "17.9 mA", "take one that"}},
        {"led --colour blue --supply 3.3V", 1, {"Only 0.2 V are left"}},
        {"led --colour white --supply 3V", 1, {"does not light"}},
        {"led --colour red --current 30mA", 1, {"too much"}},
        {"led", 2, {"--forward", "--colour red"}},
        {"led --colour red --current 10V", 2, {"here a current is needed"}},
        {"led --color red", 2, {"did you mean \"--colour\"?"}},
        {"load --kind lamp --current 10mA", 0, {"on the pin itself", "none: there is no coil"}},
        {"load --kind relay --coil 70ohm", 0, {"NPN", "1.2 kohm", "across the load"}},
        {"load --kind buzzer --current 10mA", 0, {"NPN", "kick"}},
        {"load --kind motor --current 2A --supply 12V", 0, {"MOSFET", "24 V"}},
        {"load --kind relay --coil 70ohm --contact 10A --switched 3A --switched-kind motor",
         1,
         {"not this one", "at least 15 A"}},
        {"load --kind relay --coil 70ohm --contact 10A --switched 3A --switched-kind heater",
         0,
         {"it bears that"}},
        {"load --kind relay --coil 70ohm --contact 10A", 2, {"a contact needs all three"}},
        {"load --kind motor --current 1A --contact 1A --switched 1A --switched-kind lamp",
         2,
         {"belong to --kind relay"}},
        {"load --kind relay", 2, {"--current", "--coil"}},
        {"divider --from 1kohm --to 50kohm --have 1kohm", 0, {"7.5 kohm", "the one you have"}},
        {"divider --from 1kohm --to 50kohm --have 1kohm --have 4.7kohm --have 10kohm",
         0,
         {"Your 4.7 kohm gives up 2 %", "Your 10 kohm gives up 1 %"}},
        {"divider --from 1kohm --to 50kohm --at 10kohm", 0, {"> 10 kohm", "more finely"}},
        {"divider --thermistor 10kohm 3950K --from 0degC --to 40degC", 0, {"> 13 kohm", "442"}},
        {"divider --photoresistor 10kohm 10lx 0.7 --from 1lx --to 1klx --pull down",
         0,
         {"4.3 kohm"}},
        {"divider --from \"-3 ohm\" --to 4kohm", 2, {"must be above 0"}},
        {"divider --from 4kohm --to 4kohm", 2, {"a range needs two ends"}},
        {"divider --from 4kohm --to 4.05kohm", 1, {"counts wide"}},
        {"divider --from 10ohm --to 10Mohm", 1, {"broken or shorted wire"}},
        {"divider --from 3degC --to 4kohm", 2, {"here a resistance is needed"}},
        {"divider --from 1kohm --to 9kohm --at 10kohm", 2, {"lies outside the range"}},
        {"divider --photoresistor 10kohm 10lx 7 --from 1lx --to 1klx", 2, {"from 0.3 to 1.5"}},
        {"devider", 2, {"did you mean \"divider\"?"}},
        {"", 2, {"divider, led or load"}},
    };
    for (const Case& c : cases) {
        const desk::Outcome out = desk::zorilla(std::string("size ") + c.arguments);
        EXPECT_EQ(out.status, c.status) << c.arguments << "\n" << out.out << out.err;
        for (const char* told : c.told)
            EXPECT_TRUE(has(out.out + out.err, told)) << c.arguments << ": " << told << "\n"
                                                      << out.out << out.err;
    }
}

TEST(Size, divider_is_drawn_with_the_unit_on_its_axis) {
    const desk::Folder folder;
    ASSERT_EQ(desk::zorilla("size divider --thermistor 10kohm 3950K --from 0degC --to 40degC "
                            "--figure '" +
                            (folder / "d.svg") + "'")
                  .status,
              0);
    EXPECT_TRUE(has(desk::read_all(folder / "d.svg"), "temperature (degC)"));
}

} // namespace
