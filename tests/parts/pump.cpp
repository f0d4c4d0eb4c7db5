// SPDX-License-Identifier: MIT
// pump: mistakes.
#include "tests/parts/output.hpp"

#include <gtest/gtest.h>

namespace {

using namespace parts;

TEST(Pump, mistakes_in_a_rig_file_are_told_with_what_to_write_instead) {
    expect_told({{keys_of("pump") + then("120 %"), "between 0 % and 100 %"},
                 {keys_of("pump") + "kick = \"50 %\"\n" + then("on"), "belong together"}});
}

} // namespace
