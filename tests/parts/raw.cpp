// SPDX-License-Identifier: MIT
// raw: formula and range, what its room delivers, and its faults.
#include "tests/parts/part.hpp"

namespace {

using namespace parts;

const char* const plain_raw = "part = \"raw\"\n";

TEST(Raw, what_its_room_delivers_is_read_back) { expect_read_back(plain_raw, {512}, 0.001); }

} // namespace
