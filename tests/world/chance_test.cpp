// SPDX-License-Identifier: MIT
// What comes by chance in a world has the figures that the file says: people, weather, damp air.
#include "bench/world/chance.hpp"
#include "bench/world/presses.hpp"
#include "rig/sense/truths.hpp"
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

// As often wet as the file says, and then damp, overcast and half as far from cold to warm.
TEST(Chance, of_wet_days_is_what_the_file_says) {
    for (const double share : {0.2, 0.6}) {
        const std::string weather =
            fmt::format("wet_days = \"{:.0f} %\"\nspell = \"2 d\"\n", 100 * share);
        const auto world = world_of("[world]\ndate = \"03-21\"\n[weather.outside]\ncoldest = \"4 "
                                    "degC\"\nwarmest = \"12 degC\"\n"
                                    "coldest_at = \"00:00\"\nhumidity = \"60 %RH\"\n" +
                                    weather +
                                    "[light.yard]\nlatitude = 50\nclouds = \"0 %\"\nunder = "
                                    "\"outside\"\nnight = \"0 lx\"\n");
        const auto bright = world_of("[world]\ndate = \"03-21\"\n[light.yard]\nlatitude = 50\n"
                                     "clouds = \"0 %\"\nnight = \"0 lx\"\n");
        constexpr int days = 150, seeds = 20;
        const double clear = seen(WorldLife(*bright, 1, 43'200), "yard");
        double wet = 0, both = 0;
        int n = 0;
        for (uint64_t seed = 1; seed <= seeds; ++seed) {
            double before = 0;
            for (int day = 0; day < days; ++day) {
                const WorldLife noon(*world, seed, (day + 0.5) * 86'400);
                const double is = seen(noon, "outside.wet") / 100;
                wet += is > 0.5;
                both += day > 0 && is > 0.5 && before > 0.5;
                before = is;
                ++n;
                EXPECT_NEAR(seen(noon, "outside"), 8 + 4 * (1 - is / 2), 1e-9);
                if (day == 0) { // the sun is where the other world has it
                    EXPECT_TRUE(is < 1 ? seen(noon, "yard") <= clear * 1.0001
                                       : seen(noon, "yard") < clear / 3);
                }
                const WorldLife dusk(*world, seed, (day + 0.75) * 86'400);
                if ((is == 0 || is == 1) && seen(dusk, "outside.wet") == 100 * is) {
                    EXPECT_NEAR(seen(dusk, "outside.humidity"), is == 1 ? 95 : 60, 0.01);
                }
            }
        }
        // As good as so many independent days.
        const double sigma = std::sqrt(share * (1 - share) / (n / 4.0));
        EXPECT_NEAR(wet / n, share, 3 * sigma) << share;
        // A wet day follows a wet one more often than by chance.
        EXPECT_GT(both / wet, share + 0.15) << share;
    }
}

// Whoever is told nothing sees each press; whoever is told sees it with the pass that is named.
TEST(Presses, that_may_go_by_unseen_are_told) {
    std::mt19937 random(5);
    const auto any = [&](std::initializer_list<int> of) {
        return of.begin()[random() % of.size()];
    };
    int told = 0, untold = 0;
    for (int n = 0; n < 60; ++n) {
        const int debounce = any({0, 20, 50, 200, 3000}),
                  lasts = any({40, 100, 500, 1000, 2000, 6000});
        const int64_t every = any({10, 35, 100, 500, 1000, 2500});
        const rig::Rig device =
            rig_of(fmt::format("[board]\nchip = \"other\"\nadc_bits = 10\n[sense.button]\npart = "
                               "\"digital_input\"\npin = \"D2\"\n"
                               "active = \"low\"\ndebounce = \"{} ms\"\n",
                               debounce));
        const auto world =
            world_of(fmt::format("[people.button]\nat = [\"00:01\"]\nfor = \"{} ms\"\n", lasts));
        const bench::WorldWiring wiring(*world, device);
        ASSERT_TRUE(wiring.mistakes().empty());
        // How many of presses at any time between two passes are seen.
        const auto unseen = [&](int64_t pass) {
            int out = 0;
            for (int phase = 0; phase < 12; ++phase) {
                bench::AroundPlan plan;
                plan.every = pass;
                const int64_t after =
                    phase == 0 ? 1
                               : 1 + static_cast<int64_t>(random() % static_cast<uint64_t>(pass));
                plan.begins = static_cast<double>(60'000 - 20'000 / pass * pass - after) / 1000;
                bench::WorldAround around(wiring, plan);
                rig::RunningRig running(device);
                around.begin();
                bool is = false;
                for (int64_t then = 0; then < 32'000;) {
                    around.next(then);
                    running.pass(Instant(static_cast<uint32_t>(then)), around.raws());
                    is = is || running.readings()[0] == rig::reading_of(Truth::yes);
                }
                out += !is;
            }
            return out;
        };
        const auto presses = bench::short_presses(wiring, every);
        const std::string what = fmt::format("debounced for {}, pressed for {}, a pass every {}",
                                             debounce, lasts, every);
        EXPECT_EQ(presses.empty(), unseen(every) == 0) << what;
        if (!presses.empty() && presses.front().seen_with > 0) {
            EXPECT_EQ(unseen(presses.front().seen_with), 0) << what;
        }
        (presses.empty() ? untold : told) += 1;
    }
    EXPECT_GT(told, 10);
    EXPECT_GT(untold, 10);
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
