// SPDX-License-Identifier: MIT
/// \file
/// Whether a wire of a circuit can ever hold: proved by a growing set of facts that every pass
/// keeps (A. R. Bradley, SAT-Based Model Checking without Unrolling, VMCAI 2011), or shown by a
/// sequence of passes whose waits fit together.
#pragma once

#include "rig/circuit/model.hpp"

#include <algorithm>
#include <chrono>
#include <functional>
#include <memory>
#include <vector>

namespace zorilla::rig::prove {

using Deadline = std::chrono::steady_clock::time_point;

/// How a search ended.
enum class Ending : uint8_t {
    impossible, ///< no pass can make it hold
    possible,   ///< with times as any, some sequence of passes can
    out_of_time,
};

/// What a search came to, and what it cost whatever the machine: questions to the solver.
struct Found {
    Ending ending;
    size_t questions;
};
/// Whether `bad` can hold after some pass.
Found can_hold(const Circuit& circuit, Wire bad, Deadline deadline);

/// A sequence of passes as a circuit's wires have it, and when each pass is.
class Sequence {
  public:
    /// \param known  the nodes that bear on what was looked for, in order
    Sequence(std::vector<std::vector<bool>> passes, std::vector<int64_t> times,
             std::vector<uint32_t> known)
        : passes_(std::move(passes)), times_(std::move(times)), known_(std::move(known)) {}
    size_t size() const { return passes_.size(); }
    /// Whether a wire bears on what was looked for; what others hold means nothing.
    bool knows(Wire wire) const {
        return std::binary_search(known_.begin(), known_.end(), wire >> 1);
    }
    bool holds(size_t pass, Wire wire) const {
        return passes_[pass][wire >> 1] != ((wire & 1U) != 0);
    }
    int64_t time(size_t pass) const { return times_[pass]; }
    /// The same at other times.
    Sequence at(std::vector<int64_t> times) const { return {passes_, std::move(times), known_}; }

  private:
    std::vector<std::vector<bool>> passes_;
    std::vector<int64_t> times_;
    std::vector<uint32_t> known_;
};

/// Looks for sequences that end with `bad`, the shortest first, whose waits fit together.
class Sequences {
  public:
    /// \param gap  the least time before each pass of a sequence, asked for a pass of a candidate
    using Gap = std::function<int64_t(const Sequence& candidate, size_t pass)>;
    Sequences(const Model& model, Wire bad, Deadline deadline, Gap gap);
    ~Sequences();
    /// The next one; nothing if there is none of at most `longest` passes, or time is over.
    std::optional<Sequence> next(size_t longest);
    /// One of them with at least so much time between any two passes, if its waits allow that.
    std::optional<Sequence> with_gaps(const Sequence& of, int64_t least);

  private:
    class Unrolled;
    std::unique_ptr<Unrolled> unrolled_;
};

} // namespace zorilla::rig::prove
