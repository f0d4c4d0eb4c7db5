// SPDX-License-Identifier: MIT
// dew_point: how exact it is.
#include "tests/parts/promises.hpp"

#include <gtest/gtest.h>
#include <zorilla/zorilla.hpp>

#include <cmath>
#include <random>

namespace {

using namespace parts;

const Cost dew_point__costs{bank::dew_point_, "dew point", 2500};

double dew_point_of(double t, double h) {
    const double g = std::log(h / 100) + 17.62 * t / (243.12 + t);
    return 243.12 * g / (17.62 - g);
}

const Accuracy dew_point_accuracy{
    bank::dew_point_, "dew point", "-40 to 60 degC, 1 to 100 %RH", 0.1, "degC", 3, [] {
        return over_air(bank::dew_point_, -40'000, 60'000, 1000, dew_point_of);
    }};

} // namespace
