// SPDX-License-Identifier: MIT
#include "rig/prove/search.hpp"

#include "rig/prove/solver.hpp"

#include <algorithm>
#include <queue>

namespace zorilla::rig::prove {

namespace {

/// A set of memories with what they hold: a wire each.
using Cube = std::vector<Wire>;

struct OutOfTime {};

/// The proof of one question. Level 0 is power-up; a cube that is blocked at a level cannot be
/// reached in so many passes.
class Proof {
  public:
    Proof(const Circuit& circuit, Wire bad, Deadline deadline)
        : circuit_(circuit), bad_(bad), solver_(deadline), variables_(circuit.nodes().size()) {
        for (const uint32_t at : circuit.behind({bad}))
            encode(at);
        levels_.push_back(0);
        blocked_.emplace_back();
        add_level();
    }

    Ending run() {
        try {
            while (true) {
                while (ask(assumptions(top()), {literal(bad_)})) {
                    const Cube cube = lifted({opposite(bad_)});
                    if (!block(cube, top()))
                        return Ending::possible;
                }
                add_level();
                if (push())
                    return Ending::impossible;
            }
        } catch (const OutOfTime&) {
            return Ending::out_of_time;
        }
    }

    size_t questions() const { return solver_.questions(); }

  private:
    struct Obligation {
        Cube cube;
        size_t level;
        bool operator<(const Obligation& other) const { return level > other.level; }
    };

    void encode(uint32_t at) {
        const Circuit::Node& node = circuit_.nodes()[at];
        const int v = variables_[at] = solver_.variable();
        switch (node.part) {
        case Circuit::Part::constant: solver_.clause({-v}); break;
        case Circuit::Part::input: inputs_.push_back(2 * at); break;
        case Circuit::Part::memory: memories_.push_back(2 * at); break;
        case Circuit::Part::gate:
            solver_.clause({-v, literal(node.a)});
            solver_.clause({-v, literal(node.b)});
            solver_.clause({v, -literal(node.a), -literal(node.b)});
            break;
        }
    }
    int literal(Wire wire) const {
        const int v = variables_[wire >> 1];
        return (wire & 1U) != 0 ? -v : v;
    }
    /// What a memory's wire is after the pass.
    Wire next_of(Wire memory) const { return circuit_.nodes()[memory >> 1].a ^ (memory & 1U); }
    bool starts_as(Wire memory) const {
        return circuit_.nodes()[memory >> 1].starts != ((memory & 1U) != 0);
    }

    size_t top() const { return levels_.size() - 1; }
    void add_level() {
        levels_.push_back(solver_.variable());
        blocked_.emplace_back();
    }
    /// What holds at a level: at 0 power-up, else all that is blocked there or above.
    std::vector<int> assumptions(size_t level) const {
        std::vector<int> out;
        if (level == 0)
            for (const Wire memory : memories_)
                out.push_back(starts_as(memory) ? literal(memory) : -literal(memory));
        else
            out.assign(levels_.begin() + static_cast<ptrdiff_t>(level), levels_.end());
        return out;
    }
    bool ask(std::vector<int> assumed, const std::vector<int>& more) {
        assumed.insert(assumed.end(), more.begin(), more.end());
        const auto answer = solver_.solve(assumed);
        if (!answer)
            throw OutOfTime();
        return *answer;
    }

    /// Of the solver's last answer, the memories that alone, with its inputs, keep all of
    /// `not_held` from holding.
    Cube lifted(const std::vector<Wire>& not_held) {
        std::vector<int> assumed;
        for (const Wire input : inputs_)
            assumed.push_back(solver_.is(literal(input)) ? literal(input) : -literal(input));
        Cube cube;
        for (const Wire memory : memories_)
            cube.push_back(solver_.is(literal(memory)) ? memory : opposite(memory));
        const int guard = solver_.variable();
        std::vector<int> clause = {-guard};
        for (const Wire wire : not_held)
            clause.push_back(literal(wire));
        solver_.clause(clause);
        assumed.push_back(guard);
        for (const Wire wire : cube)
            assumed.push_back(literal(wire));
        // The inputs and memories settle every wire, so the answer is always no.
        Cube out;
        if (ask(assumed, {}))
            out = cube;
        else
            for (const Wire wire : cube)
                if (solver_.blames(literal(wire)))
                    out.push_back(wire);
        solver_.clause({-guard});
        return out;
    }

    /// Whether a cube cannot follow, in one pass, on what is possible at `level` outside of it. If
    /// so, `core` is the part of it that was needed.
    bool cannot_follow(const Cube& cube, size_t level, Cube& core) {
        const int guard = solver_.variable();
        std::vector<int> clause = {-guard};
        for (const Wire wire : cube)
            clause.push_back(-literal(wire));
        solver_.clause(clause);
        std::vector<int> more = {guard};
        for (const Wire wire : cube)
            more.push_back(literal(next_of(wire)));
        const bool can = ask(assumptions(level), more);
        if (!can) {
            core.clear();
            for (const Wire wire : cube)
                if (solver_.blames(literal(next_of(wire))))
                    core.push_back(wire);
            if (holds_at_start(core))
                for (const Wire wire : cube)
                    if (!starts_as(wire)) { // power-up must stay outside
                        core.push_back(wire);
                        break;
                    }
        }
        retired_.push_back(guard);
        if (!can)
            retire();
        return !can;
    }
    /// Guards that are no longer needed; not before the answer behind them was looked at.
    void retire() {
        for (const int guard : retired_)
            solver_.clause({-guard});
        retired_.clear();
    }
    bool holds_at_start(const Cube& cube) const {
        return std::all_of(cube.begin(), cube.end(), [this](Wire w) { return starts_as(w); });
    }

    /// Blocks a cube at a level, and what leads to it; false if it can be reached from power-up.
    bool block(const Cube& cube, size_t level) {
        std::priority_queue<Obligation> open;
        open.push({cube, level});
        while (!open.empty()) {
            Obligation now = open.top();
            if (now.level == 0 || holds_at_start(now.cube))
                return false;
            open.pop();
            if (is_blocked(now.cube, now.level))
                continue;
            Cube core;
            if (cannot_follow(now.cube, now.level - 1, core)) {
                generalize(core, now.level - 1);
                add(core, now.level);
                if (now.level < top())
                    open.push({now.cube, now.level + 1});
            } else {
                std::vector<Wire> not_held;
                for (const Wire wire : now.cube)
                    not_held.push_back(opposite(next_of(wire)));
                Cube before = lifted(not_held);
                retire();
                const size_t lower = now.level - 1;
                open.push(std::move(now));
                open.push({std::move(before), lower});
            }
        }
        return true;
    }
    bool is_blocked(const Cube& cube, size_t level) const {
        Cube sorted = cube;
        std::sort(sorted.begin(), sorted.end());
        for (size_t i = level; i < blocked_.size(); ++i)
            for (const Cube& one : blocked_[i])
                if (std::includes(sorted.begin(), sorted.end(), one.begin(), one.end()))
                    return true;
        return false;
    }
    /// Leaves out of a cube what it can do without.
    void generalize(Cube& cube, size_t level) {
        for (size_t i = 0; i < cube.size() && cube.size() > 1;) {
            Cube smaller = cube;
            smaller.erase(smaller.begin() + static_cast<ptrdiff_t>(i));
            Cube core;
            if (!holds_at_start(smaller) && cannot_follow(smaller, level, core)) {
                cube = std::move(core);
                i = 0;
            } else {
                retire();
                ++i;
            }
        }
    }
    void add(Cube cube, size_t level) {
        std::sort(cube.begin(), cube.end());
        std::vector<int> clause = {-levels_[level]};
        for (const Wire wire : cube)
            clause.push_back(-literal(wire));
        solver_.clause(clause);
        blocked_[level].push_back(std::move(cube));
    }
    /// Moves cubes up to where they cannot be reached either; whether a level has become equal to
    /// the next, so that nothing new can follow.
    bool push() {
        for (size_t level = 1; level + 1 < levels_.size(); ++level) {
            std::vector<Cube> stay;
            std::vector<Cube> cubes = std::move(blocked_[level]);
            blocked_[level].clear();
            for (Cube& cube : cubes) {
                std::vector<int> more;
                for (const Wire wire : cube)
                    more.push_back(literal(next_of(wire)));
                // What this level says of the cube itself must still be asked with.
                if (ask(assumptions(level), more))
                    stay.push_back(std::move(cube));
                else
                    add(std::move(cube), level + 1);
            }
            blocked_[level] = std::move(stay);
            if (blocked_[level].empty())
                return true;
        }
        return false;
    }

    const Circuit& circuit_;
    Wire bad_;
    Solver solver_;
    std::vector<int> variables_;
    std::vector<Wire> inputs_, memories_;
    std::vector<int> levels_;                ///< a variable each, which makes its cubes count
    std::vector<std::vector<Cube>> blocked_; ///< at each level, those that are not blocked above
    std::vector<int> retired_;
};

} // namespace

Found can_hold(const Circuit& circuit, Wire bad, Deadline deadline) {
    if (bad == never)
        return {Ending::impossible, 0};
    Proof proof(circuit, bad, deadline);
    const Ending ending = proof.run();
    return {ending, proof.questions()};
}

} // namespace zorilla::rig::prove
