// SPDX-License-Identifier: MIT
// World files, and rigs tried in them by the tool.
#include "bench/random_raws.hpp"
#include "bench/replay.hpp"
#include "tests/desk/process.hpp"
#include "tests/world/thermostat.hpp"

#include <filesystem>

namespace {

using namespace world;
using desk::Folder;
using desk::has;
using desk::Outcome;
using desk::zorilla;

const std::string examples = ZORILLA_SOURCE "/examples/";
const std::string hens = examples + "hen_house/hen_house.toml",
                  winter = examples + "hen_house/winter.toml";

TEST(WorldFile, tells_every_mistake_with_its_place_and_what_to_write) {
    const struct {
        const char* text;
        const char* says;
    } cases[] = {
        {"[warmth.a]\ncapacity = \"2 kJ/K\"\nloses = [ { to = \"outsde\", heat = \"1 W/K\" } "
         "]\n[weather.outside]\ncoldest = \"1 degC\"\nwarmest = \"2 degC\"\n",
         "did you mean \"outside\"?"},
        {"[warmth.a]\nloses = []\n", "\"loses\" must be a list"},
        {"[warmth.a]\nstart = \"2 degC\"\n", "needs \"capacity\""},
        {"[warmth.a]\nsettles_in = \"2 h\"\n", "cannot settle in a time while it loses no heat"},
        {"[warmth.a]\ncapacity = \"2 kJ/K\"\nsettles_in = \"2 h\"\n", "the same twice"},
        {"[warmth.a]\ncapacity = 2\n", "without a unit"},
        {"[warmth.a]\ncapacity = \"2 W\"\n", "is a power, but here a heat capacity is needed"},
        {"[warmth.a]\ncapcity = \"2 kJ/K\"\n", "did you mean \"capacity\"?"},
        {"[warmth.a]\ncapacity = \"2 kJ/K\"\nloses = [ { to = \"a\", heat = \"1 W/K\" } ]\n",
         "cannot lose heat to itself"},
        {"[warmh.a]\ncapacity = \"2 kJ/K\"\n", "did you mean [warmth]?"},
        {"[weather.o]\ncoldest = \"3 degC\"\nwarmest = \"2 degC\"\n", "above \"coldest\""},
        {"[weather.o]\nfile = \"nowhere.csv\"\n", "nowhere.csv"},
        {"[weather.o]\ncoldest = \"1 degC\"\nwarmest = \"2 degC\"\ncoldest_at = \"25:00\"\n",
         "a time of the day"},
        {"[tank.t]\nheight = \"1 m\"\n", "either \"area\""},
        {"[tank.t]\nheight = \"1 m\"\narea = \"1 m2\"\nstart = \"2 m\"\n",
         "between 0 and the brim"},
        {"[gas.g]\nair = \"house\"\n", "there is no [air.house]"},
        {"[people.p]\nat = [\"7\"]\n", "a time is one of every day"},
        {"[people.p]\ntimes_a_day = 24\nfor = \"2 h\"\n", "shorter than the time"},
        {"[light.l]\nlatitude = 80\n", "between -66 and 66"},
        {"[people.p]\nat = [\"07:00\"]\n[fault.f]\nof = \"supply\"\nis = \"open\"\nat = "
         "[\"07:00\"]\n",
         "only of = \"supply\" is \"lost\""},
        {"[people.p]\nat = [\"07:00\"]\n[fault.f]\nof = \"roost\"\nis = \"opne\"\nat = "
         "[\"07:00\"]\n",
         "\"opne\" is not a possible value of \"is\""},
        {"[world]\ndate = \"02-30\"\n[people.p]\nat = [\"07:00\"]\n", "\"date\" must be a month"},
        {"[world]\nname = \"empty\"\n", "needs something in it"},
        {"[people.p]\nat = [\"07:00\"]\n[parts.roost]\nbeta = \"3950 K\"\n", "is a percentage"},
    };
    for (const auto& c : cases) {
        const bench::WorldFile file = bench::parse_world(c.text);
        bool told = false;
        for (const rig::Mistake& mistake : file.mistakes)
            told = told || (has(mistake.text, c.says) && mistake.line > 0);
        EXPECT_TRUE(told) << c.text << "\n"
                          << c.says << "\n"
                          << (file.mistakes.empty() ? "no mistake" : file.mistakes.front().text);
    }
    // All at once, in the order of their lines.
    const Folder folder;
    const Outcome is =
        zorilla("world check " + folder.write("w.toml", "[warmth.a]\ncapacity = 2\n[tank.t]\n"
                                                        "height = \"1 m\"\nbrim = \"2 m\"\n"));
    EXPECT_EQ(is.status, 1);
    for (const char* line : {"w.toml:2:12: ", "w.toml:3:1: ", "w.toml:5:1: "})
        EXPECT_TRUE(has(is.err, line)) << is.err;
}

TEST(WorldFile, must_fit_the_rig) {
    const struct {
        const char* change; ///< of the thermostat's world
        const char* to;
        const char* says;
    } cases[] = {
        {"by = \"heater\"", "by = \"heatr\"", "the rig has no output \"heatr\""},
        {"[sees.roost]", "[sees.rost]", "the rig has no [sense.rost]"},
        {"[warmth.roost]", "[warmth.room]", "nothing is said of what [sense.roost] sees"},
        {"[sees.roost]", "[fault.f]\nof = \"rost\"\nis = \"open\"\nat = [\"07:00\"]\n[sees.roost]",
         "no sensor \"rost\""},
        {"[sees.roost]", "[sees.roost]\nfrom = \"1 m\"", "\"from\" is for a ranger"},
        {"[sees.roost]", "[sees.roost]\nvalue = \"50 %\"", "reads a temperature, not a percentage"},
    };
    const rig::Rig rig = rig_of(Thermostat().rig());
    for (const auto& c : cases) {
        std::string text = Thermostat().world();
        text.replace(text.find(c.change), std::string(c.change).size(), c.to);
        const bench::WorldFile file = bench::parse_world(text);
        ASSERT_TRUE(file.mistakes.empty()) << file.mistakes.front().text;
        const bench::WorldWiring wiring(*file.world, rig);
        ASSERT_FALSE(wiring.mistakes().empty()) << c.to;
        EXPECT_TRUE(has(wiring.mistakes().front().text, c.says)) << wiring.mistakes().front().text;
    }
}

// Whatever the seed, the same again to the bit; and what is saved is what `run` makes of it.
TEST(Try, is_repeatable_and_what_it_saves_is_replayed_without_a_difference) {
    const Folder folder;
    const std::pair<const char*, const char*> pairs[] = {
        {"hen_house", "winter"},       {"heat_lamp", "frost"},      {"rain_barrel", "spring"},
        {"dew_heater", "clear_night"}, {"proofing_box", "kitchen"}, {"bilge_pump", "rough_sea"}};
    for (const auto& pair : pairs)
        for (const int seed : {1, 77, 40'005}) {
            const std::string rig = pair.first;
            const std::string rig_file = fmt::format("{0}{1}/{1}.toml", examples, rig);
            const auto live = [&](const char* file) {
                return zorilla(fmt::format(
                    "try {} --world {}{}/{}.toml --for '20 h' --pass '{} s' --seed {} --save {}",
                    rig_file, examples, rig, pair.second, 1 + seed % 3, seed, folder / file));
            };
            const Outcome first = live("a.csv"), again = live("b.csv");
            EXPECT_LE(first.status, 1) << first.err;
            EXPECT_EQ(first.out.substr(0, first.out.find("Ask why")),
                      again.out.substr(0, again.out.find("Ask why")));
            EXPECT_EQ(desk::read_all(folder / "a.csv"), desk::read_all(folder / "b.csv"));
            const Outcome run =
                zorilla(fmt::format("run {} --trace {}", rig_file, folder / "a.csv"));
            EXPECT_TRUE(has(run.out, "they are the rig's")) << rig << "\n" << run.out << run.err;
            // The timeline is the same, and so is the summary.
            const auto part = [](const std::string& out) {
                const size_t from = out.find('\n');
                return out.substr(from, out.find("\n\n", out.find("In all")) - from);
            };
            const size_t device = run.out.find("\n  the device");
            EXPECT_EQ(part(first.out), part(run.out.substr(0, device) + "\n\n")) << rig;
        }
}

TEST(Try, warns_of_another_setting_on_a_trace_that_cannot_react) {
    const Folder folder;
    const std::string rig = folder.write("rig.toml", Thermostat().rig());
    const std::string world = folder.write("w.toml", Thermostat().world(0.5));
    ASSERT_EQ(
        zorilla(fmt::format("try {} --world {} --save {}", rig, world, folder / "t.csv")).status,
        0);
    Thermostat other;
    other.high = 8;
    const Outcome run = zorilla(
        fmt::format("run {} --trace {}", folder.write("o.toml", other.rig()), folder / "t.csv"));
    EXPECT_EQ(run.status, 1);
    EXPECT_TRUE(has(run.err, "no trace can tell; zorilla try can")) << run.err;
}

TEST(Try, judges_promises_by_what_was_there) {
    const Folder folder;
    const std::string world = folder.write("w.toml", Thermostat().world(0));
    const auto outcome = [&](const std::string& promise, const std::string& more = "") {
        const std::string rig = folder.write("r.toml", Thermostat().rig("[promise.p]\n" + promise));
        return zorilla(fmt::format("try {} --world {} --summary --for '1 d' {}", rig, world, more));
    };
    const struct {
        const char* promise;
        const char* says;
        int status;
    } cases[] = {
        {"of = \"roost\"\nat_least = \"3.9 degC\"\n",
         "roost at least 3.9 degC  kept; it came to 3.9", 0},
        {"of = \"roost\"\nat_least = \"4.5 degC\"\n", "broken ", 1},
        {"of = \"roost\"\nat_least = \"4.5 degC\"\nbut_for = \"1 h\"\n", "kept; it came to 3.9", 0},
        {"of = \"heater\"\ntimes_a_day = 2\n", "broken", 1},
        {"of = \"heater\"\non_a_day = \"23 h\"\n", "kept; at most ", 0},
        {"when = \"cold\"\nthen = \"heater\"\nwithin = \"1 s\"\n", "kept; it took 0 s at most", 0},
        {"when = \"not cold\"\nthen = \"heater\"\nwithin = \"2 min\"\n", "broken", 1},
        {"told = \"lost(roost)\"\nwithin = \"1 min\"\n", "open: nothing came that it speaks of", 0},
    };
    for (const auto& c : cases) {
        const Outcome is = outcome(c.promise);
        EXPECT_EQ(is.status, c.status) << c.promise << is.err << is.out;
        EXPECT_TRUE(has(is.out, c.says)) << c.promise << is.out;
    }
    const std::string told = "told = \"lost(roost)\"\nwithin = \"1 min\"\n";
    EXPECT_TRUE(
        has(outcome(told, "--fault 'roost open at 0d 10:00 for 1 h'").out, "kept; it took"));
    EXPECT_TRUE(has(outcome(told, "--fault 'roost stuck at 0d 10:00 for 1 h'").out, "broken"));
    for (const char* wrong : {"roost opne at 0d 10:00 for 1 h", "rost open at 0d 10:00 for 1 h",
                              "roost open for 1 h", "supply lost at noon for 1 h"})
        EXPECT_EQ(outcome(told, fmt::format("--fault '{}'", wrong)).status, 2) << wrong;
    // The heater stays on: by what was there it is too warm, whatever the sensor reads.
    const Outcome hot = outcome("of = \"roost\"\nat_most = \"8 degC\"\n",
                                "--fault 'heater stuck on at 0d 10:00 for 2 h'");
    EXPECT_EQ(hot.status, 1);
    EXPECT_TRUE(has(hot.out, "broken, first at 0d 10:")) << hot.out;
    // Without power nothing is on, and it begins anew.
    const Outcome dark =
        outcome("of = \"roost\"\nat_least = \"3.9 degC\"\n",
                "--fault 'supply lost at 0d 10:00 for 2 h' --save " + (folder / "s.csv"));
    EXPECT_EQ(dark.status, 1) << dark.out;
    EXPECT_TRUE(has(dark.out, "The trace begins at 0d 12:00:00, when the power came back."))
        << dark.out;
    // What comes and goes while it is dark has been, too; and the step is no worse for it.
    EXPECT_TRUE(has(dark.out, "roost at least 3.9 degC  broken, first at 0d 10:")) << dark.out;
    EXPECT_TRUE(has(dark.out, "nothing that matters")) << dark.out;
}

TEST(Try, says_when_its_step_is_too_long) {
    const Folder folder;
    const std::string rig = folder.write("rig.toml", Thermostat().rig());
    Thermostat quick;
    quick.capacity = 90;
    const auto with_step = [&](const char* step) {
        return zorilla(fmt::format(
                           "try {} --world {} --for '6 h' --pass '20 s' --summary", rig,
                           folder.write("w.toml", fmt::format("[world]\nstep = \"{}\"\n", step) +
                                                      quick.world(0))))
            .out;
    };
    EXPECT_TRUE(has(with_step("10 s"), "10 s is too long: half of it changes roost by"))
        << with_step("10 s");
    EXPECT_TRUE(has(with_step("300 ms"), "nothing that matters"));
}

// For each kind of sensor: what it reads in a world is what is there, within what its own table and
// the noise may be off.
TEST(Try, sensors_read_what_is_there) {
    const rig::Rig rig = rig::load_rig(hens).rig;
    const bench::WorldFile file = bench::load_world(winter);
    const bench::WorldWiring wiring(*file.world, rig);
    bench::AroundPlan plan;
    plan.every = 5000;
    bench::WorldAround around(wiring, plan);
    rig::RunningRig running(rig);
    const std::map<std::string, double> within = {
        {"roost", 0.5}, {"yard_light", 0.12}, {"litter.humidity", 0.7}, {"litter.temperature", 0.3},
        {"barrel", 15}, {"ammonia", 1.5}};
    std::map<std::string, int> looked;
    int64_t now = 0;
    for (int pass = 0; pass < 17'280 && around.next(now); ++pass) {
        running.pass(Instant(static_cast<uint32_t>(now)), around.raws());
        around.passed(running);
        for (size_t i = 0; i < rig.sources.size(); ++i) {
            const auto truth = around.truly(i);
            const auto allowed = within.find(rig.sources[i].name);
            if (!truth || allowed == within.end() || !running.readings()[i].ok() ||
                around.broken() != 0)
                continue;
            const double read = running.readings()[i].value_or({}).thousandths() / 1000.0;
            const bool light = rig.sources[i].name == "yard_light";
            ASSERT_NEAR(read, *truth, allowed->second * (light ? *truth + 1 : 1))
                << rig.sources[i].name << " pass " << pass;
            ++looked[rig.sources[i].name];
        }
    }
    for (const auto& [name, times] : within)
        EXPECT_GT(looked[name], 10'000) << name;
}

// In passes of 20 ms the same echo is read until its ranger, and each other one, may be pinged.
TEST(Try, rangers_are_pinged_no_sooner_than_on_a_chip) {
    std::string text = "[board]\nchip = \"other\"\nadc_bits = 10\n";
    std::string surroundings = "[tank.t]\nheight = \"1 m\"\narea = \"1 m2\"\nstart = \"500 mm\"\n";
    for (int rangers = 1; rangers <= 3; ++rangers) {
        text +=
            fmt::format("[sense.r{0}]\npart = \"ranger\"\npin = \"E{0}\"\nping_pin = "
                        "\"P{0}\"\nblind = \"20 mm\"\nfar = \"4 m\"\ntemperature = \"20 degC\"\n",
                        rangers);
        surroundings +=
            fmt::format("[sees.r{}]\nof = \"t\"\nfrom = \"2 m\"\nnoise = 50\n", rangers);
        const rig::RigFile file = rig::parse_rig(text);
        ASSERT_TRUE(file.mistakes.empty()) << file.mistakes.front().text;
        const bench::WorldFile world = bench::parse_world(surroundings);
        ASSERT_TRUE(world.mistakes.empty()) << world.mistakes.front().text;
        const bench::WorldWiring wiring(*world.world, file.rig);
        ASSERT_TRUE(wiring.mistakes().empty()) << wiring.mistakes().front().text;
        bench::AroundPlan plan;
        plan.every = 20;
        bench::WorldAround around(wiring, plan);
        std::vector<int64_t> last(file.rig.senses.size());
        int64_t now = 0;
        for (int pass = 0; pass < 90 * rangers && around.next(now); ++pass)
            for (size_t i = 0; i < last.size(); ++i) {
                const int64_t is = around.raws()[i].bits();
                EXPECT_EQ(is != last[i], pass % (3 * rangers) == 0) << rangers << ", " << pass;
                last[i] = is;
            }
    }
    // And who takes a median of more of them than there are is told.
    const std::string barrel = examples + "rain_barrel/";
    const desk::Folder folder;
    for (const bool is_short : {true, false}) {
        const std::string pass = is_short ? " --pass '20 ms'" : " --pass '60 ms'";
        for (const std::string& command :
             {"try " + barrel + "rain_barrel.toml --world " + barrel + "spring.toml --for '1 min'",
              "firmware " + barrel + "rain_barrel.toml --force --out " + folder / "barrel"}) {
            const Outcome out = zorilla(command + pass);
            EXPECT_EQ(out.status, 0) << out.err;
            EXPECT_EQ(has(out.err, "lid hears an echo every 60 ms at most, so with a pass every 20 "
                                   "ms its median of 5 takes the same echo up to 3 times; take "
                                   "--pass \"60 ms\" or longer, or write median = 15"),
                      is_short)
                << command << out.err;
        }
    }
}

// Nothing is missed where nothing seems to have changed: looked at in every pass, they are the
// same.
TEST(Promises, are_judged_the_same_if_each_pass_is_looked_at) {
    std::mt19937 random(41);
    for (const char* name : {"hen_house", "bilge_pump", "fume_hood", "rain_barrel"}) {
        const std::string text = desk::read_all(fmt::format("{0}{1}/{1}.toml", examples, name));
        const rig::Rig rig = rig_of(
            text + fmt::format("\n[promise.back]\nwhen = \"lost({0})\"\nthen = \"not lost({0})\"\n"
                               "within = \"7 s\"\n",
                               rig_of(text).sources.front().name));
        rig::RunningRig running(rig);
        bench::Judge quick(rig), careful(rig);
        std::vector<rig::Raw> raws(rig.senses.size());
        int64_t now = 0;
        for (int pass = 0; pass < 20'000;
             ++pass, now += 500 + static_cast<int64_t>(random() % 4000)) {
            if (random() % 8 == 0)
                bench::random_raws(rig, random, raws);
            running.pass(Instant(static_cast<uint32_t>(now)), raws.data());
            quick.pass(now, running);
            careful.starts_anew();
            careful.pass(now, running);
        }
        const auto a = quick.verdicts(), b = careful.verdicts();
        for (size_t i = 0; i < a.size(); ++i)
            EXPECT_EQ(fmt::format("{} {} {} {} {} {}", a[i].unknown, a[i].broken, a[i].times,
                                  a[i].first, a[i].how, a[i].outside),
                      fmt::format("{} {} {} {} {} {}", b[i].unknown, b[i].broken, b[i].times,
                                  b[i].first, b[i].how, b[i].outside))
                << name << ": " << a[i].says;
    }
}

TEST(Promises, are_read_told_and_change_nothing_of_the_device) {
    const std::string with = desk::read_all(hens);
    const std::string without = with.substr(0, with.find("[promise."));
    const Folder folder;
    for (const auto& [text, out] : {std::pair(with, "a"), std::pair(without, "b")})
        ASSERT_EQ(zorilla("firmware " + folder.write("rig.toml", text) + " --out " + (folder / out))
                      .status,
                  0);
    int files = 0;
    for (const auto& entry : std::filesystem::directory_iterator(folder.path() / "a")) {
        const std::string name = entry.path().filename().string();
        const std::string code = desk::read_all(entry.path());
        files += has(name, "pp") ? 1 : 0;
        EXPECT_TRUE(!has(name, "pp") || code == desk::read_all(folder.path() / "b" / name)) << name;
    }
    EXPECT_GE(files, 2);
    const Outcome check = zorilla("check " + hens);
    EXPECT_TRUE(has(check.out, "lamp_lives      heat_lamp on at most 30 times in 24 h"))
        << check.out;
    const struct {
        const char* promise;
        const char* says;
    } cases[] = {
        {"of = \"rost\"\nat_least = \"1 degC\"\n", "did you mean \"roost\"?"},
        {"of = \"roost\"\n", "needs \"at_least\" or \"at_most\""},
        {"of = \"heater\"\n", "needs either \"times_a_day\" or \"on_a_day\""},
        {"of = \"roost\"\nat_least = \"3 degC\"\nat_most = \"2 degC\"\n", "above \"at_least\""},
        {"when = \"cold\"\n", "needs \"then\""},
        {"told = \"cold\"\n", "needs \"within\""},
        {"at_least = \"1 degC\"\n", "says nothing"},
        {"of = [\"rost\"]\ntold = \"cold\"\nwithin = \"1 s\"\n", "there is no [sense.rost]"},
        {"of = \"roost\"\nat_most = \"3 degC\"\nat_leest = \"3 degC\"\n", "at_leest"},
    };
    for (const auto& c : cases) {
        const rig::RigFile file =
            rig::parse_rig(Thermostat().rig(std::string("[promise.p]\n") + c.promise));
        ASSERT_FALSE(file.mistakes.empty()) << c.promise;
        EXPECT_TRUE(has(file.mistakes.front().text, c.says)) << file.mistakes.front().text;
    }
}

} // namespace
