// SPDX-License-Identifier: MIT
// ranger: formula and range, what its room delivers, and its faults.
#include "tests/parts/part.hpp"

namespace {

using namespace parts;

const char* const plain =
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

TEST(Ranger, what_its_room_delivers_is_read_back) { expect_read_back(plain, {1234}, 0.3); }

TEST(Ranger, each_fault_is_told_by_its_own_health) {
    expect_faults(plain, {1234},
                  {{Fault::open, Health::no_echo},
                   {Fault::shorted, Health::no_echo},
                   {Fault::swapped, Health::no_echo},
                   {Fault::ringing, Health::too_near}});
}

} // namespace
