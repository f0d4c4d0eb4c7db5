// SPDX-License-Identifier: MIT
// Stages, each with its point and the one where it lets go.
#include "rig/decide/part.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace zorilla::rig {

namespace {

using Stages = std::vector<ThresholdSpec<AnyQuantity>>;

class Ladder : public DecidePart {
  public:
    explicit Ladder(Stages stages) : stages_(std::move(stages)) {}

    std::unique_ptr<Deciding> start() const override {
        return decides_by_turns(
            *this, [this, state = LadderState()](const DecideInput& in, DecideOutput& out) mutable {
                out.stage = state.decide(
                    static_cast<uint8_t>(stages_.size()), [this](uint8_t i) { return stages_[i]; },
                    in.reading);
            });
    }
    std::vector<DecidePoint> points(const std::string& name) const override {
        std::vector<DecidePoint> out;
        for (size_t i = 0; i < stages_.size(); ++i)
            out.push_back(point_of(stages_[i], fmt::format("{} {}", name, i + 1)));
        return out;
    }
    std::string about(const DecideWords& words) const override {
        return points_about(words, "stage ");
    }
    std::string because(const DecideReasons& why) const override { return why.reads; }
    void turns(std::set<int64_t>& out) const override { points_turn(points(""), out); }
    void look(AnyQuantity value, std::vector<int>& out) const override {
        for (const auto& stage : stages_) {
            out.push_back(stage.reached_by(value));
            out.push_back(stage.released_by(value));
        }
    }
    prove::DecideWires prove(const Decide& decide, prove::Pass& pass) const override {
        prove::DecideWires out;
        const prove::Wire lost = pass.lost(decide.of);
        for (size_t i = 0; i < stages_.size(); ++i) {
            const auto at_least = [this, i](AnyQuantity q, bool held) {
                const auto count =
                    std::count_if(stages_.begin(), stages_.end(), [q, held](const auto& s) {
                        return held ? !s.released_by(q) : s.reached_by(q);
                    });
                return static_cast<size_t>(count) > i;
            };
            const prove::Wire begun =
                pass.those(decide.of, [&](AnyQuantity q) { return at_least(q, false); });
            const prove::Wire held =
                pass.those(decide.of, [&](AnyQuantity q) { return at_least(q, true); });
            const prove::Wire was = pass.memory();
            out.stages.push_back(pass.choose(lost, was, pass.both(pass.either(was, begun), held)));
            pass.set_next(was, out.stages.back());
        }
        return out;
    }
    std::vector<Duration> times() const override { return {}; }

  private:
    Stages stages_;
};

void read_ladder(DecideReader& in, Kind kind, Decide& out) {
    TableReader& keys = in.keys;
    const bool rising = keys.find("rising") != nullptr;
    const std::string_view key = rising ? "rising" : "falling";
    if (keys.find("rising") != nullptr && keys.find("falling") != nullptr)
        keys.complain(
            fmt::format("{} has both \"rising\" and \"falling\"; give one of them", keys.label()));
    const auto begins = in.points(key, kind, 1, 16);
    const Node* node = keys.find("release");
    std::vector<AnyQuantity> releases;
    if (node == nullptr)
        keys.require("release", "where the stages let go: one point for all, or one for each",
                     fmt::format("\"{}\"", example_of(kind)));
    else if (begins.empty())
        return;
    else if (node->is_list())
        releases = in.points("release", kind, begins.size(), begins.size());
    else if (const auto one = keys.quantity("release", kind, example_of(kind)))
        releases.assign(begins.size(), AnyQuantity::from_thousandths(*one));
    if (begins.empty() || releases.size() != begins.size())
        return;
    Stages stages;
    bool ordered = true, beyond = true;
    for (size_t i = 0; i < begins.size(); ++i) {
        stages.push_back({rising ? Side::above : Side::below, begins[i], releases[i]});
        beyond = beyond && stages[i].release_is_beyond();
        if (i == 0)
            continue;
        ordered = ordered && (rising ? begins[i - 1] < begins[i] : begins[i] < begins[i - 1]) &&
                  (rising ? !(releases[i] < releases[i - 1]) : !(releases[i - 1] < releases[i]));
    }
    keys.expect(ordered, key,
                "in order: each stage beyond the one before it, and none may let go "
                "before the one below it");
    keys.expect(beyond, "release",
                rising ? "below the point where the stage begins: that gap is the hysteresis"
                       : "above the point where the stage begins: that gap is the hysteresis");
    for (size_t i = 0; ordered && beyond && i < begins.size(); ++i)
        in.placed(*keys.find(key), *node, out, begins[i], releases[i]);
    out.stages = static_cast<uint8_t>(stages.size());
    out.part = std::make_shared<Ladder>(std::move(stages));
}

} // namespace

DecideKind ladder_room() {
    return {"ladder",
            1,
            true,
            Gives::stage,
            {"rising", "falling"},
            {
                {"of", "\"ammonia\"", ""},
                {"rising", "[\"10 ppm\", \"25 ppm\"]", ""},
                {"falling", "[\"40 %\", \"20 %\"]", ""},
                {"release", "[\"8 ppm\", \"20 ppm\"]", ".release({:{}})"},
            },
            read_ladder,
            {{"rising", "rising({rising:{}})"}, {"", "falling({falling:{}})"}},
            "Ladder"};
}

} // namespace zorilla::rig
