// SPDX-License-Identifier: MIT
// photoresistor: formula and range, what its room delivers, and its faults.
#include "tests/parts/part.hpp"

namespace {

using namespace parts;

const char* const plain_photoresistor =
    "part = \"photoresistor\"\nresistance = \"10 kohm\"\nat_light = \"10 lx\"\ngamma = "
    "0.7\npull_down = \"10 kohm\"\nrange = [\"1 lx\", \"200 lx\"]\n";

TEST(Photoresistor, of_any_numbers_reads_what_its_formula_says) {
    try_parts(31, [](Random& random) {
        const double ohms = random.spread(2000, 50'000), gamma = random.whole(500, 1000) / 1000.0;
        const auto exact = rig::photoresistor_ohms(ohms, 10, gamma);
        const double low = random.whole(1, 50), high = low * random.whole(5, 40);
        const DividerModel divider = any_divider(random, exact(std::sqrt(low * high)));
        return AnyPart{fmt::format("part = \"photoresistor\"\nresistance = \"{} ohm\"\nat_light = "
                                   "\"10 lx\"\ngamma = {}\n",
                                   ohms, gamma) +
                           divider_keys(divider) + range_keys(low, high, "lx"),
                       divider.model(exact, random.whole(10, 16)),
                       low,
                       high,
                       0,
                       0.01};
    });
}

TEST(Photoresistor, what_its_room_delivers_is_read_back) {
    expect_read_back(plain_photoresistor, {20}, 0.5);
}

TEST(Photoresistor, each_fault_is_told_by_its_own_health) {
    expect_faults(plain_photoresistor, {20},
                  {{Fault::open, Health::open_circuit},
                   {Fault::shorted, Health::short_circuit},
                   {Fault::swapped, Health::short_circuit}});
}

const Cost photoresistor__costs{bank::photoresistor_, "photoresistor, power law", 2500};

const Accuracy photoresistor_accuracy{bank::photoresistor_,
                                      "photoresistor, power law",
                                      "0.5 to 2,000 lx",
                                      1,
                                      "%",
                                      3,
                                      every_code(
                                          bank::photoresistor_,
                                          [](double c) { return 10 * std::pow(ratio(c), 1 / 0.7); },
                                          true, "lx")};

const CppMistakes photoresistor_mistakes{
    {"constexpr auto p = photoresistor(10_kohm, 10_lx, 7_times).pull_down(10_kohm); "
     "Photoresistor<p> t;",
     "gamma must lie between"}};

} // namespace
