// SPDX-License-Identifier: MIT
// ranger: formula and range, what its room delivers, and its faults.
#include "tests/parts/part.hpp"

namespace {

using namespace parts;

const char* const plain_ranger =
    "part = \"ranger\"\nblind = \"20 mm\"\nfar = \"4 m\"\ntemperature = \"30 degC\"\n";

TEST(Ranger, reads_in_any_air) {
    Random random(59);
    rig::Noise quiet(1);
    for (int i = 0; i < 60; ++i) {
        const int celsius = random.whole(-40, 85);
        Alone sensor(fmt::format("part = \"ranger\"\nblind = \"20 mm\"\nfar = \"4 m\"\n"
                                 "temperature = \"{} degC\"\n",
                                 celsius));
        ASSERT_TRUE(sensor.usable()) << sensor.problems();
        for (int k = 0; k < 60; ++k) {
            const double mm = random.between(21, 3999);
            const Raw raw = rig::EchoModel{}.at(mm, celsius, quiet);
            // The pulse is whole microseconds: 0.1 mm, and half of that rounding.
            ASSERT_NEAR(value_of(sensor.read(raw)), mm, 0.1 + 0.096) << celsius;
        }
    }
}

TEST(Ranger, what_its_room_delivers_is_read_back) { expect_read_back(plain_ranger, {1234}, 0.3); }

TEST(Ranger, each_fault_is_told_by_its_own_health) {
    expect_faults(plain_ranger, {1234},
                  {{Fault::open, Health::no_echo},
                   {Fault::shorted, Health::no_echo},
                   {Fault::swapped, Health::no_echo},
                   {Fault::ringing, Health::too_near}});
}

const Cost ranger__costs{bank::ranger_, "ultrasonic ranger", 400};

const Accuracy ranger_accuracy{
    bank::ranger_, "ultrasonic distance", "20 to 4,000 mm, -40 to 85 degC", 0.1, "mm", 4, [] {
        Worst distance;
        for (uint32_t us = 100; us < 27'000; us += 7)
            for (int32_t t = -40'000; t <= 85'000; t += 307) {
                const bank::Out out = bank::on_desk({bank::ranger_, 0, us, t, 0});
                const double exact = us * rig::speed_of_sound(t / 1000.0) / 2000;
                if (out.health == 0)
                    distance.see(out.value / 1000.0, exact, 1,
                                 [&] { return fmt::format("{} us, {:g} degC", us, t / 1000.0); });
            }
        return distance;
    }};

const CppMistakes ranger_mistakes{
    {"constexpr auto p = ranger(20_mm, 9_m); Ranger<p> t;", "within 6 m"},
    {"constexpr auto p = ranger(20_mm, 4_m).silent_from(10_ms); Ranger<p> t;",
     "longer than an echo from the far limit"}};

} // namespace
