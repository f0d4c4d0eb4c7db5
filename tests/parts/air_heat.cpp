// SPDX-License-Identifier: MIT
// air_heat: how exact it is.
#include "tests/parts/promises.hpp"

#include <gtest/gtest.h>
#include <zorilla/zorilla.hpp>

#include <cmath>
#include <random>

namespace {

using namespace parts;

const Cost air_heat__costs{bank::air_heat_, "heat of an air stream", 400};

const Accuracy air_heat_accuracy{
    bank::air_heat_,
    "heat of an air stream, from 1 W up",
    "1 to 2,000 m3/h, -60 to 60 K",
    0.2,
    "%",
    4,
    [] {
        Worst heat;
        for (uint32_t flow = 1000; flow < 2'000'000; flow += flow / 31)
            for (int32_t by = -60'000; by <= 60'000; by += 223) {
                const bank::Out out = bank::on_desk({bank::air_heat_, 0, flow, by, 0});
                const double exact = flow / 1000.0 * by / 1000.0 * 0.33648;
                if (out.health == 0 && std::fabs(exact) > 1)
                    heat.see(out.value / 1000.0, exact, 100 / std::fabs(exact), [&] {
                        return fmt::format("{:g} m3/h, {:g} K", flow / 1000.0, by / 1000.0);
                    });
            }
        return heat;
    }};

} // namespace
