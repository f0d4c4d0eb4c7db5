// SPDX-License-Identifier: MIT
// analogue_level: formula and range, what its room delivers, and its faults.
#include "tests/parts/part.hpp"

namespace {

using namespace parts;

const char* const plain_analogue_level =
    "part = \"analogue_level\"\nlow = \"1.2 V\"\nhigh = \"2.8 V\"\nreference = \"5 V\"\n";

TEST(AnalogueLevel, what_its_room_delivers_is_read_back) {
    expect_read_back(plain_analogue_level, {1}, 0);
}

const CppMistakes analogue_level_mistakes{
    {"constexpr auto p = analogue_level(2_V, 1_V).reference(5_V); AnalogueLevel<p> t;",
     "four codes between them"}};

} // namespace
