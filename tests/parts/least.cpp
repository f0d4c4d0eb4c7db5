// SPDX-License-Identifier: MIT
// least: of two, over their whole range.
#include "tests/parts/derived.hpp"

#include <gtest/gtest.h>

namespace {

using namespace parts;

TEST(Least, is_the_lower_of_two) {
    expect_derived("least", [](double a, double b) { return std::min(a, b); });
}

} // namespace
