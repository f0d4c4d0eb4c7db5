// SPDX-License-Identifier: MIT
// What comes by chance in a world has the figures that the file says: people, weather, damp air.
#include "bench/world/chance.hpp"
#include "tests/world/thermostat.hpp"

#include <cmath>

namespace {

using namespace world;
using bench::WorldLife;

double seen(const WorldLife& life, const std::string& name) {
    return life.value(*life.world().value(name));
}

/// How often somebody comes on each of so many days.
std::vector<int> visits_of(double times_a_day, uint64_t seed, int days) {
    const auto world =
        world_of(fmt::format("[people.visit]\ntimes_a_day = {}\nfor = \"20 s\"\n", times_a_day));
    WorldLife life(*world, seed, 0);
    std::vector<int> out(static_cast<size_t>(days));
    bool was = false;
    for (int day = 0; day < days; ++day)
        for (int pass = 0; pass < 8640; ++pass) {
            life.go_on(10'000);
            const bool is = seen(life, "visit") > 0;
            out[static_cast<size_t>(day)] += is && !was;
            was = is;
        }
    return out;
}

// Of independent events the variance of a count is its mean (Poisson).
TEST(Chance, of_people_is_as_uneven_as_independent_events_are) {
    for (const double often : {0.5, 6.0}) {
        double sum = 0, squares = 0;
        int n = 0;
        for (uint64_t seed = 1; seed <= 2; ++seed)
            for (const int count : visits_of(often, seed, 400)) {
                sum += count;
                squares += count * count;
                ++n;
            }
        const double mean = sum / n, variance = squares / n - mean * mean;
        EXPECT_NEAR(mean, often, 4 * std::sqrt(often / n)) << often;
        EXPECT_NEAR(variance / mean, 1, 0.2) << often;
    }
}

TEST(Chance, of_weather_deviates_and_remembers_as_the_file_says) {
    for (const double spell : {1.0, 3.0, 10.0}) {
        std::vector<double> noon;
        double variance = 0;
        for (uint64_t seed = 1; seed <= 12; ++seed)
            for (int day = 0; day < 400; ++day) {
                noon.push_back(bench::smooth_chance(seed, 7, day + 0.5, std::exp(-1 / spell)));
                variance += noon.back() * noon.back();
            }
        variance /= static_cast<double>(noon.size());
        // So many days are as good as this many independent ones.
        const double independent = static_cast<double>(noon.size()) / (2 * spell + 1);
        EXPECT_NEAR(std::sqrt(variance), 1, 2.5 / std::sqrt(2 * independent)) << spell;
        // In the middle between two days it is a mean of both, and so a little more alike.
        for (const size_t lag : {2U, 3U, 10U}) {
            double both = 0;
            for (size_t i = lag; i < noon.size(); ++i)
                both += noon[i] * noon[i - lag];
            EXPECT_NEAR(both / static_cast<double>(noon.size()) / variance,
                        std::exp(-static_cast<double>(lag) / spell), 0.15)
                << spell << " d, " << lag << " d apart";
        }
    }
}

TEST(Air, that_condenses_is_never_seen_above_a_hundred_percent) {
    const auto world = world_of(
        "[weather.outside]\ncoldest = \"2 degC\"\nwarmest = \"12 degC\"\nhumidity = \"95 %RH\"\n"
        "[warmth.house]\ncapacity = \"80 kJ/K\"\nstart = \"20 degC\"\n"
        "loses = [ { to = \"outside\", heat = \"12 W/K\" } ]\n"
        "[air.damp]\nvolume = \"12 m3\"\nwarmth = \"house\"\noutside = \"outside\"\n"
        "leaks = \"2 m3/h\"\nmade = [ { vapour = \"60 g/h\" } ]\nstart = \"90 %RH\"\n");
    WorldLife life(*world, 1, 0);
    double most = 0;
    int saturated = 0;
    for (int pass = 0; pass < 2 * 86'400; ++pass) {
        life.go_on(1000);
        most = std::max(most, seen(life, "damp"));
        saturated += seen(life, "damp") > 99.9;
    }
    EXPECT_LE(most, 100);
    EXPECT_GT(saturated, 3600);
}

} // namespace
