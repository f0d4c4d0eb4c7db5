// SPDX-License-Identifier: MIT
// Mistakes in a C++ device do not compile, and the compiler's message says what is wrong: those of
// each part, which its own file lists, and those of no part. Tried with the compiler of this build
// and with clang.
#include "tests/desk/process.hpp"
#include "tests/desk/rig_text.hpp"
#include "tests/parts/promises.hpp"

#include <gtest/gtest.h>

namespace {

using namespace parts;
using desk::has;

const std::string compilers[] = {ZORILLA_CXX, ZORILLA_CLANG};

const CppMistakes units_mistakes{
    {"constexpr Duration d = 2_min + 30_s;", ""},
    {"constexpr auto d = 0_s; Hand<d> t;", "must end by itself"},
    {"Median<4, Temperature> m;", "an odd number"},
    {"constexpr Duration d = 25_h * 24;", "overflow_in_a_constant"},
    {"constexpr Duration d = 600_h;", "too large for its unit"},
    {"constexpr Resistance r = 0.5_ohm;", "finer than what its unit can hold"},
    {"constexpr Duration d = 1e3_s;", "write a plain decimal number"},
    {"constexpr auto t = Temperature(4_degC) + Temperature(6_degC);", "no match"},
    {"constexpr Temperature t = 4_K;", "conver"},
    {"constexpr bool b = 4_degC < 2_min;", "no match"},
    {"bool f(Truth t) { return t; }", "conver"},
    {"Temperature f(Reading<Temperature> r) { return r; }", "conver"}};

/// What a beginner types, and the one sentence that stands for it.
namespace beginner {

const std::string is_cold = "Truth is_cold = Truth::no; ",
                  relay_lamp =
                      "constexpr auto wiring = relay(active_low).safe(off); Relay<wiring> lamp; " +
                      is_cold;
const std::string glow =
    "constexpr auto wiring = led(active_low).safe(0_percent); Led<wiring> lamp; " + is_cold;
const std::string air =
    "constexpr auto wiring = fan().safe(0_percent); Fan<wiring> lamp; " + is_cold;
const std::string horn =
    "constexpr auto wiring = output<Tone>().safe(silence); Output<wiring> lamp; " + is_cold;
const std::string roost = "constexpr auto probe = thermistor(10_kohm, 3950_K).pull_up(10_kohm)"
                          ".range(-20_degC, 80_degC); Thermistor<probe> roost; ";
const std::string frost =
    "constexpr auto frost = below(4_degC).release(6_degC); Threshold<frost> cold; ";
const std::string pass = "auto pass(Instant now) { (void)now; ";
const std::string judges = "auto judge(Reading<Temperature> heat) { return cold.decide(heat); }";
const std::string reads = "auto judge(Sample sample) { return cold.decide(roost.read(sample)); }";
const std::string steps =
    "enum class S : uint8_t { shut, open }; enum class E : uint8_t { dawn }; ";
const std::string both_moves =
    "transition(S::shut, S::open).when(E::dawn), transition(S::open, S::shut).when(E::dawn)";
const char* const claims_are_asked =
    "lamp.drive(now, on_when(is_cold)), not lamp.drive(now, is_cold)";
const char* const values_are_asked =
    "set_when(is_dusk, Duty(40_percent)) or follow(speed.decide(heat))";
const char* const when_is_asked = "say when this output does what";
const char* const constant_is_asked = "write constexpr auto for it, outside of any function";
const char* const one_kind_is_asked = "these are of two kinds";
const std::pair<std::string, std::string> types[] = {
    {relay_lamp + pass + "return lamp.drive(now, is_cold); }", claims_are_asked},
    {relay_lamp + pass + "return lamp.drive(now, is_cold, on); }", claims_are_asked},
    {relay_lamp + pass + "return lamp.drive(now, on_when(is_cold), is_cold); }", claims_are_asked},
    {relay_lamp + pass + "return lamp.drive_unless(is_cold, now, is_cold); }", claims_are_asked},
    {relay_lamp + pass + "return lamp.drive(now); }", when_is_asked},
    {glow + pass + "return lamp.drive(now, is_cold); }", values_are_asked},
    {glow + pass + "return lamp.drive(now, is_cold, Duty(40_percent)); }", values_are_asked},
    {glow + pass + "return lamp.drive(now, on_when(is_cold)); }", values_are_asked},
    {air + pass + "return lamp.drive(now, is_cold, is_cold, is_cold, Duty(4_percent)); }",
     values_are_asked},
    {air + pass + "return lamp.drive(now, is_cold, is_cold); }", when_is_asked},
    {horn + pass + "return lamp.drive(is_cold, tone(880)); }", values_are_asked},
    {horn + pass + "return lamp.drive(now, set_when(is_cold, tone(880))); }", values_are_asked},
    {"auto frost = below(4_degC).release(6_degC); Threshold<frost> cold; " + judges,
     constant_is_asked},
    {desk::with(roost, "constexpr ", "") + frost + reads, constant_is_asked},
    {desk::with(relay_lamp, "constexpr ", "") + pass +
         "lamp.drive(now, on_when(is_cold)); return lamp.level() == Level::high; }",
     constant_is_asked},
    {"auto breeze = curve(point(4_degC, 0_percent), point(6_degC, 9_percent)); Curve<breeze> "
     "cold; " +
         air +
         "auto pass(Instant now, Reading<Temperature> heat) { return lamp.drive(now, "
         "follow(cold.decide(heat))); }",
     constant_is_asked},
    {steps + "auto hatch = machine(S::shut, " + both_moves + "); Machine<hatch> door; " + is_cold +
         "bool pass(Instant now) { door.pass(now, event<E::dawn>(is_cold)); return "
         "door.in(S::open); }",
     constant_is_asked},
    {"auto call = sequence(step(tone(880), 1_s), step(silence, 1_s)); Sequence<call> song; " +
         is_cold + pass + "return song.claim(now, is_cold); }",
     constant_is_asked},
    {"constexpr auto frost = below(4_K).release(6_K); Threshold<frost> cold; " + judges,
     one_kind_is_asked},
    {roost + "constexpr auto frost = below(4_K).release(6_K); Threshold<frost> cold; " + reads,
     one_kind_is_asked},
    {"constexpr auto frost = below(4_degC).release(6_K); Threshold<frost> cold; " + judges,
     one_kind_is_asked},
    {"constexpr auto damp = above(80_percent).release(70_percent); Threshold<damp> cold; "
     "auto judge(Reading<RelativeHumidity> air) { return cold.decide(air); }",
     one_kind_is_asked},
    {roost + "constexpr auto fine = inside(4_K, 6_K).release(3_K, 7_K); Window<fine> cold; " +
         reads,
     one_kind_is_asked},
    {"constexpr auto fine = inside(4_degC, 6_K);", one_kind_is_asked},
    {roost + "constexpr auto fans = rising(4_K, 6_K).release(3_K); Ladder<fans> cold; " + reads,
     one_kind_is_asked},
    {"constexpr auto fans = rising(4_degC, 6_K).release(3_degC); Ladder<fans> cold; " + judges,
     one_kind_is_asked},
    {"constexpr auto fans = rising(4_degC, 6_degC).release(3_K); Ladder<fans> cold; " + judges,
     one_kind_is_asked},
    {"constexpr auto breeze = curve(point(4_K, 0_percent), point(6_K, 9_percent)); Curve<breeze> "
     "cold; " +
         judges,
     one_kind_is_asked},
    {"constexpr auto breeze = curve(point(-30_degC, 0_percent), Temperature(-20_degC), "
     "Duty(9_percent)); "
     "Curve<breeze> cold; " +
         judges,
     "a curve is made of points of one quantity"},
    {"constexpr auto frost = below(4);", "write a point with its unit"},
    {"constexpr auto frost = below(4_degC); Threshold<frost> cold; " + judges,
     "say where this threshold lets go"},
    {"constexpr auto fine = inside(4_degC, 6_degC); Window<fine> cold; " + judges,
     "say where this window lets go"},
    {"constexpr auto fans = rising(4_degC, 6_degC); Ladder<fans> cold; " + judges,
     "say where these stages let go"},
    {"constexpr auto fans = rising(4_degC, 6_degC, 9_degC).release(2_degC, 3_degC); Ladder<fans> "
     "cold; " +
         judges,
     "one release point for all stages, or one for each"},
    {frost + "auto judge(Sample sample) { return cold.decide(sample); }",
     "decide() takes a reading"},
    {"constexpr auto call = sequence(step(tone(880), 1_s), tone(440), 2_s, step(silence, 1_s)); "
     "Sequence<call> song;",
     "a sequence is made of steps of one kind of value"},
    {"constexpr auto call = sequence(step(tone(880), 1_s), step(off, 2_s)); Sequence<call> song;",
     "a sequence is made of steps of one kind of value"},
    {steps + "constexpr auto hatch = machine(S::shut, S::open);",
     "a machine is made of its first state and transitions"},
    {steps + "constexpr auto hatch = machine(S::shut, " + both_moves +
         ").ends_in(E::dawn); Machine<hatch> door;",
     "a machine ends in states of its own"},
    {"constexpr auto bowl = value_table(at(100, 4_degC), 500, Temperature(60_degC));",
     "a table is made of points"},
    {"constexpr auto bead = thermistor_table(point(0_degC, 32_kohm), Temperature(25_degC), "
     "10_kohm);",
     "a thermistor's table is made of points"},
};

} // namespace beginner

/// What a compiler says of each case, where all of them stand in one file, each in a namespace and
/// under a file name of its own; "" of one about which it does not complain.
struct Complaint {
    std::string said;
    int errors = 0;
};
std::vector<Complaint> complaints(const std::string& compiler,
                                  const std::vector<std::string>& cases) {
    std::string text = "#include <zorilla/zorilla.hpp>\n";
    for (size_t i = 0; i < cases.size(); ++i)
        text += fmt::format(
            "#line 1 \"case_{0}.cpp\"\nnamespace case_{0} {{ using namespace zorilla; {1} }}\n", i,
            cases[i]);
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
    std::vector<Complaint> said(cases.size());
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
        Complaint& of_it = said[static_cast<size_t>(which)];
        ++of_it.errors;
        // With the few lines that say more of it.
        for (size_t more = i; more < std::min(i + 8, lines.size()); ++more)
            of_it.said += lines[more] + "\n";
    }
    return said;
}

TEST(Mistakes, do_not_compile_and_say_why) {
    const std::vector<CppMistake>& cases = all_of<CppMistake>();
    EXPECT_GT(cases.size(), 60u);
    std::vector<std::string> texts;
    for (const CppMistake& c : cases)
        texts.emplace_back(c.text);
    for (const std::string& compiler : compilers) {
        const std::vector<Complaint> complained = complaints(compiler, texts);
        for (size_t i = 0; i < cases.size(); ++i) {
            const CppMistake& c = cases[i];
            const std::string& said = complained[i].said;
            if (*c.said == '\0') {
                EXPECT_EQ(said, "") << compiler << ": " << c.text;
                continue;
            }
            // The two compilers word a missing operator or conversion differently.
            const bool other_words =
                (has(c.said, "no match") &&
                 (has(said, "invalid operands") || has(said, "no matching function"))) ||
                (has(c.said, "conver") && has(said, "cannot initialize")) ||
                (has(c.said, "conver") && has(said, "no viable"));
            EXPECT_TRUE(has(said, c.said) || other_words) << compiler << ": " << c.text << "\n"
                                                          << said;
        }
    }
}

/// What a compiler says of one text alone: how many errors, and all of it.
class Alone {
  public:
    explicit Alone(const std::string& compiler)
        : compiler_(compiler), is_clang_(has(compiler, "clang")),
          header_(folder_.write("all.hpp",
                                "#include <zorilla/zorilla.hpp>\nusing namespace zorilla;\n")) {
        // Read once for all of them.
        const desk::Outcome made =
            desk::shell(fmt::format("{} -x c++-header {} -o {}.{}", command(), header_, header_,
                                    is_clang_ ? "pch" : "gch"));
        EXPECT_EQ(made.status, 0) << made.err;
    }
    Complaint of(const std::string& text) const {
        const desk::Outcome out = desk::shell(
            fmt::format("{} -fsyntax-only {} {}", command(),
                        is_clang_ ? "-include-pch " + header_ + ".pch" : "-include " + header_,
                        folder_.write("case.cpp", text)));
        Complaint said{out.err, 0};
        for (size_t at = 0; (at = out.err.find(" error: ", at)) != std::string::npos; ++at)
            ++said.errors;
        return said;
    }

  private:
    std::string command() const {
        return compiler_ + " -std=c++17 -Wall -Wextra -Wpedantic -Wno-unused -I" ZORILLA_SOURCE
                           "/include";
    }
    std::string compiler_;
    bool is_clang_;
    desk::Folder folder_;
    std::string header_;
};

// A spec that is a local variable stays with the compiler's own words: it refuses that before it
// looks at any header.
TEST(Mistakes, of_a_beginner_are_one_sentence_each) {
    for (const std::string& compiler : compilers) {
        const Alone alone(compiler);
        for (const auto& [text, sentence] : beginner::types) {
            const Complaint complaint = alone.of(text);
            EXPECT_EQ(complaint.errors, 1) << compiler << ": " << text << "\n" << complaint.said;
            EXPECT_TRUE(has(complaint.said, sentence)) << compiler << ": " << text << "\n"
                                                       << complaint.said;
        }
    }
}

} // namespace
