// SPDX-License-Identifier: MIT
// percent: formula and range, what its room delivers, and its faults.
#include "tests/parts/part.hpp"

namespace {

using namespace parts;

const char* const plain_percent = "part = \"percent\"\ncode_at_0 = 100\ncode_at_100 = 900\n";

TEST(Percent, of_any_numbers_reads_what_its_formula_says) {
    try_parts(41, [](Random& random) {
        const int bits = random.whole(10, 14), full = 1 << bits;
        const int a = random.whole(full / 50, full * 9 / 10),
                  b = random.whole(full / 50, full * 9 / 10);
        if (std::abs(a - b) < full / 8)
            return AnyPart{"", {}, 0, 0, 0, 0};
        return AnyPart{fmt::format("part = \"percent\"\ncode_at_0 = {}\ncode_at_100 = {}\n", a, b),
                       rig::points_model({{a, 0}, {b, 100}}, bits),
                       0,
                       100,
                       0.01,
                       0};
    });
}

// Code 186 of 60 to 900 is 15 % and nothing else: it is not below 15 %, and is not told as 14.999.
TEST(Percent, that_is_exact_is_read_and_judged_so) {
    constexpr int whole[][3] = {{60, 900, 186}, {60, 900, 480}, {900, 60, 774}, {100, 612, 356}};
    for (const auto& [none, all, code] : whole) {
        const int percent = 100 * (code - none) / (all - none);
        const rig::RigFile file = rig::parse_rig(fmt::format(
            "[board]\nchip = \"other\"\nadc_bits = 10\n[sense.yard]\npart = \"percent\"\npin = "
            "\"A0\"\ncode_at_0 = {}\ncode_at_100 = {}\n[decide.dark]\nof = \"yard\"\nbelow = \"{} "
            "%\"\nrelease = \"{} %\"\n",
            none, all, percent, percent + 5));
        ASSERT_TRUE(file.mistakes.empty()) << file.mistakes.front().text;
        for (const int beside : {0, all > none ? -1 : 1}) {
            rig::RunningRig running(file.rig);
            const rig::Raw raw(int64_t{code + beside});
            running.pass(Instant(1000), &raw);
            const int32_t value = running.readings()[0].value_or({}).thousandths();
            EXPECT_EQ(value == 1000 * percent, beside == 0) << value;
            EXPECT_EQ(running.truths()[0] == Truth::yes, beside != 0) << code + beside;
        }
    }
}

TEST(Percent, what_its_room_delivers_is_read_back) { expect_read_back(plain_percent, {40}, 0.2); }

TEST(Percent, each_fault_is_told_by_its_own_health) {
    expect_faults(plain_percent, {40},
                  {{Fault::open, Health::open_circuit},
                   {Fault::shorted, Health::short_circuit},
                   {Fault::swapped, Health::open_circuit}});
}

const Cost percent_costs{bank::percent, "percent between two codes", 400};

const Accuracy percent_accuracy{
    bank::percent,
    "percent between two codes",
    "0 to 100 %",
    0.01,
    "%",
    4,
    every_code(
        bank::percent, [](double c) { return std::clamp((c - 60) * 100 / (910 - 60), 0.0, 100.0); },
        false, "%")};

const CppMistakes percent_mistakes{
    {"constexpr auto p = percent_between(500, 505); Share<p> t;", "at least 10 apart"},
    {"constexpr auto p = percent_between(1, 900); Share<p> t;", "broken or shorted wire"},
    {"constexpr auto p = percent_between(1, 900).without_wire_check(); Share<p> t;", ""}};

} // namespace
