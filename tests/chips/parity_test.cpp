// SPDX-License-Identifier: MIT
// What was tried on the desk is what the chip does: bit for bit.
#include "tests/chips/feed.hpp"
#include "tests/chips/passes.hpp"

#include <gtest/gtest.h>

namespace {

using chips::Bytes;

class Parity : public testing::Test {
  protected:
    static void SetUpTestSuite() {
        passes = chips::passes_to_compare();
        desk = chips::run_on_desk(passes);
    }
    static void expect_same(const Bytes& other) {
        ASSERT_EQ(other.size(), chips::count_of(passes) * feed::pass_out_size);
        EXPECT_EQ(chips::first_difference(desk, other), -1);
    }
    static Bytes passes, desk;
};

Bytes Parity::passes, Parity::desk;

TEST_F(Parity, compared_passes_are_many_and_see_every_kind_of_outcome) {
    EXPECT_GE(chips::count_of(passes), 129'600u + 1024u + 20'000u);
    bool health[5] = {}, truth[3] = {}, cause[6] = {}, level[2] = {};
    for (size_t i = 0; i < desk.size(); i += feed::pass_out_size) {
        health[desk[i + 4]] = true;
        truth[desk[i + 5]] = true;
        cause[desk[i + 6]] = true;
        level[desk[i + 7]] = true;
    }
    for (const bool seen : health)
        EXPECT_TRUE(seen);
    for (const bool seen : truth)
        EXPECT_TRUE(seen);
    for (const bool seen : cause)
        EXPECT_TRUE(seen);
    EXPECT_TRUE(level[0] && level[1]);
}

TEST_F(Parity, the_rig_file_does_what_the_cpp_device_does) {
    expect_same(chips::run_from_rig_file(passes));
}

TEST_F(Parity, the_atmega328p_does_what_the_desk_does) {
    expect_same(chips::run_on_atmega328p(passes));
}

TEST_F(Parity, the_cortex_m0_does_what_the_desk_does) {
    expect_same(chips::run_on_cortex_m0(passes));
}

TEST_F(Parity, a_single_different_bit_would_be_found) {
    Bytes other = desk;
    other[5 * feed::pass_out_size + 2] ^= 1;
    EXPECT_EQ(chips::first_difference(desk, other), 5);
    other.resize(8 * feed::pass_out_size);
    other[5 * feed::pass_out_size + 2] ^= 1;
    EXPECT_EQ(chips::first_difference(desk, other), 8);
}

} // namespace
