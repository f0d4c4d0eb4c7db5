// SPDX-License-Identifier: MIT
// What is said of random rigs, in every place that says it, is held against what they do: circuits
// allow it, judges see it, and what a proof shows is found by a run.
#include "bench/judge.hpp"
#include "tests/desk/process.hpp"
#include "tests/prove/follow.hpp"
#include "tests/prove/rigs.hpp"

#include <gtest/gtest.h>

#include <cstdlib>
#include <set>

namespace {

using namespace zorilla;

bool is_deep() { return std::getenv("ZORILLA_DEEP") != nullptr; }

/// Calls for so many random rigs. \return  how many there were
template <class Try> int with_rigs(int wanted, uint64_t first, Try try_one) {
    int found = 0;
    for (uint64_t seed = first; found < wanted && !testing::Test::HasFailure(); ++seed) {
        const std::string text = random_rig::text_of(seed);
        const rig::RigFile file = rig::parse_rig(text);
        if (text.empty() || !file.mistakes.empty())
            continue;
        ++found;
        SCOPED_TRACE(fmt::format("seed {}\n{}", seed, text));
        try_one(seed, text, file.rig);
    }
    return found;
}

TEST(Circuits, allow_what_random_rigs_do_pass_by_pass) {
    const int rigs = is_deep() ? 5000 : 200, passes = is_deep() ? 200 : 100;
    const int found =
        with_rigs(rigs, 1, [passes](uint64_t seed, const std::string&, const rig::Rig& rig) {
            random_rig::Follower circuit(rig);
            random_rig::AnyLife life(rig, seed);
            for (int i = 0; i < passes; ++i) {
                life.pass();
                const std::string apart = circuit.follow(life.running());
                ASSERT_EQ(apart, "") << "pass " << i << " at " << life.now() << " ms";
            }
        });
    fmt::print("{} rigs of {} passes each\n", found, passes);
}

void expect_same(const std::vector<bench::Verdict>& quick,
                 const std::vector<bench::Verdict>& plain) {
    for (size_t i = 0; i < plain.size(); ++i) {
        const auto told = [](const bench::Verdict& v) {
            return fmt::format(
                "{}: judged {}, broken {}, {} times, first {}, maybe {}, outside {}, {}", v.says,
                v.judged, v.broken, v.times, v.first, v.maybe, v.outside, v.how);
        };
        ASSERT_EQ(told(quick[i]), told(plain[i]));
    }
}

TEST(Judge, comes_to_the_same_whether_it_looks_at_all_in_each_pass_or_not) {
    with_rigs(200, 1000, [](uint64_t seed, const std::string&, const rig::Rig& rig) {
        random_rig::AnyLife life(rig, seed);
        bench::Judge quick(rig), plain(rig, true);
        for (int i = 0; i < 300; ++i) {
            life.pass();
            quick.pass(life.now(), life.running());
            plain.pass(life.now(), life.running());
            if (i % 20 == 0)
                expect_same(quick.verdicts(), plain.verdicts());
        }
        expect_same(quick.verdicts(), plain.verdicts());
    });
}

TEST(Run, finds_broken_what_check_writes_as_a_counter_example) {
    const desk::Folder folder;
    int written = 0;
    with_rigs(
        is_deep() ? 600 : 60, 3000, [&](uint64_t, const std::string& text, const rig::Rig& rig) {
            rig::Nevers nevers(rig);
            const std::string path = folder.write("rig.toml", text), trace = folder / "shown.csv";
            std::filesystem::remove(trace);
            const desk::Outcome check = desk::zorilla(
                fmt::format("check {} --limit '2 s' --counter-example {}", path, trace));
            const size_t at = check.out.find("    written to ");
            if (at == std::string::npos)
                return;
            ++written;
            // The line of `never` that it belongs to stands before its steps.
            size_t line = check.out.rfind("\n  ", at);
            while (check.out[line + 3] == ' ')
                line = check.out.rfind("\n  ", line - 1);
            const std::string never =
                check.out.substr(line + 3, check.out.find(": ", line) - line - 3);
            const desk::Outcome run = desk::zorilla(fmt::format("run {} --trace {}", path, trace));
            EXPECT_EQ(run.status, 1) << run.out << run.err;
            const size_t judged = run.out.find("never " + never + "  ");
            ASSERT_NE(judged, std::string::npos) << never << "\n" << run.out;
            const std::string verdict = run.out.substr(judged, run.out.find('\n', judged) - judged);
            EXPECT_EQ(verdict.find("kept"), std::string::npos) << verdict << "\n" << check.out;
        });
    EXPECT_GT(written, 20);
    fmt::print("{} counter-examples\n", written);
}

TEST(RandomRigs, have_every_kind_of_part) {
    std::set<std::string> words;
    with_rigs(200, 1, [&words](uint64_t, const std::string&, const rig::Rig& rig) {
        for (const rig::Sense& sense : rig.senses)
            words.insert(sense.word);
        for (const rig::Drive& drive : rig.drives)
            words.insert(drive.word);
        for (const rig::Decide& decide : rig.decides)
            words.insert(decide.word);
        for (const rig::Derive& derive : rig.derives)
            words.insert(derive.word);
    });
    for (const rig::SenseKind& kind : rig::sense_kinds())
        EXPECT_EQ(words.count(kind.word), 1u) << kind.word;
    for (const rig::DriveKind& kind : rig::drive_kinds())
        EXPECT_EQ(words.count(kind.word), 1u) << kind.word;
    for (const rig::DecideKind& kind : rig::decide_kinds())
        EXPECT_EQ(words.count(kind.word), 1u) << kind.word;
    for (const rig::DeriveKind& kind : rig::derive_kinds())
        EXPECT_EQ(words.count(kind.word), 1u) << kind.word;
}

} // namespace
