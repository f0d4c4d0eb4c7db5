// SPDX-License-Identifier: MIT
/// \file
/// A heater with hysteresis and a body of one temperature: the textbook case, of which all is known
/// in closed form.
#pragma once

#include "bench/world/trying.hpp"
#include "rig/rig_file.hpp"

#include <fmt/format.h>
#include <gtest/gtest.h>

#include <cmath>
#include <random>
#include <string>

namespace world {

using namespace zorilla;

struct Thermostat {
    double capacity = 30'000; ///< J/K
    double loss = 8;          ///< W/K
    double power = 200;       ///< W
    double outside = -5;      ///< degC
    double low = 4, high = 6; ///< where it switches

    double time_constant() const { return capacity / loss; }
    /// From one switching on to the next, in s: both ways are exponentials.
    double period() const {
        const double hot = outside + power / loss;
        return time_constant() * (std::log((high - outside) / (low - outside)) +
                                  std::log((hot - low) / (hot - high)));
    }
    std::string rig(const std::string& more = "") const {
        return fmt::format("[board]\nchip = \"other\"\nadc_bits = 14\n[sense.roost]\npart = "
                           "\"thermistor\"\npin = \"A0\"\nnominal = \"10 kohm\"\nbeta = \"3950 "
                           "K\"\npull_up = \"10 kohm\"\nrange = [\"-20 degC\", \"60 "
                           "degC\"]\n[decide.cold]\nof = \"roost\"\nbelow = \"{:.3f} "
                           "degC\"\nrelease = \"{:.3f} degC\"\n[drive.heater]\npart = "
                           "\"relay\"\npin = \"P1\"\nactive = \"high\"\nsafe = \"off\"\nclaims = [ "
                           "{{ when = \"cold\", then = \"on\" }} ]\n{}",
                           low, high, more);
    }
    std::string world(double noise = 0) const {
        return fmt::format("[weather.outside]\ncoldest = \"{0:.3f} degC\"\nwarmest = \"{0:.3f} "
                           "degC\"\n[warmth.roost]\ncapacity = \"{1:.0f} J/K\"\nstart = \"{2:.3f} "
                           "degC\"\nloses = [ "
                           "{{ to = \"outside\", heat = \"{3:.3f} W/K\" }} ]\nwarmed = [ {{ by = "
                           "\"heater\", power "
                           "= \"{4:.1f} W\" }} ]\n[sees.roost]\nnoise = {5}\n",
                           outside, capacity, high, loss, power, noise);
    }

    template <class Random> static Thermostat any(Random& random) {
        const auto between = [&](double a, double b) {
            return std::uniform_real_distribution<double>(a, b)(random);
        };
        Thermostat out;
        out.capacity = std::round(between(5'000, 80'000));
        out.loss = std::round(between(2, 12) * 1000) / 1000;
        out.outside = std::round(between(-15, 0) * 1000) / 1000;
        out.low = std::round(between(2, 12) * 1000) / 1000;
        out.high = out.low + std::round(between(1, 5) * 1000) / 1000;
        const double needs = out.loss * (out.high - out.outside);
        out.power = std::round(needs * between(1.3, 4) * 10) / 10;
        return out;
    }
};

inline rig::Rig rig_of(const std::string& text) {
    rig::RigFile file = rig::parse_rig(text);
    EXPECT_TRUE(file.mistakes.empty()) << (file.mistakes.empty() ? "" : file.mistakes.front().text);
    return std::move(file.rig);
}
inline std::shared_ptr<const bench::World> world_of(const std::string& text) {
    bench::WorldFile file = bench::parse_world(text);
    EXPECT_TRUE(file.mistakes.empty()) << (file.mistakes.empty() ? "" : file.mistakes.front().text);
    return file.world;
}

} // namespace world
