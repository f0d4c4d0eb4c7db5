// SPDX-License-Identifier: MIT
// servo: its pulse, and mistakes.
#include "tests/parts/output.hpp"

#include <gtest/gtest.h>

namespace {

using namespace parts;

TEST(Servo, goes_evenly_from_one_end_to_the_other) {
    for (int n = 0; n <= 255; ++n) {
        const Duty position = Duty::from_255ths(static_cast<uint8_t>(n));
        ASSERT_NEAR(servo_pulse(position), 1000 + 1000.0 * n / 255, 0.51);
        ASSERT_NEAR(servo_pulse(position, 2400, 600), 2400 - 1800.0 * n / 255, 0.51);
    }
}

TEST(Servo, mistakes_in_a_rig_file_are_told_with_what_to_write_instead) {
    expect_told({{keys_of("servo") + then("120 %"), "between 0 % and 100 %"},
                 {keys_of("servo") + "kick = \"50 %\"\n" + then("on"), "unknown key \"kick\""}});
}

} // namespace
