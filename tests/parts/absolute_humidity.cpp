// SPDX-License-Identifier: MIT
// absolute_humidity: how exact it is.
#include "tests/parts/promises.hpp"

#include <gtest/gtest.h>
#include <zorilla/zorilla.hpp>

#include <cmath>
#include <random>

namespace {

using namespace parts;

const Cost absolute_humidity__costs{bank::absolute_humidity_, "absolute humidity", 400};

double vapour_of(double t, double h) {
    return 216.68 * h / 100 * 6.112 * std::exp(17.62 * t / (243.12 + t)) / (273.15 + t);
}

const Accuracy absolute_humidity_accuracy{
    bank::absolute_humidity_,
    "absolute humidity",
    "-40 to 60 degC, 0 to 100 %RH",
    0.03,
    "g/m3",
    4,
    [] { return over_air(bank::absolute_humidity_, -40'000, 60'000, 0, vapour_of); }};

} // namespace
