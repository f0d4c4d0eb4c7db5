// SPDX-License-Identifier: MIT
/// \file
/// Whether a rig can ever do what it must never do. Each line of `never` is asked by itself, over
/// what has a say in it: proved for all times and all that sensors may say, or shown by a sequence
/// that was replayed through the running rig.
#pragma once

#include "rig/prove/replay.hpp"

#include <memory>

namespace zorilla::rig {

/// What was found out about one line of `never`.
struct NeverResult {
    enum class Verdict : uint8_t {
        proved, ///< it cannot happen
        broken, ///< it can: it happens when `rows` are replayed
        may, ///< with waits and values as any it could; no sequence was found that really does it
        open ///< time ran out before either was known
    };
    Verdict verdict = Verdict::open;
    /// Proved, but for self-tests: `self_test` says whether one breaks it.
    std::optional<Verdict> self_test;
    std::vector<std::string> steps; ///< the sequence, a sentence for each pass that does something
    std::vector<prove::Row> rows;   ///< what it is replayed with
    size_t questions = 0;           ///< to the solver: what it cost, whatever the machine
};

/// Answers for one rig, which must outlive it.
class Nevers {
  public:
    explicit Nevers(const Rig& rig);
    ~Nevers();
    /// \param longest  how long to look, at most
    NeverResult look_at(size_t line, std::chrono::milliseconds longest = default_time);

    static constexpr std::chrono::milliseconds default_time{20'000};

  private:
    struct Asked;
    const Rig& rig_;
    std::unique_ptr<Asked> plain_;  ///< without self-tests
    std::unique_ptr<Asked> tested_; ///< with them, if there are any
};

} // namespace zorilla::rig
