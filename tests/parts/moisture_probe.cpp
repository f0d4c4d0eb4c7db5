// SPDX-License-Identifier: MIT
// moisture_probe: formula and range, what its room delivers, and its faults.
#include "tests/parts/part.hpp"

namespace {

using namespace parts;

const char* const plain_moisture_probe =
    "part = \"moisture_probe\"\npower_pin = \"C\"\ndry = 620\nwet = 210\n";

TEST(MoistureProbe, what_its_room_delivers_is_read_back) {
    expect_read_back(plain_moisture_probe, {35}, 0.3);
}

TEST(MoistureProbe, each_fault_is_told_by_its_own_health) {
    expect_faults(std::string(plain_moisture_probe) + "every = \"1 s\"\nsettle = \"0 s\"\n", {35},
                  {{Fault::open, Health::open_circuit},
                   {Fault::shorted, Health::short_circuit},
                   {Fault::swapped, Health::open_circuit}});
}

const CppMistakes moisture_probe_mistakes{
    {"constexpr auto p = moisture_probe(620, 210).settle(2_min); MoistureProbe<p> t;",
     "between 0 and 1 min"}};

} // namespace
