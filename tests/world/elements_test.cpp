// SPDX-License-Identifier: MIT
// Worlds against answers that are known by calculation.
#include "bench/world/elements/warmth.hpp"
#include "tests/desk/process.hpp"
#include "tests/world/thermostat.hpp"

namespace {

using namespace world;
using bench::WorldLife;

double value(const WorldLife& life, const std::string& name) {
    return life.value(*life.world().value(name));
}
/// So many seconds, as passes of a device.
void go_on(WorldLife& life, double seconds, int64_t pass = 1000) {
    for (int64_t at = 0; at < static_cast<int64_t>(seconds * 1000); at += pass)
        life.go_on(pass);
}
std::string steady(double celsius, double humidity = 50) {
    return fmt::format("[weather.outside]\ncoldest = \"{0} degC\"\nwarmest = \"{0} "
                       "degC\"\nhumidity = \"{1} %RH\"\n",
                       celsius, humidity);
}

// Two bodies that share heat and lose none: the difference between them dies away by
// exp(-G (1/C1 + 1/C2) t), and the mean weighed by capacity stays (Incropera, section 5.1).
TEST(World, two_bodies_come_together_by_the_exact_exponential) {
    for (const int64_t pass : {100, 1000, 7000, 60'000}) {
        const auto world =
            world_of("[warmth.a]\ncapacity = \"4 kJ/K\"\nstart = \"60 degC\"\nloses = [ { to = "
                     "\"b\", heat = "
                     "\"10 W/K\" } ]\n[warmth.b]\ncapacity = \"12 kJ/K\"\nstart = \"20 degC\"\n");
        WorldLife life(*world, 1, 0);
        const double rate = 10.0 * (1 / 4000.0 + 1 / 12'000.0), mean = (4.0 * 60 + 12.0 * 20) / 16;
        for (int step = 1; step <= 10; ++step) {
            go_on(life, 120, pass);
            const double apart =
                40 * std::exp(-rate * static_cast<double>(life.milliseconds()) / 1000);
            EXPECT_NEAR(value(life, "a") - value(life, "b"), apart, 0.001 * 40) << pass;
            EXPECT_NEAR((4 * value(life, "a") + 12 * value(life, "b")) / 16, mean, 1e-9);
        }
    }
}

TEST(World, heat_that_was_given_is_stored_or_lost_to_a_ten_thousandth) {
    std::mt19937 random(3);
    for (int trial = 0; trial < 20; ++trial) {
        const Thermostat is = Thermostat::any(random);
        const auto world = world_of(is.world());
        WorldLife life(*world, 1, 0);
        const auto* body = dynamic_cast<const bench::Warmth*>(world->elements[1].get());
        const double begin = value(life, "roost");
        double given = 0;
        for (int pass = 0; pass < 5000; ++pass) {
            const bool on = random() % 3 == 0;
            life.set(world->outputs[0].value, on ? 1 : 0);
            life.go_on(1000 + static_cast<int64_t>(random() % 9000));
            given = life.state(body->state + bench::Warmth::given);
        }
        const double stored = is.capacity * (value(life, "roost") - begin);
        const double lost = life.state(body->state + bench::Warmth::lost);
        EXPECT_NEAR(stored, given - lost, 1e-4 * given);
    }
}

// Whatever the shape: what is in it is what was in it + what came - what went - what was spilled,
// and the depth is that of the shape.
TEST(World, tanks_keep_every_drop) {
    const double pi = std::acos(-1.0);
    const struct {
        const char* shape;
        double start, full; ///< litres
    } tanks[] = {
        {"height = \"900 mm\"\narea = \"2400 cm2\"\nstart = \"450 mm\"\n", 108, 216},
        {"height = \"1 m\"\ndiameter = \"600 mm\"\nstart = \"250 mm\"\n", pi * 9 * 2.5, pi * 90},
        {"diameter = \"800 mm\"\nlength = \"1.5 m\"\nstart = \"400 mm\"\n", pi * 16 * 15 / 2,
         pi * 16 * 15},
        // A frustum: pi h (r1^2 + r1 r2 + r2^2) / 3.
        {"height = \"600 mm\"\ndiameter = \"400 mm\"\ntop_diameter = \"800 mm\"\nstart = \"600 "
         "mm\"\n",
         pi * 6 * (4 + 8 + 16) / 3, pi * 6 * (4 + 8 + 16) / 3},
    };
    for (const auto& tank : tanks) {
        const auto world = world_of(fmt::format(
            "[tank.t]\n{}filled = [ {{ by = \"valve\", flow = \"40 l/min\" }} ]\ndrained = [ {{ by "
            "= "
            "\"pump\", flow = \"90 l/min\" }}, {{ flow = \"0.3 l/min\" }} ]\nevaporates = \"5 "
            "mm/d\"\n",
            tank.shape));
        WorldLife life(*world, 1, 0);
        EXPECT_NEAR(life.state(0), tank.start, 1e-6 * tank.start) << tank.shape;
        std::mt19937 random(5);
        bool was_full = false, was_empty = false;
        for (int pass = 0; pass < 4000; ++pass) {
            life.set(world->outputs[0].value, pass / 700 % 2 == 0 ? 1 : 0);
            life.set(world->outputs[1].value, pass / 700 % 3 == 1 ? 1 : 0);
            life.go_on(1000 * static_cast<int64_t>(1 + random() % 5));
            was_full = was_full || life.state(0) >= tank.full * (1 - 1e-9);
            was_empty = was_empty || life.state(0) <= 1e-9;
            ASSERT_NEAR(life.state(0), tank.start + life.state(1) - life.state(2) - life.state(3),
                        1e-8 * tank.full)
                << tank.shape;
            EXPECT_LE(life.state(0), tank.full * (1 + 1e-9));
        }
        EXPECT_TRUE(was_full && was_empty) << tank.shape;
        EXPECT_GT(life.state(3), 1);
    }
}

// c(t) = c_end + (c_0 - c_end) exp(-Q t / V), c_end = s / Q: the dilution of a contaminant in mixed
// air; and the same for vapour.
TEST(World, air_is_exchanged_by_its_formula) {
    const auto world =
        world_of(steady(20) + "[air.room]\nvolume = \"30 m3\"\nwarmth = \"outside\"\noutside = "
                              "\"outside\"\nleaks = \"15 m3/h\"\naired = [ { by = \"fan\", flow = "
                              "\"45 m3/h\" } ]\nmade = [ { vapour = \"60 g/h\" } ]\n[gas.co2]\nair "
                              "= \"room\"\nmade = [ { gas = \"18000 ml/h\" } ]\noutside = \"400 "
                              "ppm\"\nstart = \"400 ppm\"\n");
    for (const double fan : {0.0, 0.4, 1.0}) {
        WorldLife life(*world, 1, 0);
        life.set(world->outputs[0].value, fan);
        const double flow = 15 + 45 * fan;
        const double outside = 0.5 * bench::saturated_vapour(20);
        for (int step = 1; step <= 8; ++step) {
            go_on(life, 900);
            const double dies = std::exp(-flow * step / 4.0 / 30);
            const double gas = 400 + 18'000 / flow * (1 - dies);
            const double vapour = outside + 60 / flow * (1 - dies);
            EXPECT_NEAR(value(life, "co2"), gas, 0.001 * gas);
            EXPECT_NEAR(value(life, "room"),
                        std::min(100.0, 100 * vapour / bench::saturated_vapour(20)), 0.1);
        }
    }
    // Magnus with the coefficients of WMO-No. 8, and tables of steam: 17.3 g/m3 at 20 degC, 4.85 at
    // 0, 30.4 at 30.
    EXPECT_NEAR(bench::saturated_vapour(20), 17.3, 0.1);
    EXPECT_NEAR(bench::saturated_vapour(0), 4.85, 0.02);
    EXPECT_NEAR(bench::saturated_vapour(30), 30.4, 0.15);
}

// Air that leaves takes its heat along: 0.335 W h for each m3 and K.
TEST(World, air_carries_warmth_out) {
    const auto world =
        world_of(steady(0) + "[warmth.room]\ncapacity = \"50 kJ/K\"\nstart = \"20 degC\"\nwarmed = "
                             "[ { power = \"335 W\" } ]\n[air.air]\nvolume = \"10 m3\"\nwarmth = "
                             "\"room\"\noutside = \"outside\"\nleaks = \"100 m3/h\"\n");
    WorldLife life(*world, 1, 0);
    go_on(life, 12 * 3600, 10'000);
    EXPECT_NEAR(value(life, "room"), 335 / (100 * 1206 / 3600.0), 0.01);
}

TEST(World, the_day_has_its_warmest_and_its_brightest_hour) {
    const auto world =
        world_of("[world]\ndate = \"03-21\"\n[weather.outside]\ncoldest = \"-2 "
                 "degC\"\nwarmest = \"8 degC\"\ncoldest_at = \"04:00\"\n"
                 "[light.yard]\nlatitude = 50\nclouds = \"0 %\"\nnight = \"0.2 lx\"\n");
    WorldLife life(*world, 1, 0);
    const auto at = [&](double hour) {
        WorldLife then(*world, 1, hour * 3600);
        return std::pair(value(then, "outside"), value(then, "yard"));
    };
    EXPECT_NEAR(at(4).first, -2, 1e-6);
    EXPECT_NEAR(at(16).first, 8, 1e-6);
    EXPECT_NEAR(at(10).first, 3, 1e-6);
    // At the equinox the sun stands 40 degrees high at noon: the clear sky of the handbook's
    // formula.
    const double sine = std::sin(40 * std::acos(-1.0) / 180);
    EXPECT_NEAR(at(12).second,
                127'500 * std::exp(-0.21 / sine) * sine + 800 + 15'500 * std::sqrt(sine), 900);
    EXPECT_NEAR(at(0).second, 0.2, 0.01);
    EXPECT_GT(at(6.1).second, 500);
    EXPECT_LT(at(5).second, 20);
    // In the dark before the sun it gets brighter all the time, without a step.
    double before = 0;
    for (double hour = 4; hour < 12; hour += 0.02) {
        const double now = at(hour).second;
        EXPECT_GE(now, before * 0.999);
        EXPECT_TRUE(before < 300 || now < before * 3) << hour;
        before = now;
    }
}

TEST(World, recorded_weather_goes_straight_from_row_to_row_and_begins_anew) {
    const desk::Folder folder;
    folder.write("o.csv", "time (h),outside (degC),damp (%RH)\n0,10,50\n2,14,70\n4,4,60\n");
    const bench::WorldFile file = bench::load_world(folder.write(
        "w.toml", "[weather.outside]\nfile = \"o.csv\"\n[world]\nbegins = \"06:00\"\n"));
    ASSERT_TRUE(file.mistakes.empty()) << file.mistakes.front().text;
    WorldLife life(*file.world, 1, file.world->begins);
    const double expected[][2] = {{10, 50}, {12, 60}, {14, 70}, {9, 65}, {10, 50}, {12, 60}};
    for (const auto& is : expected) {
        EXPECT_NEAR(value(life, "outside"), is[0], 1e-6);
        EXPECT_NEAR(value(life, "outside.humidity"), is[1], 1e-6);
        go_on(life, 3600, 60'000);
    }
}

TEST(World, what_turns_spins_up_stalls_and_jams) {
    const auto world =
        world_of("[turning.fan_turns]\nby = \"fan\"\ntop = \"2000 rpm\"\nspins_up_in "
                 "= \"2 s\"\nstarts_at = \"25 %\"\nat = [\"00:10\"]\nfor = \"1 min\"\n");
    WorldLife life(*world, 1, 0);
    life.set(world->outputs[0].value, 1);
    go_on(life, 2, 100);
    EXPECT_NEAR(value(life, "fan_turns"), 2000 * (1 - std::exp(-1.0)), 2);
    go_on(life, 60);
    EXPECT_NEAR(value(life, "fan_turns"), 2000, 0.1);
    life.set(world->outputs[0].value, 0.2);
    go_on(life, 60);
    EXPECT_NEAR(value(life, "fan_turns"), 0, 0.1) << "too slow to turn";
    life.set(world->outputs[0].value, 0.5);
    go_on(life, 495);
    EXPECT_NEAR(value(life, "fan_turns"), 0, 2) << "jammed";
    go_on(life, 100);
    EXPECT_NEAR(value(life, "fan_turns"), 1000, 0.1);
}

TEST(World, chances_come_as_often_as_they_are_said_to) {
    for (const double often : {0.5, 3.0, 20.0}) {
        const auto world =
            world_of(fmt::format("[people.p]\ntimes_a_day = {}\nfor = \"90 s\"\n", often));
        double times = 0, on = 0;
        for (uint64_t seed = 1; seed <= 5; ++seed) {
            WorldLife life(*world, seed, 0);
            bool was = false;
            for (int second = 0; second < 20 * 86'400; second += 30) {
                life.go_on(30'000);
                const bool is = value(life, "p") > 0;
                times += is && !was ? 1 : 0;
                on += is ? 30 : 0;
                was = is;
            }
        }
        // Independent of each other: so many have the root of their number as deviation.
        EXPECT_NEAR(times / 100, often, 3 * std::sqrt(100 * often) / 100);
        EXPECT_NEAR(on / times, 90, 4);
    }
}

// The mean time from one switching on to the next, of 500 devices, beside the closed formula.
TEST(World, thermostats_switch_as_often_as_theory_says) {
    std::mt19937 random(17);
    double worst = 0;
    for (int trial = 0; trial < 500; ++trial) {
        const Thermostat is = Thermostat::any(random);
        const rig::Rig rig = rig_of(is.rig());
        const auto world = world_of(is.world());
        const bench::WorldWiring wiring(*world, rig);
        ASSERT_TRUE(wiring.mistakes().empty()) << wiring.mistakes().front().text;
        bench::AroundPlan plan;
        plan.every = std::max<int64_t>(static_cast<int64_t>(is.period() * 1000 / 500), 50);
        bench::WorldAround around(wiring, plan);
        rig::RunningRig running(rig);
        int64_t now = 0, first = -1, last = 0;
        int times = 0;
        bool was = false;
        while (times < 6 && around.next(now)) {
            running.pass(Instant(static_cast<uint32_t>(now)), around.raws());
            around.passed(running);
            const bool on = running.drivens()[0].is_on;
            if (on && !was) {
                first = first < 0 ? now : first;
                last = now;
                ++times;
            }
            was = on;
        }
        const double period = static_cast<double>(last - first) / 1000 / (times - 1);
        worst = std::max(worst, std::fabs(period / is.period() - 1));
    }
    EXPECT_LT(worst, 0.02);
    RecordProperty("worst", fmt::format("{:.3f} %", 100 * worst));
}

} // namespace
