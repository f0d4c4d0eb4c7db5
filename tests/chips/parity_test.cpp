// SPDX-License-Identifier: MIT
// What was tried on the desk is what the chip does: bit for bit.
#include "tests/chips/bank.hpp"
#include "tests/chips/device_runs.hpp"
#include "tests/chips/feed.hpp"
#include "tests/chips/passes.hpp"

#include <gtest/gtest.h>

#include <cstdlib>

#include <map>

namespace {

using chips::Bytes;
using chips::Fed;

/// What is fed, and what the desk makes of it; made once.
struct Desk {
    explicit Desk(Fed inputs) : fed(std::move(inputs)), out(chips::run_on_desk(fed)) {}
    void expect_same(const Bytes& other) const {
        ASSERT_EQ(other.size(), fed.count() * fed.out_size);
        const long different = chips::first_difference(fed, out, other);
        EXPECT_EQ(different, -1) << "of conversion "
                                 << int{fed.inputs[static_cast<size_t>(different) * fed.in_size]};
    }
    Fed fed;
    Bytes out;
};

const Desk& heat_lamp() {
    static const Desk desk(chips::heat_lamp_passes());
    return desk;
}
const Desk& conversions() {
    static const Desk desk(chips::conversions());
    return desk;
}

TEST(HeatLamp, compared_passes_are_many_and_see_every_kind_of_outcome) {
    const Bytes& desk = heat_lamp().out;
    EXPECT_GE(heat_lamp().fed.count(), 51'840u + 1024u + 20'000u);
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

TEST(HeatLamp, its_rig_file_does_what_the_cpp_device_does) {
    heat_lamp().expect_same(chips::run_from_rig_file(heat_lamp().fed));
}

TEST(HeatLamp, every_chip_does_what_the_desk_does) {
    heat_lamp().expect_same(chips::run_on_atmega328p(heat_lamp().fed));
    heat_lamp().expect_same(chips::run_on_cortex(heat_lamp().fed, "m0"));
    if (std::getenv("ZORILLA_DEEP") != nullptr)
        heat_lamp().expect_same(chips::run_on_cortex(heat_lamp().fed, "m3"));
}

TEST(Conversions, compared_inputs_are_many_and_bring_both_values_and_faults) {
    const Desk& desk = conversions();
    std::map<int, std::map<int, int>> seen; // for each conversion, how often each health
    for (size_t i = 0; i < desk.fed.count(); ++i)
        ++seen[desk.fed.inputs[i * bank::in_size]][desk.out[i * bank::out_size + 4]];
    ASSERT_EQ(seen.size(), size_t{bank::count});
    for (const auto& [which, healths] : seen) {
        int all = 0;
        for (const auto& [health, times] : healths)
            all += times;
        EXPECT_GE(all, 1025) << which;
        EXPECT_GE(healths.at(0), 100) << "conversion " << which << " is hardly ever healthy";
        EXPECT_GE(healths.size(), 2u) << "conversion " << which << " is never anything else";
    }
}

TEST(Conversions, the_atmega328p_does_what_the_desk_does) {
    conversions().expect_same(chips::run_on_atmega328p(conversions().fed));
}

TEST(Conversions, the_cortex_m0_does_what_the_desk_does) {
    conversions().expect_same(chips::run_on_cortex(conversions().fed, "m0"));
}

TEST(Conversions, the_cortex_m3_does_what_the_desk_does) {
    if (std::getenv("ZORILLA_DEEP") == nullptr)
        GTEST_SKIP() << "./dev test deep";
    conversions().expect_same(chips::run_on_cortex(conversions().fed, "m3"));
}

/// Each device on its whole trace, and on random steps: in a deep test a hundred thousand.
class Devices : public testing::TestWithParam<size_t> {
  protected:
    Bytes on(const Fed& fed, const std::string& chip) const {
        return chip == "ATmega328P" ? chips::run_on_atmega328p(fed)
                                    : chips::run_on_cortex(fed, chip == "Cortex-M0" ? "m0" : "m3");
    }
};

TEST_P(Devices, every_chip_does_what_the_desk_does) {
    const chips::ExampleDevice& device = chips::example_devices()[GetParam()];
    const zorilla::rig::Rig rig = chips::rig_of(device);
    const int steps = std::getenv("ZORILLA_DEEP") != nullptr ? 100'000 : 12'000;
    for (const Fed& fed : {chips::trace_of(device, rig), chips::random_steps(device, rig, steps)}) {
        const Bytes desk = device.run(fed);
        for (const char* chip : {"ATmega328P", "Cortex-M0", "Cortex-M3"}) {
            // Two chips each time, all of them in a deep test.
            if (std::getenv("ZORILLA_DEEP") == nullptr && chip == std::string_view("Cortex-M3"))
                continue;
            const Bytes out = on(fed, chip);
            ASSERT_EQ(out.size(), desk.size()) << device.name << " on " << chip;
            EXPECT_EQ(chips::first_difference(fed, desk, out), -1) << device.name << " on " << chip;
        }
    }
}

INSTANTIATE_TEST_SUITE_P(, Devices, testing::Range<size_t>(0, 8), [](const auto& device) {
    return chips::example_devices()[device.param].name;
});

TEST(Comparison, finds_a_single_different_bit) {
    const Desk& desk = heat_lamp();
    Bytes other = desk.out;
    other[5 * feed::pass_out_size + 2] ^= 1;
    EXPECT_EQ(chips::first_difference(desk.fed, desk.out, other), 5);
    other.resize(8 * feed::pass_out_size);
    other[5 * feed::pass_out_size + 2] ^= 1;
    EXPECT_EQ(chips::first_difference(desk.fed, desk.out, other), 8);
}

} // namespace
