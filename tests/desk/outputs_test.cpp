// SPDX-License-Identifier: MIT
// Outputs in rig files: what each part can be, mistakes told, and what holds for any rig.
#include "rig/rig_file.hpp"
#include "rig/run/running_rig.hpp"
#include "tests/parts/output.hpp"

#include <gtest/gtest.h>
#include <zorilla/zorilla.hpp>

#include <algorithm>
#include <iterator>
#include <random>

namespace {

using namespace parts;

TEST(Outputs, mistakes_are_told_with_what_to_type) {
    const std::string led = keys_of("led");
    expect_told(
        {{"part = \"lamp\"\npin = \"D2\"\n", "write \"relay\", \"led\""},
         {led + then("bright"), "there is no [pattern.bright] or curve of that name"},
         {led + then("on") + "[pattern.other]\nsteps = [[\"on\", \"1 s\"]]\n",
          "no claim uses the pattern \"other\""},
         {led + then("bad") + "[pattern.bad]\nsteps = [[\"on\", \"0 s\"]]\n", "lasts from 1 ms"},
         {led + then("bad") + "[pattern.bad]\nsteps = [\"on\"]\n", "a step is a value and a time"},
         {led + then("on") + "[rig.shutdown]\nwhen = \"key\"\norder = [\"its\"]\n",
          "there is no [drive.its]; did you mean \"it\"?"},
         {led + then("on") + "[rig.shutdown]\nwhen = \"key\"\norder = [\"it\", \"it\"]\n",
          "stands twice"}});
    EXPECT_FALSE(has(desk::mistakes_of(head + led + then("blnk")), "never be anything"))
        << "one mistake, one message";
}

TEST(Outputs, values_read_as_they_are_told) {
    using rig::ValueKind;
    const struct {
        ValueKind kind;
        const char* text;
        const char* again;
        uint32_t bits;
    } cases[] = {
        {ValueKind::on_off, "on", "on", 1},
        {ValueKind::duty, "40 %", "40 %", 102},
        {ValueKind::duty, "on", "100 %", 255},
        {ValueKind::duty, "0 %", "off", 0},
        {ValueKind::colour, "red 100 %, blue 40 %", "red 100 %, blue 40 %", 0xff0066},
        {ValueKind::colour, "white 20 %", "white 20 %", 0x333333},
        {ValueKind::colour, "green", "green 100 %", 0x00ff00},
        {ValueKind::tone, "2 kHz", "2000 Hz", 2000},
        {ValueKind::stage, "stage 3", "stage 3", 3},
        {ValueKind::stage, "off", "off", 0},
    };
    for (const auto& c : cases) {
        const rig::ValueText read = rig::parse_value(c.text, c.kind);
        EXPECT_TRUE(read.problem.empty()) << read.problem;
        EXPECT_EQ(read.value.bits(), c.bits) << c.text;
        EXPECT_EQ(rig::to_text(read.value, c.kind), c.again);
        EXPECT_EQ(rig::parse_value(c.again, c.kind).value, read.value);
    }
}

TEST(Outputs, a_self_test_takes_each_alone_past_claims_and_guards) {
    const rig::RigFile file = rig::parse_rig(
        "[rig.self_test]\nwhen = \"key\"\neach = \"3 s\"\n" + head +
        "part = \"relay\"\npin = \"D2\"\nactive = \"low\"\nsafe = \"off\"\nmin_off = \"1 "
        "h\"\nclaims = [ { when = \"high\", then = \"on\" } ]\n");
    ASSERT_TRUE(file.mistakes.empty()) << file.mistakes.front().text;
    rig::RunningRig running(file.rig);
    std::string told;
    for (uint32_t second = 0; second < 12; ++second) {
        const std::vector<rig::Raw> raws = {rig::Raw(900), rig::Raw(second == 2 ? 1 : 0),
                                            rig::Raw(0)};
        running.pass(Instant(second * 1000), raws.data());
        const rig::Driven& user = running.drivens()[0];
        const rig::Driven& it = running.drivens()[1];
        EXPECT_EQ(user.tested, it.tested);
        told += !it.tested                        ? '.'
                : user.value == Duty(100_percent) ? 'u'
                : it.value == on                  ? 'i'
                                                  : '?';
        EXPECT_FALSE(user.is_on && it.is_on);
    }
    EXPECT_EQ(told, "..uuuiii....");
    EXPECT_EQ(running.drivens()[1].cause, Cause::minimum_off) << "it has never been on";
    const auto mistakes = rig::parse_rig("[rig]\nself_test = 1\n").mistakes;
    EXPECT_TRUE(std::any_of(mistakes.begin(), mistakes.end(), [](const rig::Mistake& mistake) {
        return has(mistake.text, "write [rig.self_test]");
    }));
}

TEST(Outputs, a_relay_is_never_on_with_what_is_no_relay_either_and_may_blink) {
    const rig::RigFile file = rig::parse_rig(
        head + "part = \"relay\"\npin = \"D2\"\nactive = \"low\"\nsafe = \"off\"\nnever_with = "
               "\"user\"\nclaims = [ { when = \"high\", then = \"blink\" } ]\n");
    ASSERT_TRUE(file.mistakes.empty()) << file.mistakes.front().text;
    rig::RunningRig running(file.rig);
    std::string told;
    for (uint32_t second = 0; second < 12; ++second) {
        const std::vector<rig::Raw> raws = {rig::Raw(900), rig::Raw(second < 6 ? 1 : 0),
                                            rig::Raw(0)};
        running.pass(Instant(second * 1000), raws.data());
        const rig::Driven& it = running.drivens()[1];
        told += it.cause == Cause::interlock ? 'x' : it.value.any() ? 'O' : '.';
        EXPECT_EQ(it.is_on, it.cause == Cause::claim) << "a pattern is on as a whole";
    }
    // The light blinks with the same rhythm, and the relay's turn is when it is dark.
    EXPECT_EQ(told, "x.x.x.O.O.O.");
}

/// Two relays that are never on together, each switched by an input of its own.
TEST(Outputs, a_relay_is_in_each_pass_what_the_core_makes_of_it_and_for_the_same_cause) {
    for (unsigned seed = 0; seed < 300; ++seed) {
        std::mt19937 random(seed);
        const auto up_to = [&random](uint32_t most) {
            return static_cast<uint32_t>(random() % (most + 1));
        };
        std::string text = "[board]\nchip = \"other\"\nadc_bits = 10\n";
        std::vector<RelaySpec> specs;
        for (uint32_t i = 0; i < 2; ++i) {
            const uint32_t min_on = up_to(4), min_off = 1 + up_to(4), warn = up_to(9) / 7;
            const uint32_t longest = up_to(1) * (min_on + 1 + up_to(5));
            specs.push_back(relay(active_high)
                                .safe(off)
                                .min_on(1_s * static_cast<int32_t>(min_on))
                                .min_off(1_s * static_cast<int32_t>(min_off))
                                .longest_on(1_s * static_cast<int32_t>(longest))
                                .warn(1_s * static_cast<int32_t>(warn)));
            text += fmt::format(
                "[sense.s{0}]\npart = \"digital_input\"\npin = \"S{0}\"\nactive = \"high\"\n"
                "debounce = \"0 s\"\n[drive.d{0}]\npart = \"relay\"\npin = \"D{0}\"\nactive = "
                "\"high\"\nsafe = \"off\"\nmin_off = \"{1} s\"\n{2}{3}{4}{5}"
                "claims = [ {{ when = \"s{0}\", then = \"on\" }} ]\n",
                i, min_off, min_on > 0 ? fmt::format("min_on = \"{} s\"\n", min_on) : "",
                longest > 0 ? fmt::format("longest_on = \"{} s\"\n", longest) : "",
                warn > 0 ? fmt::format("warn = \"{} s\"\n", warn) : "",
                seed % 2 == 0 ? fmt::format("never_with = \"d{}\"\n", 1 - i) : "");
        }
        const rig::RigFile file = rig::parse_rig(text);
        ASSERT_TRUE(file.mistakes.empty()) << file.mistakes.front().text << "\n" << text;
        rig::RunningRig running(file.rig);
        RelayStateOf<true> states[2];
        std::vector<rig::Raw> raws = {rig::Raw(0), rig::Raw(0)};
        for (uint32_t pass = 0, now = 0; pass < 300; ++pass, now += up_to(1500)) {
            for (rig::Raw& raw : raws)
                if (up_to(6) == 0)
                    raw = up_to(9) == 0 ? rig::Raw() : rig::Raw(static_cast<int64_t>(up_to(1)));
            running.pass(Instant(now), raws.data());
            for (uint32_t i = 0; i < 2; ++i) {
                const Wish wish = !raws[i].taken()     ? Wish{off, Cause::safe, 0}
                                  : raws[i].bits() > 0 ? Wish{on, Cause::claim, 0}
                                                       : Wish{off, Cause::rest, 0};
                const bool blocked = seed % 2 == 0 && states[1 - i].value() == on;
                const Switching is = states[i].pass(specs[i], Instant(now), wish, blocked);
                const rig::Driven& told = running.drivens()[i];
                ASSERT_EQ(told.value.on_off(), is.value) << seed << ", " << now << " ms\n" << text;
                ASSERT_EQ(told.cause, is.cause) << seed << ", " << now << " ms\n" << text;
                ASSERT_EQ(told.warns, states[i].is_warning()) << seed << ", " << now << " ms";
            }
        }
    }
}

// --- What holds for any rig

/// A rig of random parts; each decision judges one of three sensors, and each claim names some.
class RandomRig {
  public:
    explicit RandomRig(unsigned seed) : random_(seed) {}

    std::string text() {
        std::string out = "[board]\nchip = \"other\"\nadc_bits = 10\n"
                          "[sense.reset]\npart = \"digital_input\"\npin = \"R\"\nactive = "
                          "\"high\"\ndebounce = \"0 s\"\n";
        for (int i = 0; i < 3; ++i)
            out += fmt::format("[sense.s{0}]\npart = \"percent\"\npin = \"A{0}\"\ncode_at_0 = "
                               "60\ncode_at_100 = 900\n",
                               i);
        for (int i = 0; i < 6; ++i)
            out += decide(i);
        out +=
            "[machine.m]\nstart = \"one\"\nmoves = [\n{ from = \"any\", to = \"one\", when = "
            "\"reset\" },\n" +
            fmt::format("{{ from = \"one\", to = \"two\", when = \"{}\" }},\n{{ from = \"two\", "
                        "to = \"three\", after = \"{} s\" }},\n{{ from = \"three\", to = \"one\", "
                        "when = \"{}\" }} ]\n",
                        condition(), 1 + below(9), condition());
        for (int i = 0; i < 5; ++i)
            out += drive(i);
        return out;
    }

  private:
    int below(int n) { return static_cast<int>(random_() % static_cast<unsigned>(n)); }
    std::string decide(int i) {
        const int low = 20 + below(50);
        std::string out = fmt::format("[decide.d{}]\n", i);
        switch (below(5)) {
        case 0:
            if (i == 0)
                break;
            return out + fmt::format("when = \"d{} and not reset\"\nact_for = \"{} s\"\nrest_for "
                                     "= \"{} s\"\ntries = 2\nreset = \"reset\"\n",
                                     i - 1, 1 + below(5), 1 + below(5));
        case 1:
            out += fmt::format("of = \"s{}\"\ninside = [\"{} %\", \"{} %\"]\nrelease = [\"{} %\", "
                               "\"{} %\"]\n",
                               below(3), low, low + 10, low - 5, low + 15);
            break;
        default: break;
        }
        if (out.find("of = ") == std::string::npos)
            out += fmt::format("of = \"s{}\"\nabove = \"{} %\"\nrelease = \"{} %\"\n", below(3),
                               low + 5, low);
        if (below(3) == 0)
            out += fmt::format("for_at_least = \"{} s\"\n", 1 + below(20));
        if (below(5) == 0)
            out += "times = 3\nreset = \"reset\"\n";
        return out;
    }
    std::string condition() {
        const std::string a = fmt::format("d{}", below(6)), b = fmt::format("d{}", below(6));
        switch (below(4)) {
        case 0: return a + " and not " + b;
        case 1: return a + " or " + b;
        default: return a;
        }
    }
    std::string drive(int i) {
        const char* const parts[] = {"relay", "relay", "led", "fan", "buzzer"};
        const char* const values[] = {"on", "on", "40 %", "70 %", "880 Hz"};
        std::string out = fmt::format(
            "[drive.o{0}]\npart = \"{1}\"\npin = \"O{0}\"\nsafe = \"off\"\n", i, parts[i]);
        if (i < 2)
            out += fmt::format("active = \"low\"\nmin_on = \"{} s\"\nmin_off = \"{} "
                               "s\"\nlongest_on = \"{} s\"\nnever_with = \"o{}\"\n",
                               1 + below(10), 1 + below(10), 30 + below(60), 1 - i);
        if (i == 2)
            out += "fade = \"2 s\"\n";
        if (i == 3)
            out += "ramp = \"1 s\"\nkick = \"100 %\"\nkick_for = \"300 ms\"\n";
        out += fmt::format("claims = [ {{ when = \"{}\", then = \"{}\" }}, {{ when = \"m in two\", "
                           "then = \"{}\" }} ]\n",
                           condition(), below(4) == 0 ? "off" : values[i], values[i]);
        return out;
    }
    std::mt19937 random_;
};

TEST(AnyRig, keeps_its_guards_goes_safe_is_the_same_twice_and_is_as_new_after_a_reset) {
    int switched = 0, safe = 0, rigs = 0;
    for (unsigned seed = 0; seed < 150; ++seed) {
        const rig::RigFile file = rig::parse_rig(RandomRig(seed).text());
        ASSERT_TRUE(file.mistakes.empty()) << file.mistakes.front().text;
        ++rigs;
        const rig::Rig& rig = file.rig;
        rig::RunningRig running(rig), again(rig);
        std::mt19937 random(seed);
        int64_t codes[3] = {100, 500, 800};
        std::vector<uint32_t> since(rig.drives.size());
        std::vector<bool> was(rig.drives.size());
        const uint32_t begin = 0xffff'0000;
        uint32_t now = begin;
        const auto pass = [&](const std::vector<rig::Raw>& raws) {
            running.pass(Instant(now), raws.data());
            again.pass(Instant(now), raws.data());
        };
        for (int i = 0; i < 600; ++i) {
            now += static_cast<uint32_t>(random() % (i % 50 == 0 ? 200'000 : 2'500));
            std::vector<rig::Raw> raws = {rig::Raw(random() % 60 == 0 ? 1 : 0)};
            for (int64_t& code : codes) {
                code =
                    std::clamp<int64_t>(code + static_cast<int64_t>(random() % 121) - 60, 60, 960);
                raws.push_back(random() % 15 == 0 ? rig::Raw() : rig::Raw(code));
            }
            pass(raws);
            ASSERT_FALSE(running.drivens()[0].is_on && running.drivens()[1].is_on);
            for (size_t d = 0; d < rig.drives.size(); ++d) {
                const rig::Driven& is = running.drivens()[d];
                // The same inputs, the same outputs.
                ASSERT_EQ(is.value, again.drivens()[d].value);
                ASSERT_EQ(is.cause, again.drivens()[d].cause);
                // The first claim that is not no is unknown: safe, whatever the guards want to keep
                // on.
                for (const rig::RigClaim& claim : rig.drives[d].claims) {
                    const Truth when = claim.when.evaluate(running.truths().data());
                    if (when == Truth::unknown) {
                        ASSERT_EQ(is.cause, Cause::safe);
                        ASSERT_TRUE(!rig.drives[d].part->swings().empty() || !is.value.any());
                        ++safe;
                    }
                    if (when != Truth::no)
                        break;
                }
                if (d >= 2)
                    continue;
                const RelaySpec& spec = *rig.drives[d].part->relay();
                const auto held = Duration::from_thousandths(
                    static_cast<int32_t>((was[d] || since[d] != 0) ? now - since[d] : now - begin));
                if (is.is_on != was[d]) {
                    ++switched;
                    if (is.is_on)
                        ASSERT_GE(held, since[d] == 0 ? Duration{} : spec.min_off());
                    else
                        ASSERT_TRUE(held >= spec.min_on() || is.cause == Cause::safe);
                    since[d] = now;
                    was[d] = is.is_on;
                } else if (is.is_on) {
                    ASSERT_LT(held, spec.longest_on());
                }
            }
        }
        // Calm inputs, a reset, and enough time: as a new one that is treated alike.
        const std::vector<rig::Raw> calm = {rig::Raw(0), rig::Raw(65), rig::Raw(65), rig::Raw(65)};
        std::vector<rig::Raw> reset = calm;
        reset[0] = rig::Raw(1);
        rig::RunningRig fresh(rig);
        for (int i = 0; i < 400; ++i) {
            now += 1000;
            const std::vector<rig::Raw>& raws = i == 200 ? reset : calm;
            running.pass(Instant(now), raws.data());
            fresh.pass(Instant(now), raws.data());
        }
        ASSERT_EQ(running.truths(), fresh.truths()) << seed;
        ASSERT_EQ(running.state(0), fresh.state(0)) << seed;
        for (size_t d = 0; d < rig.drives.size(); ++d)
            ASSERT_EQ(running.drivens()[d].value, fresh.drivens()[d].value) << seed;
    }
    EXPECT_EQ(rigs, 150);
    EXPECT_GT(switched, 5'000);
    EXPECT_GT(safe, 20'000);
}

} // namespace
