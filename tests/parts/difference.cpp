// SPDX-License-Identifier: MIT
// difference: of two, and what has none.
#include "tests/parts/derived.hpp"
#include "tests/parts/promises.hpp"

#include <gtest/gtest.h>

namespace {

using namespace parts;

TEST(Difference, is_that_of_the_two_values) {
    expect_derived("difference", [](double a, double b) { return a - b; });
}

const CppMistakes difference_mistakes{
    {"bool f(Reading<Temperature> a, Reading<Length> b) { return difference(a, b).ok(); }",
     "no match"}};

} // namespace
