// SPDX-License-Identifier: MIT
// The examples as a reader runs them.
#include "tests/chips/device_runs.hpp"
#include "tests/desk/process.hpp"

#include <gtest/gtest.h>

#include <set>

namespace {

using namespace zorilla;

TEST(Examples, each_does_what_its_first_lines_say) {
    const struct {
        const char* name;
        std::vector<const char*> lines;
    } examples[] = {
        {"proofing_box",
         {"dough 25.841 degC, mat on\n", "dough 28.235 degC, mat off\n",
          "dough open circuit, mat off\n"}},
        {"aquarium_light",
         {" 61 s: room 111.067 lx, lamp no, water 39.063 lx\n",
          "240 s: room 6.959 lx, lamp yes, water 625.000 lx\n"}},
        {"rain_barrel",
         {"to the water 403.338 mm, nearly full no\n", "to the water 144.530 mm, nearly full yes\n",
          "to the water too near, nearly full unknown\n", "to the water no echo"}},
        {"dew_heater",
         {"dew point 2.944 degC, lens above it 5.672 K, heat no\n",
          "dew point -12.718 degC, lens above it -1.891 K, heat yes\n",
          "dew point missing, lens above it missing, heat unknown\n"}},
        {"cheese_cellar",
         {"air 12.500 degC, humidity 82.233 %RH, water 9.023 g/m3, heat carried out "
          "177.440 W\n",
          "humidity short circuit, water short circuit"}},
        {"fume_hood",
         {"not steady yet", "R0 29.918 kohm\n", "  0 s: fumes warming up, fan unknown\n",
          "400 s: fumes 36.572 ppm, fan yes\n", "1000 s: fumes 5.788 ppm, fan no\n"}},
        {"worm_bin",
         {"moisture 78.049 %, dry no\n", "moisture 29.268 %, dry yes\n",
          "moisture open circuit, dry unknown\n", "powered for 9 of 401 passes\n"}},
        {"bilge_pump",
         {"a splash    pump off\n", "wet         pump on\n", "in between  pump on\n",
          "still open  pump off\n", "shut again  pump on\n"}},
        {"wind_gauge",
         {" 4.9 s: now 75.002 rpm, over 5 s missing\n",
          "19.9 s: now 600.016 rpm, over 5 s 600.000 rpm\n",
          "29.9 s: now 0.000 rpm, over 5 s 0.000 rpm\n"}},
        {"pellet_feeder",
         {" 2.1 s: feeding forward\n", " 8.2 s: feeding back\n", "12.2 s: feeding forward\n",
          ": jammed  still\n", "80.1 s: idle    still\n"}},
        {"feed_silo",
         {"feed 288.800 mm, going -5.400 mm/min\n", "feed open circuit, going open circuit\n"}},
    };
    for (const auto& example : examples) {
        const desk::Outcome run =
            desk::shell(fmt::format("{}/examples/{}", ZORILLA_BINARY, example.name));
        EXPECT_EQ(run.status, 0) << example.name;
        for (const char* line : example.lines)
            EXPECT_TRUE(desk::has(run.out, line)) << example.name << ": " << line << "\n"
                                                  << run.out;
    }
}

TEST(Examples, each_device_does_the_same_in_both_notations) {
    for (const chips::ExampleDevice& device : chips::example_devices()) {
        SCOPED_TRACE(device.name);
        const rig::Rig rig = chips::rig_of(device);
        const chips::Fed trace = chips::trace_of(device, rig);
        for (const chips::Fed& fed : {trace, chips::random_steps(device, rig, 20'000)}) {
            const chips::Bytes cpp = device.run(fed);
            ASSERT_EQ(cpp.size(), fed.count() * device.out_size);
            ASSERT_EQ(chips::first_difference(fed, cpp, chips::run_rig(fed, rig)), -1);
            // The same inputs, the same outputs: there is nothing that they depend on besides.
            ASSERT_EQ(device.run(fed), cpp);
            // Nothing stands still: each machine and output takes on at least two values.
            for (size_t byte = 0; byte < device.out_size; ++byte) {
                std::set<uint8_t> seen;
                for (size_t i = byte; i < cpp.size(); i += device.out_size)
                    seen.insert(cpp[i]);
                EXPECT_GE(seen.size(), 2u) << "byte " << byte;
            }
        }
        const desk::Outcome check = desk::zorilla(
            fmt::format("check " ZORILLA_SOURCE "/examples/{0}/{0}.toml", device.name));
        EXPECT_EQ(check.status, 0) << check.out << check.err;
        EXPECT_EQ(rig.nevers.empty(), !desk::has(check.out, ": proved")) << check.out;
        const std::string gallery = desk::read_all(ZORILLA_SOURCE "/docs/examples.md");
        for (const char* link :
             {"../examples/{0}/{0}.toml", "../examples/{0}/{0}.hpp", "(examples/{0}.png)"})
            EXPECT_TRUE(desk::has(gallery, fmt::format(fmt::runtime(link), device.name))) << link;
    }
}

} // namespace
