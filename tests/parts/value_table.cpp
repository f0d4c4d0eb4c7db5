// SPDX-License-Identifier: MIT
// value_table: formula and range, what its room delivers, and its faults.
#include "tests/parts/part.hpp"

namespace {

using namespace parts;

const char* const plain_value_table =
    "part = \"value_table\"\npoints = [[112, \"0 cm\"], [480, \"20 cm\"], [900, \"35 cm\"]]\n";

TEST(ValueTable, of_any_numbers_reads_what_its_formula_says) {
    try_parts(43, [](Random& random) {
        const int bits = random.whole(10, 14), full = 1 << bits;
        std::vector<std::pair<double, double>> points;
        const bool rises = random.whole(0, 1) == 0;
        double code = full / 20.0, value = random.whole(-100, 100);
        std::string keys = "part = \"value_table\"\npoints = [";
        for (int i = random.whole(2, 8); i > 0; --i) {
            points.emplace_back(std::round(code), std::round(value));
            keys += fmt::format("[{}, \"{} mm\"],", points.back().first, points.back().second);
            code += full / 10.0 * random.between(0.3, 1);
            value += random.whole(5, 400) * (rises ? 1 : -1);
        }
        const double first = points.front().second, last = points.back().second;
        return AnyPart{keys + "]\n",
                       rig::points_model(points, bits),
                       std::min(first, last),
                       std::max(first, last),
                       0.015,
                       0};
    });
}

TEST(ValueTable, what_its_room_delivers_is_read_back) {
    expect_read_back(plain_value_table, {250}, 0.4);
}

TEST(ValueTable, each_fault_is_told_by_its_own_health) {
    expect_faults(plain_value_table, {250},
                  {{Fault::open, Health::open_circuit},
                   {Fault::shorted, Health::short_circuit},
                   {Fault::swapped, Health::open_circuit}});
}

const Cost value_table__costs{bank::value_table_, "table of points", 400};

const Accuracy value_table_accuracy{bank::value_table_,
                                    "table of measured points",
                                    "0 to 350 mm",
                                    0.001,
                                    "mm",
                                    4,
                                    every_code(
                                        bank::value_table_,
                                        [](double c) {
                                            return c < 480   ? (c - 112) * 200 / 368
                                                   : c < 700 ? 200 + (c - 480) * 60 / 220
                                                             : 260 + (c - 700) * 90 / 200;
                                        },
                                        false, "mm")};

const CppMistakes value_table_mistakes{
    {"constexpr auto p = value_table(at(112, 0_cm), at(100, 20_cm)); ValueTable<p> t;",
     "go up in code"}};

} // namespace
