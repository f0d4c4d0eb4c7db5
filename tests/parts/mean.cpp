// SPDX-License-Identifier: MIT
// mean: and its brothers: exact, and with rules for lost ones.
#include "tests/parts/derived.hpp"
#include "tests/parts/promises.hpp"

#include <gtest/gtest.h>
#include <zorilla/zorilla.hpp>

#include <cmath>
#include <random>

namespace {

using namespace parts;

TEST(Several, mean_is_exact_and_health_rules_hold) {
    std::mt19937 random(8);
    for (int i = 0; i < 50'000; ++i) {
        Reading<Temperature> list[16];
        const auto count = static_cast<uint8_t>(1 + random() % 16);
        int64_t sum = 0;
        uint8_t healthy = 0;
        int32_t low = INT32_MAX, high = INT32_MIN;
        for (uint8_t k = 0; k < count; ++k) {
            const auto value = static_cast<int32_t>(random()) >> random() % 30;
            list[k] = random() % 5 == 0 ? broken : at(Temperature::from_thousandths(value));
            if (!list[k].ok())
                continue;
            sum += value;
            ++healthy;
            low = std::min(low, value);
            high = std::max(high, value);
        }
        const auto needed = static_cast<uint8_t>(1 + random() % count);
        const auto out = mean(list, count, needed);
        ASSERT_EQ(out.ok(), healthy >= needed);
        if (!out.ok()) {
            ASSERT_EQ(out.health(), Health::open_circuit);
            continue;
        }
        ASSERT_NEAR(out.value_or({}).thousandths(), static_cast<double>(sum) / healthy, 0.5001);
        ASSERT_EQ(least(list, count, needed).value_or({}).thousandths(), low);
        ASSERT_EQ(most(list, count, needed).value_or({}).thousandths(), high);
    }
}

const Cost mean_of_four_costs{bank::mean_of_four, "mean of four", 400};
const Cost smoothing_costs{bank::smoothing, "smoothing, even passes", 420};

} // namespace
