// SPDX-License-Identifier: MIT
// heat_index: how exact it is.
#include "tests/parts/promises.hpp"

#include <gtest/gtest.h>
#include <zorilla/zorilla.hpp>

#include <cmath>
#include <random>

namespace {

using namespace parts;

const Cost heat_index__costs{bank::heat_index_, "heat index", 2500};

/// In degF, of degF.
double heat_index_of(double t, double r) {
    const double rough = 0.5 * (t + 61 + (t - 68) * 1.2 + r * 0.094);
    if ((rough + t) / 2 < 80)
        return (rough + t) / 2;
    double out = -42.379 + 2.04901523 * t + 10.14333127 * r - 0.22475541 * t * r -
                 0.00683783 * t * t - 0.05481717 * r * r + 0.00122874 * t * t * r +
                 0.00085282 * t * r * r - 0.00000199 * t * t * r * r;
    if (r < 13 && t >= 80 && t <= 112)
        out -= (13 - r) / 4 * std::sqrt((17 - std::fabs(t - 95)) / 17);
    else if (r > 85 && t >= 80 && t <= 87)
        out += (r - 85) / 10 * ((87 - t) / 5);
    return out;
}

double to_fahrenheit(double celsius) { return celsius * 1.8 + 32; }

const Accuracy heat_index_accuracy{
    bank::heat_index_, "heat index", "0 to 45 degC, 0 to 100 %RH", 0.3, "degF", 3, [] {
        return over_air(
            bank::heat_index_, 0, 45'000, 0,
            [](double t, double h) { return heat_index_of(to_fahrenheit(t), h); }, to_fahrenheit);
    }};

} // namespace
