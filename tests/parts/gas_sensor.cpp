// SPDX-License-Identifier: MIT
// gas_sensor: formula and range, what its room delivers, and its faults.
#include "tests/parts/part.hpp"

namespace {

using namespace parts;

const char* const plain_gas_sensor =
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

TEST(GasSensor, what_its_room_delivers_is_read_back) {
    expect_read_back(plain_gas_sensor, {50}, 1.2);
}

TEST(GasSensor, each_fault_is_told_by_its_own_health) {
    expect_faults(plain_gas_sensor, {50},
                  {{Fault::open, Health::open_circuit},
                   {Fault::shorted, Health::short_circuit},
                   {Fault::swapped, Health::short_circuit}});
}

const Cost gas_costs{bank::gas, "gas sensor", 2500};
const Cost gas_in_climate_costs{bank::gas_in_climate, "gas sensor in a climate", 2500};

double ppm_of(double c, double factor) {
    const double rs = 10'000 / ratio(c) / factor;
    return 10 * std::pow(rs / 30'000 / 2.6, std::log(20.0) / std::log(0.7 / 2.6));
}

const Accuracy gas_sensor_accuracy{
    bank::gas, "gas sensor", "0.5 to 500 ppm", 1, "%", 3, [] {
        Worst gas_worst;
        bank::on_desk({bank::gas, 0, 500, 0, 0}); // it warms up
        for (uint32_t code = 0; code < 1024; ++code) {
            const bank::Out out = bank::on_desk({bank::gas, 10'000, code, 0, 0});
            const double exact = ppm_of(code, 1);
            if (out.health == 0)
                gas_worst.see(out.value / 1000.0, exact, 100 / exact,
                              [&] { return fmt::format("code {}, {:.2f} ppm", code, exact); });
        }
        return gas_worst;
    }};
const Accuracy corrected_exact{
    bank::gas_in_climate, "gas sensor, corrected for the climate", "0.5 to 500 ppm", 1, "%", 3, [] {
        Worst climate_worst;
        for (uint32_t code = 0; code < 1024; ++code) {
            for (int32_t t = -10'000; t <= 50'000; t += 3001)
                for (int32_t h = 33'000; h <= 85'000; h += 2003) {
                    const bank::Out corrected =
                        bank::on_desk({bank::gas_in_climate, 10'000, code, t, h});
                    const double factors[3][2] = {{1.7, 1.5}, {1.0, 0.9}, {0.8, 0.7}};
                    const int i = t >= 20'000;
                    const double along = (t / 1000.0 - (i ? 20 : -10)) / 30;
                    const double across = (h / 1000.0 - 33) / 52;
                    const auto at_row = [&](int r) {
                        return std::log(factors[r][0]) +
                               across * (std::log(factors[r][1]) - std::log(factors[r][0]));
                    };
                    const double value =
                        ppm_of(code, std::exp(at_row(i) + along * (at_row(i + 1) - at_row(i))));
                    if (corrected.health == 0)
                        climate_worst.see(corrected.value / 1000.0, value, 100 / value, [&] {
                            return fmt::format("code {}, {:g} degC, {:g} %RH", code, t / 1000.0,
                                               h / 1000.0);
                        });
                }
        }
        return climate_worst;
    }};

const CppMistakes gas_sensor_mistakes{
    {"constexpr auto p = gas_sensor(gas_point(10_ppm, 1_times), gas_point(20_ppm, 2_times))"
     ".pull_down(10_kohm); GasSensor<p> t(30_kohm);",
     "that fall together"},
    {"constexpr auto p = gas_sensor(gas_point(10_ppm, 2_times), gas_point(20_ppm, 1_times))"
     ".pull_up(10_kohm); GasSensor<p> t(30_kohm);",
     "from the pin to ground"}};

} // namespace
