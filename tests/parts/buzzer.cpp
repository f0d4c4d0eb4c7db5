// SPDX-License-Identifier: MIT
// buzzer: mistakes.
#include "tests/parts/output.hpp"

#include <gtest/gtest.h>
#include <zorilla/zorilla.hpp>

#include <cmath>
#include <random>

namespace {

using namespace parts;

TEST(Buzzer, mistakes_in_a_rig_file_are_told_with_what_to_write_instead) {
    expect_told(
        {{"part = \"buzzer\"\npin = \"D2\"\nsafe = \"off\"\n" + then("5 Hz"), "or nobody hears it"},
         {"part = \"buzzer\"\npin = \"D2\"\nsafe = \"off\"\n" + then("on"),
          "\"on\" is not a tone"}});
}

} // namespace
