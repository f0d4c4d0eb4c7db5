// SPDX-License-Identifier: MIT
// phototransistor: formula and range, what its room delivers, and its faults.
#include "tests/parts/part.hpp"

namespace {

using namespace parts;

const char* const plain_phototransistor =
    "part = \"phototransistor\"\nsensitivity = \"500 nA/lx\"\nreference = \"5 V\"\n"
    "load_to_ground = \"10 kohm\"\nrange = [\"20 lx\", \"900 lx\"]\n";

TEST(Phototransistor, of_any_numbers_reads_what_its_formula_says) {
    try_parts(37, [](Random& random) {
        const int sensitivity = random.whole(50, 5000), load = random.whole(1000, 100'000);
        const int reference = random.whole(1100, 5000);
        const double full = reference / 1000.0 / (sensitivity * 1e-9 * load);
        const double low = full * 0.05, high = full * 0.9;
        const bool to_ground = random.whole(0, 1) == 0;
        return AnyPart{
            fmt::format("part = \"phototransistor\"\nsensitivity = \"{} nA/lx\"\nreference = "
                        "\"{} mV\"\nload_to_{} = \"{} ohm\"\n{}",
                        sensitivity, reference, to_ground ? "ground" : "supply", load,
                        range_keys(low, high, "lx")),
            rig::phototransistor_model(sensitivity * 1e-9, load, to_ground, reference / 1000.0,
                                       random.whole(9, 16)),
            low,
            high,
            0.001,
            0.001};
    });
}

TEST(Phototransistor, what_its_room_delivers_is_read_back) {
    expect_read_back(plain_phototransistor, {400}, 1.1);
}

TEST(Phototransistor, each_fault_is_told_by_its_own_health) {
    expect_faults(plain_phototransistor, {400},
                  {{Fault::open, Health::open_circuit},
                   {Fault::shorted, Health::short_circuit},
                   {Fault::swapped, Health::short_circuit}});
}

const Cost phototransistor__costs{bank::phototransistor_, "phototransistor", 400};

const Accuracy phototransistor_accuracy{
    bank::phototransistor_,
    "phototransistor",
    "10 to 950 lx",
    1,
    "%",
    4,
    every_code(
        bank::phototransistor_, [](double c) { return c * 5 / 1024 / (500e-9 * 10'000); }, true,
        "lx")};

const CppMistakes phototransistor_mistakes{
    {"constexpr auto p = phototransistor(500_nA_per_lx).reference(5_V); Phototransistor<p> t;",
     "say where the load"}};

} // namespace
