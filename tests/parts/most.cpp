// SPDX-License-Identifier: MIT
// most: of two, over their whole range.
#include "tests/parts/derived.hpp"

#include <gtest/gtest.h>

namespace {

using namespace parts;

TEST(Most, is_the_higher_of_two) {
    expect_derived("most", [](double a, double b) { return std::max(a, b); });
}

} // namespace
