// SPDX-License-Identifier: MIT
// What must never be: proved, or broken by a sequence; and what is proved does not happen when the
// rig runs.
#include "tests/desk/gate.hpp"
#include "tests/desk/process.hpp"
#include "tests/desk/rig_text.hpp"
#include "tests/prove/random_life.hpp"

#include <gtest/gtest.h>

namespace {

using namespace zorilla;
using desk::gate;
using desk::has;
using desk::parsed;
using Verdict = rig::NeverResult::Verdict;

TEST(Never, is_proved_with_its_guard_and_broken_without) {
    struct Case {
        const char* never;
        const char* before;
        const char* after;
        Verdict verdict;
        size_t steps;
        const char* told;
    };
    const char* const interlock_up = "never_with = \"down\"";
    const Case cases[] = {
        {"[\"up and down\"]", "", "", Verdict::proved, 0, ""},
        // One of two interlocks is not enough: the other motor may come on later.
        {"[\"up and down\"]", interlock_up, "", Verdict::broken, 0, "up goes on"},
        // min_on of the other keeps it on while the machine goes on.
        {"[\"down and gate in rising\"]", "", "", Verdict::broken, 0, "down goes on"},
        {"[\"frost and hot\"]", "", "", Verdict::broken, 1, "air is lost"},
        {"[\"frost and hot and not lost(air)\"]", "", "", Verdict::proved, 0, ""},
        {"[\"up and lost(air)\"]", "", "", Verdict::broken, 0, "air is lost"},
        {"[\"down and lost(air) and not gate in falling\"]", "", "", Verdict::proved, 0, ""},
        {"[\"gate in rising and frost and not lost(air)\"]", "", "", Verdict::proved, 0, ""},
        {"[\"gate in rising and frost and not lost(air)\"]",
         "  { from = \"rising\", to = \"still\", when = \"frost\" },\n", "", Verdict::broken, 2,
         "gate goes to rising"},
        {"[\"hot and not lost(air)\"]", "", "", Verdict::broken, 2, "1 min, by time alone"},
    };
    for (const Case& c : cases) {
        const rig::Rig r = parsed(gate(c.never, c.before, c.after));
        const rig::NeverResult result = rig::Nevers(r).look_at(0);
        std::string steps;
        for (const std::string& step : result.steps)
            steps += step + "\n";
        EXPECT_EQ(result.verdict, c.verdict) << c.never << c.before << "\n" << steps;
        EXPECT_TRUE(c.steps == 0 || result.steps.size() == c.steps) << c.never << "\n" << steps;
        EXPECT_TRUE(has(steps, c.told)) << c.never << "\n" << steps;
    }
}

/// Many sensors, each with a threshold and a relay of its own.
std::string many(int count) {
    std::string never;
    for (int i = 0; i < count; ++i)
        never += fmt::format("{0}relay_{1} and lost(s_{1})", i == 0 ? "" : " or ", i);
    std::string out =
        fmt::format("[rig]\nnever = [\"{}\"]\n[board]\nchip = \"other\"\nadc_bits = 10\n", never);
    for (int i = 0; i < count; ++i)
        out += fmt::format(
            "[sense.s_{0}]\npart = \"percent\"\npin = \"A{0}\"\ncode_at_0 = "
            "60\ncode_at_100 = 900\n[decide.d_{0}]\nof = \"s_{0}\"\nabove = \"60 "
            "%\"\nrelease = \"50 %\"\nfor_at_least = \"9 s\"\n[drive.relay_{0}]\npart = "
            "\"relay\"\npin = \"B{0}\"\nactive = \"high\"\nsafe = \"off\"\nmin_off = \"1 "
            "min\"\nclaims = [ {{ when = \"d_{0}\", then = \"on\" }} ]\n",
            i);
    return out;
}

TEST(Never, cost_does_not_multiply_with_independent_parts) {
    const rig::Rig r = parsed(many(40));
    const rig::NeverResult is = rig::Nevers(r).look_at(0);
    EXPECT_EQ(is.verdict, Verdict::proved);
    EXPECT_LT(is.questions, 20'000u);
}

TEST(Never, a_line_that_takes_too_long_is_open_and_not_proved) {
    const rig::Rig r = parsed(many(40));
    EXPECT_EQ(rig::Nevers(r).look_at(0, std::chrono::milliseconds(0)).verdict, Verdict::open);
}

TEST(Never, is_right_about_random_rigs) {
    random_rig::Tally tally;
    for (uint64_t seed = 1; seed <= 300 && tally.fault.empty(); ++seed)
        random_rig::try_one(seed, 2, 120, tally);
    EXPECT_EQ(tally.fault, "");
    EXPECT_EQ(tally.open, 0u);
    EXPECT_GT(tally.proved, 200u);
    EXPECT_GT(tally.broken, 400u);
    EXPECT_LT(tally.may * 20, tally.broken); // nearly all that can happen is shown
}

TEST(Never, knows_hands_shutdowns_curves_patterns_and_how_much) {
    const std::string rig = R"toml(
[board]
chip = "other"
adc_bits = 10
[sense.a]
part = "percent"
pin = "A0"
code_at_0 = 60
code_at_100 = 900
[sense.key]
part = "digital_input"
pin = "D0"
active = "high"
[sense.toggle]
part = "digital_input"
pin = "D1"
active = "high"
[decide.much]
of = "a"
points = [["10 %", "20 %"], ["90 %", "90 %"]]
[pattern.blink]
steps = [["100 %", "1 s"], ["off", "1 s"]]
[drive.strip]
part = "pwm"
pin = "D2"
safe = "off"
by_hand = { when = "key", then = "100 %", longest = "1 min" }
claims = [ { then = "much" } ]
[drive.flash]
part = "led"
pin = "D3"
safe = "off"
claims = [ { when = "by_hand(strip)", then = "blink" } ]
[drive.first]
part = "relay"
pin = "D4"
active = "high"
safe = "off"
claims = [ { when = "key", then = "on" } ]
[drive.second]
part = "relay"
pin = "D5"
active = "high"
safe = "off"
claims = [ { when = "key", then = "on" } ]
[rig.shutdown]
when = "toggle"
order = ["first", "second"]
gap = "2 s"
)toml";
    const struct {
        const char* never;
        Verdict verdict;
        const char* step; ///< in the way that breaks it
    } cases[] = {
        {"strip at full and not by_hand(strip)", Verdict::proved, ""},
        {"strip at full", Verdict::broken, "key is yes: strip goes to full"},
        {"strip and lost(a) and not by_hand(strip)", Verdict::proved, ""},
        {"by_hand(strip) and not strip", Verdict::proved, ""},
        {"flash and not by_hand(strip)", Verdict::proved, ""},
        {"flash at full", Verdict::broken, "flash goes to full"},
        {"by_hand(strip) and flash", Verdict::broken, "key is yes"},
        {"first and toggle and not lost(toggle)", Verdict::proved, ""},
        {"second and toggle and not lost(toggle)", Verdict::broken, "toggle is yes"},
        {"second and not first and not key and not lost(key)", Verdict::proved, ""},
    };
    for (const auto& c : cases) {
        const rig::Rig r = parsed(fmt::format("[rig]\nnever = [\"{}\"]\n", c.never) + rig);
        const rig::NeverResult is = rig::Nevers(r).look_at(0);
        std::string steps;
        for (const std::string& step : is.steps)
            steps += step + "\n";
        EXPECT_EQ(is.verdict, c.verdict) << c.never << "\n" << steps;
        EXPECT_TRUE(has(steps, c.step)) << c.never << "\n" << steps;
    }
}

/// A part that is on while a key is pressed, with some keys of its own; a light; never.
std::string keyed(const std::string& never, const std::string& part, const std::string& rest = "") {
    return fmt::format(R"toml([rig]
never = ["{}"]
[board]
chip = "other"
adc_bits = 10
[sense.key]
part = "digital_input"
pin = "D0"
active = "high"
debounce = "0 s"
[sense.other]
part = "digital_input"
pin = "D1"
active = "high"
debounce = "0 s"
[sense.speed]
part = "pulse_counter"
pin = "D2"
edges_per_turn = 1
[drive.f]
{}
pin = "P0"
[drive.r]
part = "relay"
pin = "P1"
active = "high"
safe = "off"
claims = [ {{ when = "not key", then = "on" }} ]
{})toml",
                       never, part, rest);
}

TEST(Never, knows_what_goes_on_by_itself) {
    const std::string motor =
        "part = \"fan\"\nsafe = \"off\"\nturns = \"speed\"\nstall_after = \"3 "
        "s\"\nrest_when_stalled = \"10 s\"\nclaims = [ { when = \"key\", then = "
        "\"60 %\" } ]";
    const std::string ramped =
        "part = \"fan\"\nsafe = \"off\"\nkick = \"60 %\"\nkick_for = \"500 "
        "ms\"\nramp = \"3 s\"\nclaims = [ { when = \"key\", then = \"100 %\" } ]";
    const std::string lit = "part = \"led\"\nsafe = \"off\"\nfade = \"3 s\"\nclaims = [ { when = "
                            "\"key\", then = \"100 %\" } ]";
    const std::string blinking =
        "part = \"led\"\nsafe = \"off\"\nclaims = [ { when = \"key\", then = "
        "\"blink\" } ]";
    const std::string blink =
        "[pattern.blink]\nsteps = [[\"20 %\", \"2 s\"], [\"100 %\", \"1 s\"]]\n";
    const std::string plain =
        "part = \"led\"\nsafe = \"off\"\nclaims = [ { when = \"key\", then = \"100 %\" } ]";
    const std::string test = "[rig.self_test]\nwhen = \"other\"\n";
    const struct {
        const char* what;
        std::string rig;
        Verdict verdict;
        const char* told;
    } cases[] = {
        {"a motor stays stalled when its claim has ended", keyed("r and stalled(f)", motor),
         Verdict::broken, "stalled(f) is yes"},
        {"a kick and a ramp do not come at once",
         keyed("not f and key and not lost(key) and not rises(key)", ramped), Verdict::proved, ""},
        {"a ramp goes on from the kick", keyed("f at full and rises(key)", ramped), Verdict::proved,
         ""},
        {"it is shown as it happens", keyed("f at full", ramped), Verdict::broken,
         "f goes to full"},
        {"a lamp that fades is dark at power-up",
         keyed("f and not key and not lost(key) and not falls(key) and r and not by_hand(f)",
               lit + "\nby_hand = { when = \"other\", then = \"off\", longest = \"1 s\" }"),
         Verdict::broken, "falls(key)"},
        {"a pattern begins with its first step", keyed("f at full and rises(key)", blinking, blink),
         Verdict::proved, ""},
        {"and comes to the others in time", keyed("f at full", blinking, blink), Verdict::broken,
         "2 s, by time alone: f goes to full"},
        {"only a self-test", keyed("f and not key and not lost(key)", plain, test), Verdict::proved,
         "in a self-test"},
    };
    for (const auto& c : cases) {
        const rig::Rig r = parsed(c.rig);
        const rig::NeverResult is = rig::Nevers(r).look_at(0);
        std::string steps;
        for (const std::string& step : is.steps)
            steps += step + "\n";
        EXPECT_EQ(is.verdict, c.verdict) << c.what << "\n" << steps;
        EXPECT_TRUE(has(steps, c.told)) << c.what << "\n" << steps;
    }
}

TEST(Never, tells_a_bar_by_its_stages_and_counts_edges) {
    const auto line = [](const std::string& never) {
        const rig::Rig r = parsed(keyed(
            never,
            "part = \"led\"\nsafe = \"off\"\nclaims = [ { when = \"key\", then = \"100 %\" } ]",
            R"toml([drive.bar]
part = "led_bar"
pins = ["B0", "B1", "B2"]
safe = "off"
claims = [ { when = "key", then = "stage 2" } ]
[decide.often]
when = "key"
times = 4
)toml"));
        return rig::Nevers(r).look_at(0);
    };
    EXPECT_EQ(line("bar at full").verdict, Verdict::proved);
    EXPECT_EQ(line("bar").verdict, Verdict::broken);
    const rig::NeverResult often = line("often");
    EXPECT_EQ(often.verdict, Verdict::broken);
    EXPECT_GE(often.rows.size(), 8u); // four times pressed and let go
}

TEST(Never, a_condition_of_many_sensors_is_counted_right) {
    std::string rig =
                    "[rig]\nnever = [\"siren and heater\"]\n[board]\nchip = \"other\"\nadc_bits = "
                    "10\n",
                any;
    for (int i = 0; i < 32; ++i) {
        rig += fmt::format(
            "[sense.t{0}]\npart = \"thermistor\"\npin = \"A{0}\"\nnominal = \"10 "
            "kohm\"\nbeta = \"3950 K\"\npull_up = \"10 kohm\"\nrange = [\"-20 degC\", "
            "\"80 degC\"]\n[decide.h{0}]\nof = \"t{0}\"\nabove = \"30 degC\"\nrelease = "
            "\"28 degC\"\n",
            i);
        any += fmt::format("{}h{}", i == 0 ? "" : " or ", i);
    }
    for (const char* name : {"siren", "heater"})
        rig +=
            fmt::format("[drive.{0}]\npart = \"relay\"\npin = \"{0}\"\nactive = \"high\"\nsafe = "
                        "\"off\"\nclaims = [ {{ when = \"{1}\", then = \"on\" }} ]\n",
                        name, any);
    const rig::Rig r = parsed(rig);
    EXPECT_EQ(rig::Nevers(r).look_at(0).verdict, Verdict::broken);
}

TEST(Never, counter_example_is_replayed_by_run_into_the_very_violation) {
    const desk::Folder folder;
    std::string hens =
        desk::read_all(std::string(ZORILLA_SOURCE) + "/examples/hen_house/hen_house.toml");
    const std::string guard = "never_with = \"heat_lamp\"\n";
    hens.erase(hens.find(guard), guard.size());
    const std::string rig = folder.write("hens.toml", hens), trace = folder / "ce.csv";
    const desk::Outcome is =
        desk::zorilla(fmt::format("check '{}' --counter-example '{}'", rig, trace));
    EXPECT_EQ(is.status, 1) << is.err;
    EXPECT_TRUE(has(is.out, "heat_lamp and water_valve: it can happen, in 3 steps:")) << is.out;
    const desk::Outcome run = desk::zorilla(
        fmt::format("run '{}' --trace '{}' --csv '{}'", rig, trace, folder / "out.csv"));
    EXPECT_EQ(run.status, 1) << run.err;
    EXPECT_TRUE(
        has(run.out, "never heat_lamp and water_valve                               broken"))
        << run.out;
    const std::string table = desk::read_all(folder / "out.csv");
    const auto fields = [](const std::string& line) {
        std::vector<std::string> out(1);
        bool quoted = false;
        for (const char c : line) {
            quoted = quoted != (c == '"');
            if (c == ',' && !quoted)
                out.emplace_back();
            else
                out.back() += c;
        }
        return out;
    };
    const auto header = fields(table.substr(0, table.find('\n')));
    const size_t end = table.rfind('\n', table.size() - 2) + 1;
    const auto last = fields(table.substr(end, table.size() - 1 - end));
    for (const char* name : {"heat_lamp", "water_valve"}) {
        const auto at = std::find(header.begin(), header.end(), name) - header.begin();
        ASSERT_LT(static_cast<size_t>(at), last.size()) << table;
        EXPECT_EQ(last[static_cast<size_t>(at)], "on") << name << "\n" << table;
    }
}

TEST(Never, tool_prints_proof_and_counter_example_and_tells_mistakes) {
    const desk::Folder folder;
    const auto check = [&folder](const std::string& text) {
        return desk::zorilla("check '" + folder.write("gate.toml", text) + "'");
    };
    const desk::Outcome kept = check(gate("[\"up and down\"]"));
    EXPECT_EQ(kept.status, 0) << kept.out;
    EXPECT_TRUE(has(kept.out, "up and down: proved, it cannot happen")) << kept.out;
    const desk::Outcome broken = check(gate("[\"up and down\"]", "never_with = \"down\"", ""));
    EXPECT_EQ(broken.status, 1) << broken.out;
    EXPECT_TRUE(has(broken.out, "up and down: it can happen, in 3 steps:\n    1. ")) << broken.out;
    struct Case {
        const char* never;
        const char* told;
    };
    for (const Case& c :
         {Case{"\"up and down\"", "must be a list of 1 to 64"},
          Case{"[1]", "what must never be is a condition"},
          Case{"[\"up and donw\"]", "there is no [drive.donw] or [decide.donw]; did you mean"},
          Case{"[\"up and\"]", "is missing here"}}) {
        const desk::Outcome out = check(gate(c.never));
        EXPECT_EQ(out.status, 1);
        EXPECT_TRUE(has(out.err, c.told)) << out.err;
    }
    const desk::Outcome claim =
        check(gate("[\"up\"]", "when = \"gate in falling or hot\"", "when = \"up\""));
    EXPECT_TRUE(has(claim.err, "up is an output; only \"never\" of [rig] may look at those"))
        << claim.err;
}

} // namespace
