// SPDX-License-Identifier: MIT
// digital_input: formula and range, what its room delivers, and its faults.
#include "tests/parts/part.hpp"

namespace {

using namespace parts;

const char* const plain_digital_input =
    "part = \"digital_input\"\nactive = \"low\"\ndebounce = \"0 s\"\n";

TEST(DigitalInput, what_its_room_delivers_is_read_back) {
    expect_read_back(plain_digital_input, {1}, 0);
}

} // namespace
