// SPDX-License-Identifier: MIT
// line_value: what is said over the serial line, in percent.
#include "tests/parts/part.hpp"

#include <zorilla/sense/said.hpp>

namespace {

using namespace parts;

TEST(LineValue, what_its_room_delivers_is_read_back) {
    expect_read_back("part = \"line_value\"\n", {40}, 0.05);
}

TEST(LineValue, is_missing_while_nobody_says_anything) {
    EXPECT_EQ(said_share(Sample()).health(), Health::missing);
    EXPECT_EQ(said_share(Sample(1001)).health(), Health::out_of_range);
    for (uint16_t tenths = 0; tenths <= said_full; ++tenths)
        EXPECT_EQ(said_share(Sample(tenths)).value_or({}).thousandths(), tenths * 100);
}

} // namespace
