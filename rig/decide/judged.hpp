// SPDX-License-Identifier: MIT
/// \file
/// What thresholds and windows have in common: reached, held until released, unknown while lost.
#pragma once

#include "rig/decide/part.hpp"

namespace zorilla::rig {

/// \tparam Spec   the core's spec, with `reached_by` and `released_by`
/// \tparam State  the core's block of it
template <class Spec, class State> class JudgedPart : public DecidePart {
  public:
    explicit JudgedPart(const Spec& spec) : spec_(spec) {}

    std::unique_ptr<Deciding> start() const override {
        return decides_by_turns(*this, [spec = spec_, state = State()](const DecideInput& in,
                                                                       DecideOutput& out) mutable {
            out.truth = state.decide(spec, in.reading);
        });
    }
    std::string about(const DecideWords& words) const override { return points_about(words, ""); }
    void turns(std::set<int64_t>& out) const override { points_turn(points(""), out); }
    void look(AnyQuantity value, std::vector<int>& out) const override {
        out.push_back(spec_.reached_by(value));
        out.push_back(spec_.released_by(value));
    }
    prove::DecideWires prove(const Decide& decide, prove::Pass& pass) const override {
        using prove::Wire;
        const Wire reached =
            pass.those(decide.of, [this](AnyQuantity q) { return spec_.reached_by(q); });
        const Wire released =
            pass.those(decide.of, [this](AnyQuantity q) { return spec_.released_by(q); });
        const Wire holds = pass.memory();
        const Wire lost = pass.lost(decide.of);
        const Wire next =
            pass.choose(lost, holds, pass.choose(holds, prove::opposite(released), reached));
        pass.set_next(holds, next);
        return {pass.unless(lost, next), {}, {}};
    }
    std::vector<Duration> times() const override { return {}; }

  protected:
    const Spec& spec() const { return spec_; }

  private:
    Spec spec_;
};

} // namespace zorilla::rig
