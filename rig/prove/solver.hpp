// SPDX-License-Identifier: MIT
/// \file
/// The SAT solver behind the proofs, with a deadline. Only for rig/prove/ itself.
#pragma once

#include <cadical.hpp>

#include <chrono>
#include <optional>
#include <vector>

namespace zorilla::rig::prove {

class Solver : CaDiCaL::Terminator {
  public:
    explicit Solver(std::chrono::steady_clock::time_point deadline) : deadline_(deadline) {
        solver_.set("quiet", 1);
        solver_.connect_terminator(this);
    }
    ~Solver() override { solver_.disconnect_terminator(); }
    Solver(const Solver&) = delete;
    Solver& operator=(const Solver&) = delete;

    int variable() { return ++variables_; }
    void clause(const std::vector<int>& literals) {
        for (const int one : literals)
            solver_.add(one);
        solver_.add(0);
    }
    /// Tried first as this when there is a choice.
    void prefer(int literal) { solver_.phase(literal); }
    /// Whether all clauses and these can hold together; nothing if time is over.
    std::optional<bool> solve(const std::vector<int>& assumed) {
        if (terminate())
            return std::nullopt;
        for (const int one : assumed)
            solver_.assume(one);
        ++questions_;
        const int result = solver_.solve();
        return result == 0 ? std::nullopt : std::optional(result == 10);
    }
    bool is(int literal) { return solver_.val(literal) == literal; }
    /// After a no: whether an assumption had a part in it.
    bool blames(int literal) { return solver_.failed(literal); }
    /// How often it was asked.
    size_t questions() const { return questions_; }
    bool terminate() override { return std::chrono::steady_clock::now() >= deadline_; }

  private:
    CaDiCaL::Solver solver_;
    std::chrono::steady_clock::time_point deadline_;
    int variables_ = 0;
    size_t questions_ = 0;
};

} // namespace zorilla::rig::prove
