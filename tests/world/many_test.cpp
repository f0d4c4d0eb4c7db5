// SPDX-License-Identifier: MIT
// Many lives: tuning, yield, faults and fitted worlds, where the answer is known.
#include "bench/world/breaking.hpp"
#include "bench/world/fit_world.hpp"
#include "bench/world/tune.hpp"
#include "bench/world/yield.hpp"
#include "tests/desk/process.hpp"
#include "tests/world/thermostat.hpp"

#include <cstdlib>

namespace {

using namespace world;
using desk::Folder;

// With at most N switchings a day, the smallest gap that keeps to it is the best: its period is at
// least a day / N.
TEST(Tune, finds_the_optimum_where_it_is_known) {
    std::mt19937 random(23);
    int cases = 0;
    const int wanted = std::getenv("ZORILLA_DEEP") != nullptr ? 50 : 15;
    for (int trial = 0; cases < wanted && trial < 2000; ++trial) {
        Thermostat is = Thermostat::any(random);
        is.capacity = 20'000 + is.capacity / 4;
        is.low = std::round(is.low * 10) / 10;
        is.high = is.low + 4;
        const int most = 8 + static_cast<int>(random() % 40);
        const auto gap_is = [&](int i) {
            Thermostat with = is;
            with.high = is.low + 0.2 + 0.2 * i;
            return with.power > with.loss * (with.high - with.outside) * 1.05 ? with.period() : 1e9;
        };
        int expected = -1;
        bool clear = true; // no gap lies so near to the bound that a pass more or less decides
        for (int i = 0; i < 20; ++i) {
            const double allowed = 86'400.0 / most;
            clear = clear && std::fabs(gap_is(i) / allowed - 1) > 0.015;
            if (expected < 0 && gap_is(i) > allowed)
                expected = i;
        }
        if (!clear || expected < 1 || gap_is(expected) > 1e8)
            continue;
        ++cases;
        const rig::Rig rig = rig_of(
            is.rig(fmt::format("[promise.lives]\nof = \"heater\"\ntimes_a_day = {}\n", most)));
        const auto world = world_of(is.world());
        const std::vector<bench::Vary> vary = {bench::parse_vary(
            fmt::format("cold.release={:.3f} degC..{:.3f} degC", is.low + 0.2, is.low + 4), rig)};
        bench::TunePlan plan;
        plan.around.every = 10'000;
        plan.length = 2 * 86'400'000;
        plan.has_wish = true;
        plan.wished = {0, is.low, is.low};
        plan.least = bench::TunePlan::Least::deviation;
        const bench::Tuned tuned = bench::tune(rig, *world, vary, plan);
        ASSERT_TRUE(tuned.best) << tuned.why;
        EXPECT_NEAR(tuned.points[*tuned.best].values[0] / 1000.0, is.low + 0.2 + 0.2 * expected,
                    0.0015)
            << trial;
    }
    EXPECT_EQ(cases, wanted);
}

TEST(Tune, the_knee_is_where_a_falling_curve_bends) {
    EXPECT_EQ(bench::knee_of({1, 2, 3, 4, 5}, {9, 2, 1.6, 1.3, 1}), 1U);
    EXPECT_EQ(bench::knee_of({0, 10, 20, 30}, {3, 2.9, 0.3, 0}), 2U);
    // 1 / x bends where both axes count alike.
    std::vector<double> x, y;
    for (int i = 0; i <= 90; ++i) {
        x.push_back(1 + i * 0.1);
        y.push_back(10 / x.back());
    }
    EXPECT_NEAR(x[bench::knee_of(x, y)], std::sqrt(10.0), 0.1);
}

TEST(Tune, writes_back_one_number_and_searches_among_three) {
    const Folder folder;
    const std::string rig = folder.write("rig.toml", Thermostat().rig("# end\n"));
    const std::string world = folder.write("w.toml", Thermostat().world(0.5));
    const std::string before = desk::read_all(rig);
    const desk::Outcome tuned = desk::zorilla(fmt::format(
        "tune {} --world {} --vary cold.release='4.2 degC'..'8 degC' --pass '20 s' --for '2 d' "
        "--least switchings --write-back --figure {}",
        rig, world, folder / "t.svg"));
    EXPECT_EQ(tuned.status, 0) << tuned.err;
    EXPECT_TRUE(desk::has(tuned.out, "Recommended: cold.release = \"8 degC\"")) << tuned.out;
    std::string expected = before;
    expected.replace(expected.find("release = \"6.000 degC\""), 22, "release = \"8 degC\"");
    EXPECT_EQ(desk::read_all(rig), expected);
    EXPECT_TRUE(desk::has(desk::read_all(folder / "t.svg"), "energy, in kWh a day"));
    const desk::Outcome three = desk::zorilla(fmt::format(
        "tune {} --world {} --vary cold.below='3 degC'..'5 degC' --vary cold.release='5 degC'..'9 "
        "degC' --vary roost.beta='3900 K'..'4000 K' --wish roost='4 degC'..'6 degC' --least "
        "deviation --pass '20 s' --for '1 d'",
        rig, world));
    EXPECT_EQ(three.status, 0) << three.err;
    for (const char* wrong :
         {"cold.relase='1 degC'..'2 degC'", "cold.release='8 degC'..'4 degC'", "cold.release=4..8",
          "hot.below='1 degC'..'2 degC'", "cold.of='a'..'b'"})
        EXPECT_EQ(
            desk::zorilla(fmt::format("tune {} --world {} --vary {}", rig, world, wrong)).status, 2)
            << wrong;
}

/// A room that stays as it is; a lamp is on if the sensor, which is off by up to 1 K, reads less
/// than a threshold.
struct Offset {
    rig::Rig rig;
    std::shared_ptr<const bench::World> world;
    explicit Offset(double threshold)
        : rig(rig_of(Thermostat{30'000, 8, 200, 15, threshold, threshold + 1}.rig(
              "[promise.p]\nof = \"heater\"\ntimes_a_day = 0\n"))),
          world(world_of("[weather.room]\ncoldest = \"20 degC\"\nwarmest = \"20 degC\"\n"
                         "[sees.roost]\nof = \"room\"\nnoise = 0\n[parts.roost]\noffset = \"1 K\"\n"
                         "pull_up = \"0 %\"\nnominal = \"0 %\"\nbeta = \"0 %\"\n")) {}
};

TEST(Yield, its_interval_holds_the_true_share_as_often_as_it_says) {
    int held = 0, all = 0;
    for (const double threshold : {19.2, 19.5, 20.1, 20.6}) {
        const Offset is(threshold);
        const bench::WorldWiring wiring(*is.world, is.rig);
        const auto strays = bench::strays_of(is.rig, *is.world);
        ASSERT_EQ(strays.size(), 1U);
        // By calculation: the offset from which on it reads less, on a scale of evenly many.
        const double share = (threshold - 19) / 2; // of those that are on
        for (uint64_t seed = 1; seed <= 100; ++seed) {
            bench::YieldPlan plan;
            plan.around.seed = seed * 7919 + static_cast<uint64_t>(threshold * 10);
            plan.length = 3000;
            plan.devices = 60;
            plan.looked_at = 0;
            plan.calibrated = 0;
            plan.threads = 1;
            const bench::Share kept = bench::yield_of(wiring, strays, plan).kept;
            held += 1 - share >= kept.lowest() && 1 - share <= kept.highest() ? 1 : 0;
            ++all;
        }
    }
    EXPECT_GE(held * 100, 93 * all);
    EXPECT_LE(held * 100, 97 * all);
    RecordProperty("held", fmt::format("{} of {}", held, all));
}

TEST(Yield, names_the_part_that_is_to_blame_and_is_the_same_on_any_number_of_cores) {
    // The heater must not be on above 6.3 degC: only a thermistor that is far off makes it so.
    const Thermostat is;
    const rig::Rig rig = rig_of(is.rig("[promise.cool]\nof = \"roost\"\nat_most = \"6.3 degC\"\n"));
    const auto world = world_of(is.world(0.5) + "[parts.roost]\npull_up = \"0.1 %\"\nnominal = \"8 "
                                                "%\"\nbeta = \"0.5 %\"\n");
    const bench::WorldWiring wiring(*world, rig);
    const auto strays = bench::strays_of(rig, *world);
    bench::YieldPlan plan;
    plan.around.every = 20'000;
    plan.length = 86'400'000 / 4;
    plan.devices = 60;
    plan.calibrated = 30;
    std::string before;
    for (const unsigned threads : {1U, 2U, 5U}) {
        plan.threads = threads;
        const bench::Yielded out = bench::yield_of(wiring, strays, plan);
        ASSERT_GT(out.looked_at, 5U);
        EXPECT_EQ(out.blames.front().stray.key, "nominal");
        EXPECT_GE(out.blames.front().mended, out.looked_at * 9 / 10);
        EXPECT_EQ(out.weather, 0U);
        ASSERT_EQ(out.calibrated.size(), 3U);
        EXPECT_LT(out.calibrated[0].kept.of, 26U);
        EXPECT_EQ(out.calibrated[1].kept.of, 30U) << "one point is right where it matters";
        std::string says = fmt::format("{} {}", out.kept.of, *out.worst);
        for (const auto& blame : out.blames)
            says += fmt::format(" {} {}", blame.stray.key, blame.mended);
        EXPECT_TRUE(before.empty() || says == before) << says << " not " << before;
        before = says;
    }
}

TEST(WorldFit, recovers_known_worlds_within_its_errors) {
    std::mt19937 random(29);
    const Folder folder;
    int within = 0, all = 0;
    for (int trial = 0; trial < 100; ++trial) {
        Thermostat is = Thermostat::any(random);
        const rig::Rig rig = rig_of(is.rig());
        const auto world = world_of(is.world(3));
        const bench::WorldWiring wiring(*world, rig);
        bench::TryPlan plan;
        plan.seed = static_cast<uint64_t>(trial) + 1;
        plan.every = static_cast<int64_t>(is.period() * 1000 / 40);
        plan.length = plan.every * 400;
        plan.save = folder / fmt::format("{}.csv", trial);
        bench::try_in_world(wiring, plan, [](const bench::Event&) {}, {});
        Thermostat guess = is;
        guess.capacity = std::round(is.capacity * 1.6);
        guess.loss = is.loss * 0.7;
        const bench::FittedWorld found = bench::fit_world(
            *world_of(guess.world(3)), "", rig, bench::read_world_run(plan.save, rig), {});
        ASSERT_EQ(found.found.size(), 2U);
        const double truth[] = {is.capacity, is.loss * 1e6};
        for (size_t i = 0; i < 2; ++i) {
            EXPECT_TRUE(found.found[i].told);
            within += std::fabs(found.found[i].value - truth[i]) < 2 * found.found[i].error ? 1 : 0;
            ++all;
        }
    }
    EXPECT_GE(within * 100, 93 * all) << within << " of " << all;
    RecordProperty("within", fmt::format("{} of {}", within, all));
}

TEST(Faults, of_every_part_show_what_the_device_does_not_see) {
    const Folder folder;
    const std::string hens = ZORILLA_SOURCE "/examples/hen_house/";
    const desk::Outcome is =
        desk::zorilla(fmt::format("faults {0}hen_house.toml --world {0}winter.toml --pass '5 s' "
                                  "--lasts '1 h' --save {1} --figure "
                                  "{2}",
                                  hens, folder / "worst.csv", folder / "f.svg"));
    EXPECT_EQ(is.status, 1) << is.err;
    for (const char* line : {"roost        open           8/8     8/8  6 min 5 s             8/8",
                             "roost        stuck          8/8     0/8  -                     8/8",
                             "water_valve  stuck on       0/8       -  -                     8/8  "
                             "barrel at least 85 mm",
                             "supply       lost           8/8       -  -                     8/8",
                             "The worst: water_valve stuck on at 1d 0"})
        EXPECT_TRUE(desk::has(is.out, line)) << line << "\n" << is.out;
    EXPECT_TRUE(desk::has(desk::read_all(folder / "f.svg"), "8 of 8 break"));
    // Its worst case can be played, as far as it was the rig that decided.
    const desk::Outcome run =
        desk::zorilla(fmt::format("run {}hen_house.toml --trace {}", hens, folder / "worst.csv"));
    EXPECT_TRUE(desk::has(run.out, "barrel at least 85 mm")) << run.out;
    EXPECT_TRUE(desk::has(run.out, "they are the rig's")) << run.out;
}

} // namespace
