// SPDX-License-Identifier: MIT
// A trim set on the device, and a store that loses its power at every byte.
#include <zorilla/board/stored.hpp>
#include <zorilla/zorilla.hpp>

#include <gtest/gtest.h>

#include <array>
#include <cmath>
#include <random>

namespace {

using namespace zorilla;
using Reads = Reading<Temperature>;

Reads at(int32_t thousandths) { return Reads::of(Temperature::from_thousandths(thousandths)); }
int32_t value_of(Reads reading) { return reading.value_or(-999_degC).thousandths(); }

TEST(Trim, two_points_are_met_and_between_them_it_is_a_straight_line) {
    std::mt19937 random(7);
    std::uniform_int_distribution<int32_t> anywhere(-50'000, 150'000), gap(5'000, 100'000);
    std::uniform_real_distribution<double> gain(0.501, 1.499);
    for (int i = 0; i < 20'000; ++i) {
        const int32_t read = anywhere(random);
        const int32_t other = read + (i % 2 == 0 ? gap(random) : -gap(random));
        const int32_t truth = anywhere(random);
        const int32_t other_truth =
            truth + static_cast<int32_t>(std::lround(gain(random) * (other - read)));
        Trim<Temperature> trim;
        ASSERT_EQ(trim.two_point(at(read), Temperature::from_thousandths(truth), at(other),
                                 Temperature::from_thousandths(other_truth)),
                  TrimResult::done);
        ASSERT_EQ(value_of(trim.pass(at(read))), truth);
        ASSERT_EQ(value_of(trim.pass(at(other))), other_truth);
        const int32_t between = anywhere(random);
        const double exact = truth + (double(between) - read) * (double(other_truth) - truth) /
                                         (double(other) - read);
        ASSERT_NEAR(value_of(trim.pass(at(between))), exact, 0.6);
    }
}

TEST(Trim, one_point_moves_all_and_keeps_the_gain) {
    Trim<Temperature> trim;
    EXPECT_EQ(trim.one_point(at(400), 0_degC), TrimResult::done);
    EXPECT_EQ(value_of(trim.pass(at(20'400))), 20'000);
    ASSERT_EQ(trim.two_point(at(0), 0_degC, at(100'000), 110_degC), TrimResult::done);
    ASSERT_EQ(trim.one_point(at(50'000), 54_degC), TrimResult::done);
    EXPECT_EQ(value_of(trim.pass(at(60'000))), 65'000);
    trim.clear();
    EXPECT_FALSE(trim.is_set());
    EXPECT_EQ(value_of(trim.pass(at(60'000))), 60'000);
}

TEST(Trim, nonsense_is_refused_and_leaves_it_as_it_was) {
    Trim<Temperature> trim;
    ASSERT_EQ(trim.one_point(at(400), 0_degC), TrimResult::done);
    const Reads broken = Reads::without_value(Health::open_circuit);
    EXPECT_EQ(trim.one_point(broken, 0_degC), TrimResult::unhealthy);
    EXPECT_EQ(trim.two_point(at(0), 0_degC, broken, 50_degC), TrimResult::unhealthy);
    EXPECT_EQ(trim.two_point(at(0), 0_degC, at(4'999), 5_degC), TrimResult::too_close);
    EXPECT_EQ(trim.two_point(at(0), 0_degC, at(50'000), 25_degC), TrimResult::too_much);
    EXPECT_EQ(trim.two_point(at(0), 0_degC, at(50'000), 75_degC), TrimResult::too_much);
    EXPECT_EQ(trim.two_point(at(0), 0_degC, at(50'000), -50_degC), TrimResult::too_much);
    EXPECT_EQ(value_of(trim.pass(at(20'400))), 20'000);
    EXPECT_EQ(trim.pass(broken).health(), Health::open_circuit);
    ASSERT_EQ(trim.one_point(at(0), Temperature::from_thousandths(2'000'000'000)),
              TrimResult::done);
    EXPECT_EQ(trim.pass(at(2'000'000'000)).health(), Health::out_of_range);
}

struct PowerCut {};

/// Bytes that stay; a write may be the last thing that happens.
struct Memory {
    static inline std::array<uint8_t, 64> bytes;
    static inline int writes_left = -1; ///< until the power goes; below 0: never
    static inline uint8_t remains = 0;  ///< what the byte holds that was being written then
    static inline int writes = 0;

    static uint8_t read(uint16_t address) { return bytes.at(address); }
    static bool ready() { return true; }
    static void write(uint16_t address, uint8_t byte) {
        ++writes;
        if (writes_left == 0) {
            bytes.at(address) = remains;
            throw PowerCut();
        }
        if (writes_left > 0)
            --writes_left;
        bytes.at(address) = byte;
    }
};
using Kept = Stored<Trim<Temperature>, Memory, 5>;

struct Longer : Trim<Temperature> {
    static constexpr uint8_t version = 2;
};

class Storing : public testing::Test {
  protected:
    Storing() {
        Memory::bytes.fill(0xff);
        Memory::writes_left = -1;
        Memory::writes = 0;
    }
    /// A trim that makes this of 0 degC.
    static Trim<Temperature> trim_to(int32_t thousandths) {
        Trim<Temperature> out;
        out.one_point(at(0), Temperature::from_thousandths(thousandths));
        return out;
    }
    static void save(int32_t thousandths) {
        Kept kept;
        kept.save(trim_to(thousandths));
        while (kept.step()) {
        }
    }
    static StoredState load(int32_t& thousandths) {
        Trim<Temperature> trim = trim_to(-1);
        const StoredState out = Kept().load(trim);
        thousandths = value_of(trim.pass(at(0)));
        return out;
    }
};

TEST_F(Storing, wherever_the_power_goes_the_old_or_the_new_value_is_found) {
    const auto settled = [](int before) {
        Memory::bytes.fill(0xff);
        for (int i = 0; i <= before; ++i)
            save(1000 + i);
        return Memory::bytes;
    };
    // Many saves before, so that the order of the slots runs over its byte too.
    for (const int before : {0, 1, 2, 255, 256}) {
        const auto bytes = settled(before);
        Memory::writes = 0;
        save(-77'000);
        const int writes = Memory::writes;
        ASSERT_GT(writes, 8);
        for (int cut = 0; cut < writes; ++cut)
            for (int remains = 0; remains < 256; ++remains) {
                Memory::bytes = bytes;
                Memory::writes_left = cut;
                Memory::remains = static_cast<uint8_t>(remains);
                EXPECT_THROW(save(-77'000), PowerCut);
                Memory::writes_left = -1;
                int32_t found = 0;
                ASSERT_EQ(load(found), StoredState::found) << cut << " " << remains;
                ASSERT_TRUE(found == -77'000 || found == 1000 + before) << cut << " " << remains;
                // And life goes on.
                save(5'000);
                ASSERT_EQ(load(found), StoredState::found);
                ASSERT_EQ(found, 5'000);
            }
    }
}

TEST_F(Storing, what_is_not_a_stored_value_is_told_and_changes_nothing) {
    int32_t found = 0;
    EXPECT_EQ(load(found), StoredState::empty);
    EXPECT_EQ(found, -1);
    save(1'000);
    save(2'000);
    const auto whole = Memory::bytes;
    // A cell that has lost a bit: the slot before it is found, never a wrong number.
    for (size_t i = 5; i < 5 + Kept::size; ++i)
        for (int bit = 0; bit < 8; ++bit) {
            Memory::bytes = whole;
            Memory::bytes[i] = static_cast<uint8_t>(Memory::bytes[i] ^ 1 << bit);
            const StoredState state = load(found);
            ASSERT_TRUE(state == StoredState::found || state == StoredState::other_version);
            ASSERT_TRUE(found == 1'000 || found == 2'000 || found == -1) << i;
        }
    Memory::bytes.fill(0);
    EXPECT_EQ(load(found), StoredState::damaged);
    EXPECT_EQ(found, -1);

    Memory::bytes = whole;
    Longer longer;
    EXPECT_EQ((Stored<Longer, Memory, 5>().load(longer)), StoredState::other_version);
    EXPECT_FALSE(longer.is_set());
}

TEST_F(Storing, a_byte_that_is_right_already_is_not_written_again) {
    save(1'000);
    save(1'000);
    Memory::writes = 0;
    save(1'000);
    // Mark twice, order, and both bytes of the sum.
    EXPECT_LE(Memory::writes, 5);
}

} // namespace
