// SPDX-License-Identifier: MIT
// humidity_chip: formula and range, what its room delivers, and its faults.
#include "tests/parts/part.hpp"

namespace {

using namespace parts;

const char* const plain_humidity_chip =
    "part = \"humidity_chip\"\nslope = \"31 mV/%RH\"\nat_zero = \"800 mV\"\nreference = \"5 "
    "V\"\nloses = \"0.2 %/K\"\ntemperature = \"40 degC\"\n";

TEST(HumidityChip, reads_at_any_temperature) {
    Random random(47);
    rig::Noise quiet(1);
    for (int i = 0; i < 200; ++i) {
        const int slope = random.whole(20, 38), at_zero = random.whole(400, 900);
        const double loss = random.whole(-300, 300) / 1000.0, celsius = random.whole(-20, 60);
        const auto model =
            rig::humidity_chip_model(slope / 1000.0, at_zero / 1000.0, loss / 100, 5, 12, celsius);
        Alone sensor(
            fmt::format("part = \"humidity_chip\"\nslope = \"{} mV/%RH\"\nat_zero = \"{} mV\"\n"
                        "reference = \"5 V\"\nloses = \"{} %/K\"\ntemperature = \"{} degC\"\n"
                        "range = [\"-2 %RH\", \"100 %RH\"]\n",
                        slope, at_zero, loss, celsius),
            12);
        ASSERT_TRUE(sensor.usable()) << sensor.problems();
        for (int k = 0; k < 20; ++k) {
            const double percent = random.between(0, 90);
            const Raw raw = model.at(percent, quiet);
            const auto reading = sensor.read(raw);
            const double count = 5.0 / 4096 / (slope / 1000.0) * 1.2; // one code, at any loss
            ASSERT_TRUE(reading.ok());
            ASSERT_NEAR(value_of(reading), percent, 0.05 + count) << slope << " " << loss;
        }
    }
}

TEST(HumidityChip, what_its_room_delivers_is_read_back) {
    expect_read_back(plain_humidity_chip, {55}, 0.3);
}

TEST(HumidityChip, each_fault_is_told_by_its_own_health) {
    expect_faults(plain_humidity_chip, {55},
                  {{Fault::open, Health::open_circuit},
                   {Fault::shorted, Health::short_circuit},
                   {Fault::swapped, Health::open_circuit}});
}

const Cost humidity_chip__costs{bank::humidity_chip_, "analogue humidity", 400};

const Accuracy humidity_chip_accuracy{
    bank::humidity_chip_,
    "analogue humidity, compensated",
    "0 to 100 %RH, -40 to 85 degC",
    0.05,
    "%RH",
    4,
    [] {
        Worst humidity;
        for (uint32_t code = 0; code < 1024; ++code)
            for (int32_t t = -40'000; t <= 85'000; t += 97) {
                const bank::Out out = bank::on_desk({bank::humidity_chip_, 0, code, t, 0});
                const double exact =
                    (code * 5.0 / 1024 - 0.8) / 0.031 / (1 - 0.00216 * (t / 1000.0 - 25));
                if (out.health == 0)
                    humidity.see(out.value / 1000.0, std::clamp(exact, 0.0, 100.0), 1, [&] {
                        return fmt::format("code {}, {:g} degC", code, t / 1000.0);
                    });
            }
        return humidity;
    }};

const CppMistakes humidity_chip_mistakes{
    {"constexpr auto p = humidity_chip(31_mV_per_percent, 800_mV); HumidityChip<p> t;",
     "say against which voltage"}};

} // namespace
