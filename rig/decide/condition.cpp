// SPDX-License-Identifier: MIT
// Conditions over other truths.
#include "rig/decide/part.hpp"

namespace zorilla::rig {

namespace {

class WhenPart : public DecidePart {
  public:
    std::unique_ptr<Deciding> start() const override {
        return decides_by_turns(
            *this, [](const DecideInput& in, DecideOutput& out) { out.truth = in.when; });
    }
    std::vector<DecidePoint> points(const std::string&) const override { return {}; }
    std::string about(const DecideWords& words) const override {
        return "when " + words.decide.when.text;
    }
    std::string because(const DecideReasons& why) const override { return why.facts; }
    void turns(std::set<int64_t>&) const override {}
    void look(AnyQuantity, std::vector<int>&) const override {}
    prove::DecideWires prove(const Decide& decide, prove::Pass& pass) const override {
        return {pass.evaluate(decide.when), {}, {}};
    }
    std::vector<Duration> times() const override { return {}; }
};

void read_condition(DecideReader& in, Kind, Decide& out) {
    out.part = std::make_shared<WhenPart>();
    in.timing(out);
}

} // namespace

DecideKind condition_room() {
    return {"condition",    5,  false,
            Gives::truth,   {}, with_timing_keys({{"when", "\"cold and not airing\"", ""}}),
            read_condition, {}, ""};
}

} // namespace zorilla::rig
