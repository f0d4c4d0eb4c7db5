// SPDX-License-Identifier: MIT
// led_bar: its stages, and mistakes.
#include "tests/parts/output.hpp"

#include <gtest/gtest.h>
#include <zorilla/zorilla.hpp>

#include <cmath>
#include <random>

namespace {

using namespace parts;

TEST(LedBar, shows_its_stages) {
    for (uint8_t stage = 0; stage <= 8; ++stage) {
        int lit = 0;
        for (uint8_t i = 0; i < 8; ++i)
            lit |= bar_led(Stage(stage), i) == on ? 1 << i : 0;
        EXPECT_EQ(bar_mask(Stage(stage)), lit);
        EXPECT_EQ(lit, (1 << stage) - 1);
    }
}

TEST(LedBar, mistakes_in_a_rig_file_are_told_with_what_to_write_instead) {
    expect_told(
        {{"part = \"led_bar\"\npins = [\"D2\", \"D3\"]\nsafe = \"off\"\n" + then("stage 3"),
          "it has only 2 LEDs"},
         {"part = \"led_bar\"\npins = [\"D2\", \"D3\"]\nsafe = \"off\"\nclaims = [ { then = "
          "\"stages\" } ]\n",
          "stages has 3 stages, but it only 2 LEDs"}});
}

} // namespace
