// SPDX-License-Identifier: MIT
// rate: over its window.
#include "tests/parts/derived.hpp"
#include "tests/parts/promises.hpp"

#include <gtest/gtest.h>
#include <zorilla/zorilla.hpp>

#include <cmath>
#include <random>

namespace {

using namespace parts;

TEST(RateOfChange, is_that_of_its_window_and_missing_before) {
    RateOfChange<Temperature> rate(80_s);
    for (uint32_t s = 0; s <= 200; ++s) {
        const auto out = rate.pass(Instant(0xffff'0000 + s * 1000),
                                   at(Temperature::from_thousandths(static_cast<int32_t>(50 * s))));
        if (s < 60) {
            ASSERT_EQ(out.health(), Health::missing) << s;
        } else {
            ASSERT_NEAR(out.value_or({}).thousandths(), 3000, 3) << s << ": 3 K a minute";
        }
    }
}

const Cost rate_of_change_costs{bank::rate_of_change, "rate of change", 0};

} // namespace
