// SPDX-License-Identifier: MIT
// linear_chip: formula and range, what its room delivers, and its faults.
#include "tests/parts/part.hpp"

namespace {

using namespace parts;

const char* const plain_linear_chip =
    "part = \"linear_chip\"\nslope = \"10 mV/K\"\nat_zero = \"500 mV\"\nreference = \"5 V\"\n";

TEST(LinearChip, of_any_numbers_reads_what_its_formula_says) {
    try_parts(23, [](Random& random) {
        const int slope =
            random.whole(0, 1) == 0 ? random.whole(1000, 30'000) : -random.whole(1000, 30'000);
        const int at_zero = random.whole(-500, 3000), reference = random.whole(1000, 5000);
        const double low = random.whole(-40, 50), high = low + random.whole(10, 100);
        return AnyPart{
            fmt::format("part = \"linear_chip\"\nslope = \"{} mV/K\"\nat_zero = \"{} mV\"\n"
                        "reference = \"{} mV\"\n{}",
                        slope / 1000.0, at_zero, reference, range_keys(low, high, "degC")),
            rig::linear_chip_model(slope / 1e6, at_zero / 1000.0, reference / 1000.0,
                                   random.whole(8, 16)),
            low,
            high,
            0.01,
            0};
    });
}

TEST(LinearChip, what_its_room_delivers_is_read_back) {
    expect_read_back(plain_linear_chip, {21.5}, 0.3);
}

TEST(LinearChip, each_fault_is_told_by_its_own_health) {
    expect_faults(plain_linear_chip, {21.5},
                  {{Fault::open, Health::open_circuit},
                   {Fault::shorted, Health::short_circuit},
                   {Fault::swapped, Health::open_circuit}});
}

const Cost linear_chip__costs{bank::linear_chip_, "linear chip", 400};

const Accuracy linear_chip_accuracy{
    bank::linear_chip_,
    "linear temperature chip",
    "-40 to 125 degC",
    0.01,
    "degC",
    4,
    every_code(
        bank::linear_chip_, [](double c) { return (c * 3.3 / 1024 - 0.5) / 0.01; }, false, "degC")};

const CppMistakes linear_chip_mistakes{
    {"constexpr auto c = linear_chip(10_mV_per_K, 500_mV).reference(5_V); LinearChip<c> t;", ""},
    {"constexpr auto c = linear_chip(10_mV_per_K, 500_mV); LinearChip<c> t;",
     "say against which voltage"},
    {"constexpr auto c = linear_chip(1_mV_per_K, 500_mV).reference(5_V).range(0_degC, 20_degC);"
     "LinearChip<c> t;",
     "the range covers fewer than 10 codes"}};

} // namespace
