// SPDX-License-Identifier: MIT
// What must never be: proved, or broken by a sequence; and what is proved does not happen when the
// rig runs.
#include "rig/never.hpp"
#include "rig/running_rig.hpp"
#include "tests/desk/process.hpp"

#include <gtest/gtest.h>

#include <random>

namespace {

using namespace zorilla;
using desk::has;
using Verdict = rig::NeverResult::Verdict;

/// A gate with two motors, a probe, and a machine; `never` and one line may be changed.
std::string gate(const std::string& never, const std::string& before = "",
                 const std::string& after = "") {
    std::string out = R"toml([rig]
never = NEVER

[sense.air]
part = "thermistor"
pin = "ADC0"
nominal = "10 kohm"
beta = "3950 K"
pull_up = "10 kohm"
range = ["-20 degC", "60 degC"]

[sense.up_pressed]
part = "digital_input"
pin = "PD2"
active = "low"
debounce = "0 s"

[sense.down_pressed]
part = "digital_input"
pin = "PD3"
active = "low"
debounce = "0 s"

[decide.frost]
of = "air"
below = "2 degC"
release = "4 degC"

[decide.hot]
of = "air"
above = "30 degC"
release = "28 degC"
for_at_least = "1 min"

[machine.gate]
start = "still"
moves = [
  { from = "still", to = "rising", when = "up_pressed and not frost" },
  { from = "still", to = "falling", when = "down_pressed" },
  { from = "rising", to = "still", when = "frost" },
  { from = "any", to = "still", after = "20 s" },
]

[drive.up]
part = "relay"
pin = "PB0"
active = "high"
safe = "off"
min_off = "1 s"
never_with = "down"
claims = [ { when = "gate in rising", then = "on" } ]

[drive.down]
part = "relay"
pin = "PB1"
active = "high"
safe = "off"
min_on = "2 s"
never_with = "up"
claims = [ { when = "gate in falling or hot", then = "on" } ]
)toml";
    const auto change = [&out](const std::string& from, const std::string& to) {
        const size_t at = out.find(from);
        EXPECT_NE(at, std::string::npos) << from;
        out.replace(at, from.size(), to);
    };
    change("NEVER", never);
    if (!before.empty())
        change(before, after);
    return out;
}

rig::Rig parsed(const std::string& text) {
    rig::RigFile file = rig::parse_rig(text);
    EXPECT_TRUE(file.mistakes.empty()) << file.mistakes.front().text;
    return std::move(file.rig);
}

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
        {"[\"up and down\"]", interlock_up, "", Verdict::broken, 2, "up goes on"},
        // min_on of the other keeps it on while the machine goes on.
        {"[\"down and gate in rising\"]", "", "", Verdict::broken, 0, "down goes on"},
        {"[\"frost and hot\"]", "", "", Verdict::broken, 1, "air is not healthy"},
        {"[\"frost and hot and not lost(air)\"]", "", "", Verdict::proved, 0, ""},
        {"[\"up and lost(air)\"]", "", "", Verdict::broken, 0, "air is not healthy"},
        {"[\"down and lost(air) and not gate in falling\"]", "", "", Verdict::proved, 0, ""},
        {"[\"gate in rising and frost and not lost(air)\"]", "", "", Verdict::proved, 0, ""},
        {"[\"gate in rising and frost and not lost(air)\"]",
         "  { from = \"rising\", to = \"still\", when = \"frost\" },\n", "", Verdict::broken, 2,
         "gate goes to rising"},
        {"[\"hot and not lost(air)\"]", "", "", Verdict::broken, 1, "hot has been yes for 1 min"},
    };
    for (const Case& c : cases) {
        const rig::NeverReport report =
            rig::explore_nevers(parsed(gate(c.never, c.before, c.after)));
        ASSERT_EQ(report.results.size(), 1u);
        const rig::NeverResult& result = report.results[0];
        std::string steps;
        for (const std::string& step : result.steps)
            steps += step + "\n";
        EXPECT_EQ(result.verdict, c.verdict) << c.never << c.before << "\n" << steps;
        EXPECT_TRUE(c.steps == 0 || result.steps.size() == c.steps) << c.never << "\n" << steps;
        EXPECT_TRUE(has(steps, c.told)) << c.never << "\n" << steps;
    }
}

TEST(Never, what_is_proved_does_not_happen_in_a_hundred_thousand_passes) {
    const rig::Rig r =
        parsed(gate("[\"up and down\", \"frost and hot and not lost(air)\", \"down and "
                    "lost(air) and not gate in falling\", \"gate in rising and frost "
                    "and not lost(air)\", \"up and gate in falling\"]"));
    const rig::NeverReport report = rig::explore_nevers(r);
    rig::RunningRig running(r);
    std::mt19937 random(12);
    uint32_t now = 0;
    int64_t code = 600;
    int ups = 0;
    std::vector<int> happened(r.nevers.size());
    for (int i = 0; i < 100'000; ++i) {
        now += static_cast<uint32_t>(random() % 9000);
        if (random() % 3 == 0)
            code = random() % 10 == 0 ? 1023 : 380 + static_cast<int64_t>(random() % 430);
        const rig::Raw raws[] = {rig::Raw(code), rig::Raw(int64_t{random() % 3 != 0}),
                                 rig::Raw(int64_t{random() % 3 != 0})};
        running.pass(Instant(now), raws);
        std::vector<Truth> truths = running.truths();
        for (size_t f = 0; f < r.facts.size(); ++f)
            if (r.facts[f].kind == rig::Fact::Kind::is_on)
                truths[f] = truth_of(running.drivens()[r.facts[f].of].is_on);
        for (size_t n = 0; n < r.nevers.size(); ++n)
            happened[n] += r.nevers[n].condition.evaluate(truths.data()) != Truth::no;
        ups += running.drivens()[0].is_on;
    }
    EXPECT_GT(ups, 1000);
    int proved = 0;
    for (size_t n = 0; n < r.nevers.size(); ++n) {
        proved += report.results[n].verdict == Verdict::proved;
        EXPECT_TRUE(report.results[n].verdict != Verdict::proved || happened[n] == 0)
            << r.nevers[n].text;
    }
    EXPECT_GE(proved, 4);
}

/// Many sensors, each with a threshold and a relay of its own.
std::string many(int count) {
    std::string never;
    for (int i = 0; i < count; ++i)
        never += fmt::format("{0}relay_{1} and lost(s_{1})", i == 0 ? "" : " or ", i);
    std::string out =
        fmt::format("[rig]\nnever = [\"{}\"]\n[board]\nchip = \"other\"\nadc_bits = 10\n", never);
    for (int i = 0; i < count; ++i)
        out += fmt::format("[sense.s_{0}]\npart = \"percent\"\npin = \"A{0}\"\ncode_at_0 = "
                           "60\ncode_at_100 = 900\n[decide.d_{0}]\nof = \"s_{0}\"\nabove = \"60 "
                           "%\"\nrelease = \"50 %\"\n[drive.relay_{0}]\npart = \"relay\"\npin = "
                           "\"B{0}\"\nactive = \"high\"\nsafe = \"off\"\nclaims = [ {{ when = "
                           "\"d_{0}\", then = \"on\" }} ]\n",
                           i);
    return out;
}

TEST(Never, looks_at_a_million_combinations_and_says_when_a_rig_is_too_large) {
    const rig::NeverReport six = rig::explore_nevers(parsed(many(6)));
    EXPECT_EQ(six.results[0].verdict, Verdict::proved);
    EXPECT_GT(six.combinations, 1'000'000u);
    const rig::NeverReport twelve = rig::explore_nevers(parsed(many(12)), 200'000);
    EXPECT_EQ(twelve.results[0].verdict, Verdict::too_large);
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
[sense.switch]
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
when = "switch"
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
        {"first and switch and not lost(switch)", Verdict::proved, ""},
        {"second and switch and not lost(switch)", Verdict::broken, "switch is yes"},
        {"second and not first and not key and not lost(key)", Verdict::proved, ""},
    };
    for (const auto& c : cases) {
        const rig::NeverReport report =
            rig::explore_nevers(parsed(fmt::format("[rig]\nnever = [\"{}\"]\n", c.never) + rig));
        std::string steps;
        for (const std::string& step : report.results[0].steps)
            steps += step + "\n";
        EXPECT_EQ(report.results[0].verdict, c.verdict) << c.never << "\n" << steps;
        EXPECT_TRUE(has(steps, c.step)) << c.never << "\n" << steps;
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
    EXPECT_TRUE(has(broken.out, "up and down: it can happen, in 2 steps:\n    1. ")) << broken.out;
    struct Case {
        const char* never;
        const char* told;
    };
    for (const Case& c : {Case{"\"up and down\"", "must be a list of 1 to 64"},
                          Case{"[1]", "what must never be is a condition"},
                          Case{"[\"up and donw\"]", "there is no [decide.donw]"},
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
