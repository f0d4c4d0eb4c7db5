// SPDX-License-Identifier: MIT
// Random lives for random rigs, and whether what was proved of them holds.
#pragma once

#include "rig/prove/never.hpp"
#include "rig/run/running_rig.hpp"
#include "tests/prove/random_rig.hpp"

#include <fmt/format.h>

#include <random>
#include <string>
#include <vector>

namespace random_rig {

/// A random life: inputs that stay for a while, and passes that come early or late.
class Life {
  public:
    Life(const rig::Rig& rig, uint64_t seed) : rig_(rig), running_(rig), random_(seed) {
        raws_.resize(rig.senses.size());
        rates_.resize(rig.senses.size());
        edges_.resize(rig.senses.size());
    }
    /// One pass; the time is the first's if it is the first.
    void pass() {
        const uint32_t spans[] = {1, 20, 100, 100, 500, 1000, 1000, 2500, 7000, 15'000};
        const uint32_t by = first_ ? 0 : spans[random_() % 10];
        now_ += by;
        for (size_t i = 0; i < raws_.size(); ++i) {
            edges_[i] += rates_[i] * by / 1000.0;
            if (!first_ && random_() % 4 != 0) {
                if (rig_.senses[i].raw == rig::RawKind::edges && raws_[i].taken())
                    raws_[i] = rig::Raw(static_cast<int64_t>(edges_[i]));
                continue;
            }
            if (random_() % 12 == 0)
                raws_[i] = rig::Raw();
            else if (rig_.senses[i].raw == rig::RawKind::level)
                raws_[i] = rig::Raw(static_cast<int64_t>(random_() % 2));
            else if (rig_.senses[i].raw == rig::RawKind::edges) {
                rates_[i] = random_() % 3 == 0 ? 0 : 20;
                raws_[i] = rig::Raw(static_cast<int64_t>(edges_[i]));
            } else
                raws_[i] = rig::Raw(static_cast<int64_t>(random_() % 1024));
        }
        first_ = false;
        running_.pass(Instant(now_), raws_.data());
    }
    const rig::RunningRig& running() const { return running_; }
    uint32_t now() const { return now_; }
    const std::vector<rig::Raw>& raws() const { return raws_; }

  private:
    const rig::Rig& rig_;
    rig::RunningRig running_;
    std::mt19937_64 random_;
    std::vector<rig::Raw> raws_;
    std::vector<double> rates_, edges_;
    uint32_t now_ = 0;
    bool first_ = true;
};

/// What came of many rigs.
struct Tally {
    uint64_t rigs = 0, passes = 0, refused = 0;
    uint64_t proved = 0, broken = 0, may = 0, open = 0, seen_may = 0;
    std::string fault; ///< of the first rig that was judged wrongly
};

/// Proves one random rig and lets it live.
inline void try_one(uint64_t seed, int lives, int passes, Tally& tally) {
    using Verdict = rig::NeverResult::Verdict;
    const std::string text = Maker(seed).text();
    const rig::RigFile file = rig::parse_rig(text);
    if (!file.mistakes.empty()) {
        ++tally.refused;
        return;
    }
    ++tally.rigs;
    rig::Nevers nevers(file.rig);
    std::vector<rig::NeverResult> results;
    for (size_t i = 0; i < file.rig.nevers.size(); ++i) {
        results.push_back(nevers.look_at(i));
        const rig::NeverResult& is = results.back();
        ++(is.verdict == Verdict::proved   ? tally.proved
           : is.verdict == Verdict::broken ? tally.broken
           : is.verdict == Verdict::may    ? tally.may
                                           : tally.open);
        if (!is.rows.empty()) {
            // What is shown happens again.
            rig::RunningRig again(file.rig);
            for (const auto& row : is.rows)
                again.pass(Instant(static_cast<uint32_t>(row.time)), row.raws.data());
            if (rig::prove::truth_of_line(again, file.rig.nevers[i]) == Truth::no)
                tally.fault = fmt::format("seed {}: line {} is not replayed\n{}", seed, i, text);
        }
    }
    std::vector<bool> happened(results.size());
    for (int life = 0; life < lives; ++life) {
        Life one(file.rig, seed * 31 + static_cast<uint64_t>(life));
        bool tested = false;
        for (int i = 0; i < passes; ++i) {
            one.pass();
            ++tally.passes;
            for (const rig::Driven& driven : one.running().drivens())
                tested = tested || driven.tested;
            for (size_t n = 0; n < results.size(); ++n) {
                if (rig::prove::truth_of_line(one.running(), file.rig.nevers[n]) == Truth::no)
                    continue;
                happened[n] = true;
                // Where a self-test breaks it, it was proved only for lives that have none.
                if (results[n].verdict == Verdict::proved && !(results[n].self_test && tested))
                    tally.fault = fmt::format("seed {}: \"{}\" is proved, and happens in life {} "
                                              "after {} passes\n{}",
                                              seed, file.rig.nevers[n].text, life, i + 1, text);
            }
            if (!tally.fault.empty())
                return;
        }
    }
    for (size_t n = 0; n < results.size(); ++n)
        tally.seen_may += results[n].verdict == Verdict::may && happened[n];
}

} // namespace random_rig
