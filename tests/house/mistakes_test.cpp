// SPDX-License-Identifier: MIT
// Mistakes in a C++ device do not compile, and the compiler's message says what is wrong. Tried
// with the compiler of this build and with clang.
#include "tests/desk/process.hpp"

#include <gtest/gtest.h>

namespace {

using desk::has;

const std::string compilers[] = {ZORILLA_CXX, ZORILLA_CLANG};

struct Case {
    const char* text;
    const char* said; ///< "" for what must compile
};

/// What a compiler says of each case, where all of them stand in one file, each in a namespace and
/// under a file name of its own; "" of one about which it does not complain.
std::vector<std::string> complaints(const std::string& compiler, const std::vector<Case>& cases) {
    std::string text = "#include <zorilla/zorilla.hpp>\n";
    for (size_t i = 0; i < cases.size(); ++i)
        text += fmt::format(
            "#line 1 \"case_{0}.cpp\"\nnamespace case_{0} {{ using namespace zorilla; {1} }}\n", i,
            cases[i].text);
    const desk::Folder folder;
    const desk::Outcome out = desk::shell(
        compiler + " -std=c++17 -Wall -Wextra -Wpedantic -Werror -Wno-unused -fsyntax-only " +
        (has(compiler, "clang") ? "-ferror-limit=0" : "-fmax-errors=0") +
        " -I" ZORILLA_SOURCE "/include " + folder.write("all.cpp", text));
    // Each error belongs to the case whose file stands in it, or else nearest to it: g++ says
    // before the error where it was needed, clang behind it.
    std::vector<std::string> lines(1);
    for (const char c : out.err)
        if (c == '\n')
            lines.emplace_back();
        else
            lines.back() += c;
    const auto case_of = [](const std::string& line) {
        const size_t at = line.find("case_");
        return at == std::string::npos ? -1 : std::atoi(line.c_str() + at + 5);
    };
    std::vector<std::string> said(cases.size());
    const bool before = !has(compiler, "clang");
    for (size_t i = 0; i < lines.size(); ++i) {
        if (!has(lines[i], "error:"))
            continue;
        int which = case_of(lines[i]);
        for (size_t away = 1; which < 0 && away < 60; ++away) {
            const size_t at = before ? i - away : i + away;
            if (at >= lines.size() || (!before && has(lines[at], "error:")))
                break;
            which = case_of(lines[at]);
        }
        if (which < 0 || static_cast<size_t>(which) >= cases.size()) {
            ADD_FAILURE() << compiler << ": whose is this?\n" << lines[i];
            continue;
        }
        // With the few lines that say more of it.
        for (size_t more = i; more < std::min(i + 8, lines.size()); ++more)
            said[static_cast<size_t>(which)] += lines[more] + "\n";
    }
    return said;
}

TEST(Mistakes, do_not_compile_and_say_why) {
    const std::vector<Case> cases = {
        {"constexpr Duration d = 2_min + 30_s;", ""},
        {"constexpr auto b = below(4_degC).release(6_degC); Threshold<b> t;", ""},
        {"constexpr auto r = relay(active_low).safe(off); Relay<r> t;", ""},
        {"constexpr auto p = thermistor(10_kohm, 3950_K).pull_up(10_kohm); Thermistor<p> t;", ""},
        {"constexpr auto b = below(4_degC).release(3_degC); Threshold<b> t;",
         "the release point must lie above a below()"},
        {"constexpr auto b = above(4_degC).release(4_degC); Threshold<b> t;",
         "the release point must lie above a below()"},
        {"constexpr auto b = below(4_degC); Threshold<b> t;",
         "say where this threshold lets go again"},
        {"constexpr auto w = inside(18_degC, 24_degC).release(17_degC, 25_degC); Window<w> t;", ""},
        {"constexpr auto w = inside(18_degC, 24_degC).release(19_degC, 25_degC); Window<w> t;",
         "the release points must lie further out"},
        {"constexpr auto w = outside(24_degC, 18_degC).release(19_degC, 20_degC); Window<w> t;",
         "the lower end of a window must lie below"},
        {"constexpr auto w = inside(18_degC, 24_degC); Window<w> t;",
         "say where this window lets go again"},
        {"constexpr auto l = rising(30_degC, 35_degC).release(31_degC); Ladder<l> t;",
         "each stage must let go below where it begins"},
        {"constexpr auto l = rising(30_degC, 29_degC).release(27_degC); Ladder<l> t;",
         "the stages must begin one after the other"},
        {"constexpr auto l = rising(30_degC, 35_degC); Ladder<l> t;",
         "say where these stages let go again"},
        {"constexpr auto c = curve(point(30_degC, 0_percent), point(20_degC, 9_percent)); Curve<c> "
         "t;",
         "the points of a curve must go up"},
        {"constexpr auto c = curve(point(3_degC, 0_percent), point(20_degC, 101_percent));",
         "overflow_in_a_constant"},
        {"constexpr auto a = act_for(2_s); Attempts<a> t;", "needs act_for and rest_for"},
        {"constexpr auto a = act_for(2_s).rest_for(1_s).longest_total(1_s); Attempts<a> t;",
         "leave room for one action"},
        {"enum class S : uint8_t { a, b }; enum class E : uint8_t { x };"
         "constexpr auto m = machine(S::a, transition(S::a, S::b).when(E::x)); Machine<m> t;",
         "a state has no way out"},
        {"enum class S : uint8_t { a, b }; enum class E : uint8_t { x };"
         "constexpr auto m = machine(S::a, transition(S::a, S::b).when(E::x)).ends_in(S::b);"
         "Machine<m> t;",
         ""},
        {"enum class S : uint8_t { a, b, c }; enum class E : uint8_t { x };"
         "constexpr auto m = machine(S::a, transition(S::a, S::b).when(E::x), transition(S::b, "
         "S::a).after(2_s), transition(S::c, S::a).when(E::x)); Machine<m> t;",
         "a state cannot be reached"},
        {"enum class S : uint8_t { a, b, c }; enum class E : uint8_t { x };"
         "constexpr auto m = machine(S::a, transition(S::a, S::b).when(E::x), transition(S::a, "
         "S::c).when(E::x), transition(S::b, S::a).after(2_s), transition(S::c, S::a).after(1_s));"
         "Machine<m> t;",
         "a transition can never be taken"},
        {"enum class S : uint8_t { a, b };"
         "constexpr auto m = machine(S::a, transition(S::a, S::b).after(9_s), transition(S::a, "
         "S::b).after(2_s), transition(S::b, S::a).after(2_s)); Machine<m> t;",
         "a transition can never be taken"},
        {"enum class S : uint8_t { a, b };"
         "constexpr auto m = machine(S::a, transition(S::a, S::b), transition(S::b, "
         "S::a).after(2_s)); Machine<m> t;",
         "a transition needs .when(...) or .after(...)"},
        {"constexpr auto r = relay(active_low); Relay<r> t;",
         "say what this relay does when a sensor fails"},
        {"constexpr auto l = led(active_high).safe(0_percent).fade(3_s); Led<l> t;", ""},
        {"constexpr auto l = led(active_high).fade(3_s); Led<l> t;", "when a sensor fails"},
        {"constexpr auto l = led(active_high).safe(0_percent).fade(1_h); Led<l> t;", "0 to 25 min"},
        {"constexpr auto d = 0_s; Hand<d> t;", "must end by itself"},
        {"constexpr auto p = thermistor(10_kohm, 3950_K).pull_up(10_kohm).range(0_degC, 60_degC);"
         "constexpr auto f = below(70_degC).release(72_degC); CodeThreshold<p, f> t;",
         "cannot reach both points"},
        {"constexpr auto r = relay(active_low).safe(off).longest_on(1_h); Relay<r> t;",
         "needs a min_off to rest for"},
        {"constexpr auto r = relay(active_low).safe(off).min_on(-1_s); Relay<r> t;",
         "times must lie between 0 and 24 days"},
        {"constexpr auto p = thermistor(10_kohm, 3950_K); Thermistor<p> t;",
         "say which resistor forms the divider"},
        {"constexpr auto p = thermistor(10_kohm, 39_K).pull_up(10_kohm); Thermistor<p> t;",
         "Beta must lie between"},
        {"constexpr auto p = thermistor(10_kohm, 3950_K).pull_up(1_kohm); Thermistor<p> t;",
         "cannot be told from a broken or shorted wire"},
        {"constexpr auto p = thermistor(10_kohm, "
         "3950_K).pull_up(10_kohm).bits(16).accuracy(0.001_K);"
         "Thermistor<p> t;",
         "ask for less .accuracy()"},
        {"constexpr auto c = linear_chip(10_mV_per_K, 500_mV).reference(5_V); LinearChip<c> t;",
         ""},
        {"constexpr auto c = linear_chip(10_mV_per_K, 500_mV); LinearChip<c> t;",
         "say against which voltage"},
        {"constexpr auto c = linear_chip(1_mV_per_K, 500_mV).reference(5_V).range(0_degC, 20_degC);"
         "LinearChip<c> t;",
         "the range covers fewer than 10 codes"},
        {"constexpr auto p = thermistor(point(0_degC, 30_kohm), point(25_degC, 30_kohm), "
         "point(50_degC, "
         "4_kohm)).pull_up(10_kohm); Thermistor<p> t;",
         "no thermistor's"},
        {"constexpr auto p = thermistor_table(point(0_degC, 30_kohm), point(25_degC, 31_kohm), "
         "point(50_degC, 4_kohm)).pull_up(10_kohm); Thermistor<p> t;",
         "resistance one way"},
        {"constexpr auto p = photoresistor(10_kohm, 10_lx, 7_times).pull_down(10_kohm); "
         "Photoresistor<p> t;",
         "gamma must lie between"},
        {"constexpr auto p = phototransistor(500_nA_per_lx).reference(5_V); Phototransistor<p> t;",
         "say where the load"},
        {"constexpr auto p = percent_between(500, 505); Share<p> t;", "at least 10 apart"},
        {"constexpr auto p = percent_between(1, 900); Share<p> t;", "broken or shorted wire"},
        {"constexpr auto p = percent_between(1, 900).without_wire_check(); Share<p> t;", ""},
        {"constexpr auto p = humidity_chip(31_mV_per_percent, 800_mV); HumidityChip<p> t;",
         "say against which voltage"},
        {"constexpr auto p = ranger(20_mm, 9_m); Ranger<p> t;", "within 6 m"},
        {"constexpr auto p = ranger(20_mm, 4_m).silent_from(10_ms); Ranger<p> t;",
         "longer than an echo from the far limit"},
        {"constexpr auto p = humidity_frame(FrameCoding::tenths).every(1_s); HumidityFrame<p> t;",
         "must not be read more often"},
        {"constexpr auto p = gas_sensor(gas_point(10_ppm, 1_times), gas_point(20_ppm, 2_times))"
         ".pull_down(10_kohm); GasSensor<p> t(30_kohm);",
         "that fall together"},
        {"constexpr auto p = gas_sensor(gas_point(10_ppm, 2_times), gas_point(20_ppm, 1_times))"
         ".pull_up(10_kohm); GasSensor<p> t(30_kohm);",
         "from the pin to ground"},
        {"constexpr auto p = moisture_probe(620, 210).settle(2_min); MoistureProbe<p> t;",
         "between 0 and 1 min"},
        {"constexpr auto p = analogue_level(2_V, 1_V).reference(5_V); AnalogueLevel<p> t;",
         "four codes between them"},
        {"constexpr auto p = turning_speed(0); PulseRate<p> t;", "1 to 1,000 edges"},
        {"constexpr auto p = value_table(at(112, 0_cm), at(100, 20_cm)); ValueTable<p> t;",
         "go up in code"},
        {"Median<4, Temperature> m;", "an odd number"},
        {"bool f(Reading<Temperature> a, Reading<Length> b) { return difference(a, b).ok(); }",
         "no match"},
        {"constexpr Duration d = 25_h * 24;", "overflow_in_a_constant"},
        {"constexpr Duration d = 600_h;", "too large for its unit"},
        {"constexpr Resistance r = 0.5_ohm;", "finer than what its unit can hold"},
        {"constexpr Duration d = 1e3_s;", "write a plain decimal number"},
        {"constexpr auto t = Temperature(4_degC) + Temperature(6_degC);", "no match"},
        {"constexpr Temperature t = 4_K;", "conver"},
        {"constexpr bool b = 4_degC < 2_min;", "no match"},
        {"constexpr auto p = thermistor(10_kohm, 3950_K).pull_up(10_kohm).range(0_degC, 40_degC);"
         "constexpr auto b = above(60_degC).release(55_degC);"
         "Truth f(Threshold<b>& t, Thermistor<p>& s) { return t.decide(s.read(Sample(5))); }",
         "the sensor cannot reach this threshold"},
        {"constexpr auto p = thermistor(10_kohm, 3950_K).pull_up(10_kohm).range(0_degC, 70_degC);"
         "constexpr auto b = above(60_degC).release(55_degC);"
         "Truth f(Threshold<b>& t, Thermistor<p>& s) { return t.decide(s.read(Sample(5))); }",
         ""},
        {"constexpr auto p = thermistor(10_kohm, 3950_K).pull_up(10_kohm).range(0_degC, 40_degC);"
         "constexpr auto w = inside(-5_degC, 20_degC).release(-8_degC, 25_degC);"
         "Truth f(Window<w>& t, Thermistor<p>& s) { return t.decide(s.read(Sample(5))); }",
         "the sensor cannot reach a point of this window"},
        {"constexpr auto p = percent_between(100, 900);"
         "constexpr auto l = rising(30_percent, 140_percent).release(20_percent);"
         "auto f(Ladder<l>& t, Share<p>& s) { return t.decide(s.read(Sample(5))); }",
         "the sensor cannot reach a stage"},
        {"enum class S : uint8_t { a, b }; enum class E : uint8_t { x, y };"
         "constexpr auto m = machine(S::a, transition(S::a, S::b).when(E::x), transition(S::b, "
         "S::a).when(E::y));"
         "void f(Machine<m>& t, Truth x) { t.pass(Instant(1), event<E::x>(x)); }",
         "give the truth of every event"},
        {"enum class S : uint8_t { a, b }; enum class E : uint8_t { x, y };"
         "constexpr auto m = machine(S::a, transition(S::a, S::b).when(E::x), transition(S::b, "
         "S::a).when(E::x));"
         "void f(Machine<m>& t, Truth x) { t.pass(Instant(1), event<E::x>(x), event<E::y>(x)); }",
         "give the truth of every event"},
        {"enum class S : uint8_t { a, b }; enum class E : uint8_t { x, y };"
         "constexpr auto m = machine(S::a, transition(S::a, S::b).when(E::x), transition(S::b, "
         "S::a).when(E::y));"
         "void f(Machine<m>& t, Truth x) { t.pass(Instant(1), event<E::y>(x), event<E::x>(x)); }",
         ""},
        {"constexpr auto p = turning_speed(2).by_window(60_s); PulseRate<p> r;",
         "make by_window shorter"},
        {"constexpr auto l = led(active_high).safe(0_percent);"
         "void f(Led<l>& t, Truth x) { t.drive(Instant(1), set_when(x, 100_percent)); }",
         ""},
        {"constexpr auto fan = zorilla::fan().safe(0_percent); constexpr int led = 1, at = 2;"
         "Fan<fan> f; static_assert(led + at == 3);",
         ""},
        {"bool f(Truth t) { return t; }", "conver"},
        {"Temperature f(Reading<Temperature> r) { return r; }", "conver"},
    };
    for (const std::string& compiler : compilers) {
        const std::vector<std::string> said = complaints(compiler, cases);
        for (size_t i = 0; i < cases.size(); ++i) {
            const Case& c = cases[i];
            if (*c.said == '\0') {
                EXPECT_EQ(said[i], "") << compiler << ": " << c.text;
                continue;
            }
            // The two compilers word a missing operator or conversion differently.
            const bool other_words =
                (has(c.said, "no match") &&
                 (has(said[i], "invalid operands") || has(said[i], "no matching function"))) ||
                (has(c.said, "conver") && has(said[i], "cannot initialize")) ||
                (has(c.said, "conver") && has(said[i], "no viable"));
            EXPECT_TRUE(has(said[i], c.said) || other_words) << compiler << ": " << c.text << "\n"
                                                             << said[i];
        }
    }
}

TEST(Mistakes, a_compiler_that_is_too_old_is_told_which_one_to_take) {
    const desk::Folder folder;
    const std::string source = folder.write("old.cpp", "#include <zorilla/zorilla.hpp>\n");
    for (const std::string& compiler : {std::string(ZORILLA_CXX) + " -std=c++14",
                                        std::string("avr-g++ -mmcu=atmega328p -std=gnu++1z")}) {
        const desk::Outcome out =
            desk::shell(compiler + " -fsyntax-only -I" ZORILLA_SOURCE "/include " + source);
        EXPECT_NE(out.status, 0);
        EXPECT_TRUE(has(out.err, "take clang 19 (clang++-19")) << out.err;
        EXPECT_LT(desk::lines_of(out.err), 20) << out.err;
    }
}

TEST(Headers, each_stands_alone_on_every_compiler_without_a_standard_library) {
    const std::string flags =
        " -std=c++17 -Wall -Wextra -Wpedantic -Wconversion -Wshadow -Werror "
        "-fno-exceptions -fno-rtti -fsyntax-only -x c++ -I" ZORILLA_SOURCE "/include ";
    const std::string avr =
        std::string(ZORILLA_CLANG) +
        " --target=avr -mmcu=atmega328p -isystem /usr/lib/avr/include -nostdinc++";
    // On the hosts, nothing of the C++ library may be in reach.
    const std::string hosts[] = {std::string(ZORILLA_CXX) + " -nostdinc++",
                                 std::string(ZORILLA_CLANG) + " -nostdinc++",
                                 "arm-none-eabi-g++ -mcpu=cortex-m0 -mthumb -nostdinc++", avr};
    const auto compile = [&flags](const std::string& compiler, const std::string& text) {
        const desk::Folder folder;
        const desk::Outcome out = desk::shell(compiler + flags + folder.write("one.cpp", text));
        EXPECT_EQ(out.status, 0) << compiler << " on " << text << "\n" << out.err;
    };
    int headers = 0;
    std::string all;
    for (const auto& entry :
         std::filesystem::recursive_directory_iterator(ZORILLA_SOURCE "/include")) {
        const std::string path = entry.path().string();
        if (entry.path().extension() != ".hpp")
            continue;
        ++headers;
        const std::string text = "#include \"" + path + "\"\n";
        compile(has(path, "atmega328p") || has(path, "avr_") ? avr : hosts[0], text);
        if (!has(path, "atmega328p") && !has(path, "avr_"))
            all += text;
    }
    // Which compiler it is makes no difference to that; each takes all of them once.
    for (const std::string& compiler : hosts)
        compile(compiler, all);
    EXPECT_GT(headers, 15);
}

} // namespace
