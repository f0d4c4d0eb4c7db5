// SPDX-License-Identifier: MIT
// condition: what can be written in it, and mistakes.
#include "tests/parts/feeder.hpp"

#include <gtest/gtest.h>
#include <zorilla/zorilla.hpp>

#include <cmath>
#include <random>

namespace {

using namespace parts;

TEST(Condition, mistakes_in_a_rig_file_are_told_with_what_to_write_instead) {
    expect_told_of_feeder(
        {{with("times = 3", ""), "\"reset\" belongs to \"times\""},
         {with("not fine and not lost(room)", "not fine and not lost(rom)"),
          "did you mean \"room\"?"},
         {with("not fine and not lost(room)", "not fine and not lost(room"), "write lost(NAME)"},
         {with("not fine and not lost(room)", "fans"), "write fans >= 1"},
         {with("not fine and not lost(room)", "hatch"), "write hatch in shut"},
         {with("not fine and not lost(room)", "room"), "neither yes nor no"},
         {with("not fine and not lost(room)", "fans >= 3"), "has the stages 1 to 2"},
         {with("not fine and not lost(room)", "fans > 1"), "write fans >= 2 for"},
         {with("not fine and not lost(room)", "hatch in opened"), "did you mean \"open\"?"},
         {with("not fine and not lost(room)", "hutch in open"), "did you mean \"hatch\"?"},
         {with("not fine and not lost(room)", "fine and"), "is missing here"},
         {with("not fine and not lost(room)", "locked(fine)"), "with act_for"},
         {with("not fine and not lost(room)", "rises(room)"), "neither yes nor no"},
         {with("not fine and not lost(room)", "slams"), "there is no [decide.slams]"},
         {with("when = \"stuck\"", "when = \"stuck\"\nof = \"room\""), "both \"of\""},
         {with("of = \"room\"\ninside", "of = \"button\"\ninside"), "yes or no already"}});
}

} // namespace
