// SPDX-License-Identifier: MIT
// gas_sensor: formula and range, what its room delivers, and its faults.
#include "tests/parts/part.hpp"

namespace {

using namespace parts;

const char* const plain =
    "part = \"gas_sensor\"\npoints = [[\"10 ppm\", 2.6], [\"200 ppm\", 0.7]]\npull_down = "
    "\"10 "
    "kohm\"\nzero = \"30 kohm\"\nwarm_up = \"1 ms\"\n";

TEST(GasSensor, of_any_numbers_reads_what_its_formula_says) {
    Random random(53);
    rig::Noise quiet(1);
    int values = 0;
    for (int i = 0; i < 300; ++i) {
        const double low = random.whole(5, 50), high = low * random.whole(4, 30);
        const double a = random.whole(1500, 5000) / 1000.0, b = random.whole(300, 1000) / 1000.0;
        const int zero = random.whole(5, 60) * 1000;
        const auto ohms = rig::gas_ohms(zero, {low, a}, {high, b});
        const DividerModel divider{std::round(zero * std::sqrt(a * b)), false};
        const auto model = divider.model(ohms, 16);
        Alone sensor(
            fmt::format("part = \"gas_sensor\"\npoints = [[\"{} ppm\", {}], [\"{} ppm\", {}]]\n"
                        "pull_down = \"{} ohm\"\nzero = \"{} ohm\"\nwarm_up = \"0 s\"\n",
                        low, a, high, b, divider.pull, zero),
            16);
        if (!sensor.usable())
            continue;
        for (int k = 0; k < 30; ++k, ++values) {
            const double ppm = random.between(low, high * 0.98);
            ASSERT_NEAR(value_of(sensor.read(model.at(ppm, quiet))), ppm, ppm * 0.01 + 0.001)
                << low << " " << a << " " << high << " " << b;
        }
    }
    EXPECT_GE(values, 3000);
}

TEST(GasSensor, what_its_room_delivers_is_read_back) { expect_read_back(plain, {50}, 1.2); }

TEST(GasSensor, each_fault_is_told_by_its_own_health) {
    expect_faults(plain, {50},
                  {{Fault::open, Health::open_circuit},
                   {Fault::shorted, Health::short_circuit},
                   {Fault::swapped, Health::short_circuit}});
}

} // namespace
