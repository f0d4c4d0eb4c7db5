// SPDX-License-Identifier: MIT
// Sequences of passes, the shortest first, whose waits fit together: the solver proposes one with
// times as any, and times are found for it, or a ring of waits that forbid each other.
#include "rig/prove/search.hpp"
#include "rig/prove/solver.hpp"

#include <algorithm>

namespace zorilla::rig::prove {

class Sequences::Unrolled {
  public:
    Unrolled(const Model& model, Wire bad, Deadline deadline, Gap gap)
        : model_(model), bad_(bad), gap_(std::move(gap)), solver_(deadline) {
        // What bears on it, and then the waits of what is left open in that.
        std::vector<Wire> wanted = {bad};
        std::vector<bool> has(model.waits.size());
        for (bool more = true; more;) {
            nodes_ = model.circuit.behind(wanted);
            more = false;
            for (size_t i = 0; i < model.waits.size(); ++i) {
                const Wait& wait = model.waits[i];
                if (has[i] || !std::binary_search(nodes_.begin(), nodes_.end(), wait.choice >> 1))
                    continue;
                has[i] = more = true;
                waits_.push_back(i);
                wanted.push_back(wait.when);
                wanted.push_back(wait.fresh);
                wanted.push_back(model.clocks[wait.clock]);
            }
        }
    }

    std::optional<Sequence> next(size_t longest) {
        while (depth_ <= longest) {
            if (passes_.size() < depth_)
                add_pass();
            const auto answer = solver_.solve({literal(depth_ - 1, bad_)});
            if (!answer)
                return std::nullopt;
            if (!*answer) {
                ++depth_;
                continue;
            }
            auto found = timed();
            if (!found)
                continue;
            forbid(*found, calm());
            if (calmer_)
                found = std::move(calmer_);
            return found;
        }
        return std::nullopt;
    }
    std::optional<Sequence> with_gaps(const Sequence& of, int64_t least) {
        Times found = times_for(bounds_of(of, least), of.size());
        return found.fit ? std::optional(of.at(shifted(std::move(found.times), of))) : std::nullopt;
    }

  private:
    /// time[later] - time[earlier] >= least.
    struct Bound {
        size_t later, earlier;
        int64_t least;
        std::vector<int> because; ///< literals that hold
    };

    int literal(size_t pass, Wire wire) const {
        const int v = passes_[pass][wire >> 1];
        return (wire & 1U) != 0 ? -v : v;
    }

    void add_pass() {
        const size_t pass = passes_.size();
        passes_.emplace_back(model_.circuit.nodes().size());
        for (const uint32_t at : nodes_)
            passes_[pass][at] = solver_.variable();
        for (const uint32_t at : nodes_) {
            const Circuit::Node& node = model_.circuit.nodes()[at];
            const int v = passes_[pass][at];
            switch (node.part) {
            case Circuit::Part::constant: solver_.clause({-v}); break;
            case Circuit::Part::input: solver_.prefer(-v); break; // as calm as it can be
            case Circuit::Part::memory:
                if (pass == 0) {
                    solver_.clause({node.starts ? v : -v});
                } else {
                    const int before = literal(pass - 1, node.a);
                    solver_.clause({-v, before});
                    solver_.clause({v, -before});
                }
                break;
            case Circuit::Part::gate:
                solver_.clause({-v, literal(pass, node.a)});
                solver_.clause({-v, literal(pass, node.b)});
                solver_.clause({v, -literal(pass, node.a), -literal(pass, node.b)});
                break;
            }
        }
    }

    /// Of the inputs that were yes, those that can be no are made so, one after the other; the
    /// sequence of that is in `calmer_` if its waits fit together too. \return  the inputs
    std::vector<int> calm() {
        calmer_.reset();
        std::vector<int> kept = {literal(depth_ - 1, bad_)}, all;
        for (size_t pass = 0; pass < depth_; ++pass)
            for (const uint32_t at : nodes_)
                if (model_.circuit.nodes()[at].part == Circuit::Part::input)
                    all.push_back(passes_[pass][at]);
        std::vector<int> yes;
        for (const int v : all)
            (solver_.is(v) ? yes : kept).push_back(solver_.is(v) ? v : -v);
        constexpr size_t most = 60; // questions, so that it stays quick
        for (size_t i = 0; i < yes.size() && i < most; ++i) {
            std::vector<int> tried = kept;
            tried.push_back(-yes[i]);
            tried.insert(tried.end(), yes.begin() + static_cast<ptrdiff_t>(i) + 1, yes.end());
            kept.push_back(solver_.solve(tried).value_or(false) ? -yes[i] : yes[i]);
        }
        for (size_t i = most; i < yes.size(); ++i)
            kept.push_back(yes[i]);
        if (solver_.solve(kept).value_or(false))
            calmer_ = timed(false);
        kept.erase(kept.begin()); // `bad`
        return kept;
    }

    /// The solver's sequence with times, or nothing, and what cannot be is forbidden from now on.
    /// \param learn  whether to forbid it
    std::optional<Sequence> timed(bool learn = true) {
        std::vector<std::vector<bool>> values(depth_);
        for (size_t pass = 0; pass < depth_; ++pass) {
            values[pass].resize(model_.circuit.nodes().size());
            for (const uint32_t at : nodes_)
                values[pass][at] = solver_.is(passes_[pass][at]);
        }
        const Sequence candidate(values, std::vector<int64_t>(depth_), nodes_);
        const std::vector<Bound> bounds = bounds_of(candidate, 1);
        Times found = times_for(bounds, depth_);
        if (found.fit)
            return Sequence(std::move(values), shifted(std::move(found.times), candidate), nodes_);
        if (!learn || found.ring.empty())
            return std::nullopt;
        std::vector<int> clause;
        for (const size_t i : found.ring)
            for (const int one : bounds[i].because)
                clause.push_back(-one);
        solver_.clause(clause);
        return std::nullopt;
    }

    std::vector<Bound> bounds_of(const Sequence& candidate, int64_t least) {
        std::vector<Bound> out;
        for (size_t pass = 1; pass < candidate.size(); ++pass)
            out.push_back({pass, pass - 1, std::max(gap_(candidate, pass), least), {}});
        for (const size_t index : waits_)
            add_bounds(candidate, model_.waits[index], out);
        return out;
    }

    struct Times {
        bool fit = false;
        std::vector<int64_t> times;
        std::vector<size_t> ring; ///< bounds that forbid each other
    };
    /// The earliest times: each bound pushes its later pass on, until none does (R. Bellman, On a
    /// Routing Problem, 1958).
    static Times times_for(const std::vector<Bound>& bounds, size_t count) {
        Times out;
        out.times.resize(count);
        constexpr size_t nobody = SIZE_MAX;
        std::vector<size_t> pushed_by(count, nobody);
        size_t changed = nobody;
        for (size_t round = 0; round <= count; ++round) {
            changed = nobody;
            for (size_t i = 0; i < bounds.size(); ++i) {
                const Bound& b = bounds[i];
                if (out.times[b.later] >= out.times[b.earlier] + b.least)
                    continue;
                out.times[b.later] = out.times[b.earlier] + b.least;
                pushed_by[b.later] = i;
                changed = b.later;
            }
            if (changed == nobody) {
                out.fit = true;
                return out;
            }
        }
        // Back along what pushed, into the ring, and once around it.
        size_t at = changed;
        for (size_t i = 0; i < count && pushed_by[at] != nobody; ++i)
            at = bounds[pushed_by[at]].earlier;
        for (size_t next = at; pushed_by[next] != nobody;) {
            out.ring.push_back(pushed_by[next]);
            next = bounds[pushed_by[next]].earlier;
            if (next == at)
                return out;
        }
        out.ring.clear();
        return out;
    }
    /// So that the first pass comes when its sensors have settled.
    std::vector<int64_t> shifted(std::vector<int64_t> times, const Sequence& candidate) {
        const int64_t by = gap_(candidate, 0) - times[0];
        for (int64_t& time : times)
            time += by;
        return times;
    }

    void add_bounds(const Sequence& candidate, const Wait& wait, std::vector<Bound>& bounds) {
        const Wire starts = model_.clocks[wait.clock];
        for (size_t pass = 1; pass < candidate.size(); ++pass) {
            if (!candidate.holds(pass, wait.when) || candidate.holds(pass, wait.fresh))
                continue;
            std::vector<int> because = {literal(pass, wait.when), -literal(pass, wait.fresh)};
            size_t from = pass - 1;
            while (from > 0 && !candidate.holds(from, starts)) {
                because.push_back(-literal(from, starts));
                --from;
            }
            if (!candidate.holds(from, starts))
                continue; // a clock that nobody has started: left as it is
            because.push_back(literal(from, starts));
            if (wait.least)
                bounds.push_back({pass, from, *wait.least, because});
            if (wait.most)
                bounds.push_back({from, pass, -*wait.most, because});
        }
    }

    /// Neither of these very sequences shall be found again.
    void forbid(const Sequence& found, std::vector<int> calm) {
        std::vector<int> clause;
        for (size_t pass = 0; pass < depth_; ++pass)
            for (const uint32_t at : nodes_)
                if (model_.circuit.nodes()[at].part == Circuit::Part::input)
                    clause.push_back(found.holds(pass, 2 * at) ? -passes_[pass][at]
                                                               : passes_[pass][at]);
        solver_.clause(clause);
        for (int& one : calm)
            one = -one;
        solver_.clause(calm);
    }

    const Model& model_;
    Wire bad_;
    Gap gap_;
    Solver solver_;
    std::vector<uint32_t> nodes_;
    std::vector<size_t> waits_; ///< those that bear on it
    std::vector<std::vector<int>> passes_;
    size_t depth_ = 1;
    std::optional<Sequence> calmer_;
};

Sequences::Sequences(const Model& model, Wire bad, Deadline deadline, Gap gap)
    : unrolled_(std::make_unique<Unrolled>(model, bad, deadline, std::move(gap))) {}
Sequences::~Sequences() = default;
std::optional<Sequence> Sequences::next(size_t longest) { return unrolled_->next(longest); }
std::optional<Sequence> Sequences::with_gaps(const Sequence& of, int64_t least) {
    return unrolled_->with_gaps(of, least);
}

} // namespace zorilla::rig::prove
