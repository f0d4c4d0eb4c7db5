// SPDX-License-Identifier: MIT
// machine: mistakes in its moves.
#include "tests/parts/feeder.hpp"
#include "tests/parts/promises.hpp"

#include <gtest/gtest.h>
#include <zorilla/zorilla.hpp>

#include <cmath>
#include <random>

namespace {

using namespace parts;

TEST(Machine, mistakes_in_a_rig_file_are_told_with_what_to_write_instead) {
    expect_told_of_feeder(
        {{with("start = \"shut\"", ""), "needs \"start\""},
         {with("start = \"shut\"", "start = \"shutt\""),
          "no move leaves \"shutt\", or leads there; did you mean \"shut\"?"},
         {with("  { from = \"jammed\", to = \"shut\", when = \"rises(button)\" },\n", ""),
          "hatch can never leave \"jammed\"; if that is meant, write ends_in"},
         {with("start = \"shut\"", "start = \"shut\"\nends_in = [\"gone\"]"), "has no such state"},
         {with("{ from = \"any\", to = \"jammed\"", "{ from = \"broken\", to = \"jammed\""),
          "hatch can never come into \"broken\""},
         {with("from = \"opening\", to = \"open\", after = \"4 s\"",
               "from = \"opening\", to = \"open\""),
          "a move needs \"when\""},
         {with("after = \"4 s\"", "after = \"4 s\", by = 1"), "unknown key \"by\""},
         {with("from = \"opening\", to = \"open\"",
               "from = \"shut\", to = \"opening\", when = \"button\""),
          "this move can never be taken"},
         {with("to = \"opening\", when", "to = \"Opening\", when"), "cannot be a state"},
         {with("[machine.hatch]", "[machines.hatch]"), "did you mean [machine]?"}});
}

const CppMistakes machine_mistakes{
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
     ""}};

} // namespace
