// SPDX-License-Identifier: MIT
// Random rigs of two makers, with what they must never do: small ones with all that a proof has to
// know of, and ones made of every kind of part.
#pragma once

#include "bench/random_raws.hpp"
#include "rig/text/files.hpp"
#include "tests/budget/chip_rig.hpp"
#include "tests/prove/random_life.hpp"

#include <memory>

namespace random_rig {

/// Lines of `never` and promises about the parts of a rig.
inline std::string wishes_of(const rig::Rig& rig, std::mt19937& random) {
    std::vector<std::string> facts;
    for (const rig::Drive& drive : rig.drives) {
        facts.push_back(drive.name);
        facts.push_back(drive.name);
        facts.push_back(drive.name + " at full");
    }
    for (const rig::Decide& decide : rig.decides)
        if (decide.has_truth())
            facts.push_back(decide.name);
    for (const rig::Source& source : rig.sources)
        facts.push_back("lost(" + source.name + ")");
    const auto any = [&] {
        return fmt::format("{}{}", random() % 3 == 0 ? "not " : "", facts[random() % facts.size()]);
    };
    std::string never;
    for (int i = 0; i < 3; ++i)
        never += fmt::format("{}\"{} and {}\"", i == 0 ? "" : ", ", any(), any());
    const std::string& output = rig.drives[random() % rig.drives.size()].name;
    return fmt::format("[rig]\nnever = [{}]\n"
                       "[promise.few]\nof = \"{}\"\ntimes_a_day = {}\n"
                       "[promise.brief]\nof = \"{}\"\non_a_day = \"{} s\"\n"
                       "[promise.soon]\nwhen = \"{}\"\nthen = \"{}\"\nwithin = \"{} s\"\n"
                       "[promise.told]\ntold = \"{}\"\nwithin = \"{} s\"\n",
                       never, output, 1 + random() % 5, output, 1 + random() % 60, any(), any(),
                       1 + random() % 5, any(), 1 + random() % 5);
}

/// A rig of many kinds of parts; empty if none came of this seed.
inline std::string text_of_parts(uint64_t seed) {
    static const std::vector<chip_rig::Section> sections =
        chip_rig::sections_of(rig::read_file(ZORILLA_SOURCE "/tests/desk/every_part.toml"));
    const std::string text = chip_rig::Maker(sections, static_cast<uint32_t>(seed)).text();
    const rig::RigFile plain = rig::parse_rig(text);
    if (text.empty() || !plain.mistakes.empty())
        return {};
    std::mt19937 random(static_cast<uint32_t>(seed));
    return wishes_of(plain.rig, random) + text;
}

/// Every other one of each maker. Empty if none came of this seed.
inline std::string text_of(uint64_t seed) {
    return seed % 2 == 0 ? Maker(seed / 2).text() : text_of_parts(seed / 2);
}

/// A random life of any rig: inputs that stay for a while, passes that come early and late.
class AnyLife {
  public:
    AnyLife(const rig::Rig& rig, uint64_t seed)
        : rig_(rig), running_(rig), random_(static_cast<uint32_t>(seed)), raws_(rig.senses.size()) {
    }
    void pass() {
        constexpr uint32_t spans[] = {1, 20, 100, 100, 500, 1000, 1000, 2500, 7000, 15'000};
        now_ += first_ ? 0 : spans[random_() % 10];
        if (first_ || random_() % 3 == 0)
            bench::random_raws(rig_, random_, raws_);
        first_ = false;
        running_.pass(Instant(now_), raws_.data());
    }
    const rig::RunningRig& running() const { return running_; }
    uint32_t now() const { return now_; }

  private:
    const rig::Rig& rig_;
    rig::RunningRig running_;
    std::mt19937 random_;
    std::vector<rig::Raw> raws_;
    uint32_t now_ = 0;
    bool first_ = true;
};

} // namespace random_rig
