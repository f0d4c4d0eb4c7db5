// SPDX-License-Identifier: MIT
// Mistakes in a C++ device do not compile, and the compiler's message says what is wrong: those of
// each part, which its own file lists, and those of no part. Tried with the compiler of this build
// and with clang.
#include "tests/desk/process.hpp"
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

/// What a compiler says of each case, where all of them stand in one file, each in a namespace and
/// under a file name of its own; "" of one about which it does not complain.
std::vector<std::string> complaints(const std::string& compiler,
                                    const std::vector<CppMistake>& cases) {
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
    const std::vector<CppMistake>& cases = all_of<CppMistake>();
    EXPECT_GT(cases.size(), 60u);
    for (const std::string& compiler : compilers) {
        const std::vector<std::string> said = complaints(compiler, cases);
        for (size_t i = 0; i < cases.size(); ++i) {
            const CppMistake& c = cases[i];
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

} // namespace
