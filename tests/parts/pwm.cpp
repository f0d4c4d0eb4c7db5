// SPDX-License-Identifier: MIT
// pwm: mistakes.
#include "tests/parts/output.hpp"

#include <gtest/gtest.h>

namespace {

using namespace parts;

TEST(Pwm, mistakes_in_a_rig_file_are_told_with_what_to_write_instead) {
    expect_told({{keys_of("pwm") + then("stages"), "which a pwm cannot follow"},
                 {keys_of("pwm") + "kick = \"50 %\"\n" + then("on"), "unknown key \"kick\""}});
}

} // namespace
