// SPDX-License-Identifier: MIT
// rgb_led: mistakes.
#include "tests/parts/output.hpp"

#include <gtest/gtest.h>
#include <zorilla/zorilla.hpp>

#include <cmath>
#include <random>

namespace {

using namespace parts;

TEST(RgbLed, mistakes_in_a_rig_file_are_told_with_what_to_write_instead) {
    expect_told(
        {{"part = \"rgb_led\"\nred_pin = \"D2\"\ngreen_pin = \"D3\"\nblue_pin = \"D4\"\nsafe = "
          "\"off\"\n" +
              then("red 10 %, pink 5 %"),
          "write how much of red, green and blue"}});
}

} // namespace
