// SPDX-License-Identifier: MIT
// A range, and the points where it lets go.
#include "rig/decide/part.hpp"

#include <fmt/format.h>

namespace zorilla::rig {

namespace {

using Spec = WindowSpec<AnyQuantity>;

class Window : public DecidePart {
  public:
    explicit Window(const Spec& spec) : spec_(spec) {}

    std::unique_ptr<Deciding> start() const override {
        return decides([spec = spec_, state = WindowState()](const DecideInput& in,
                                                             DecideOutput& out) mutable {
            out.truth = state.decide(spec, in.reading);
        });
    }
    std::vector<DecidePoint> points(const std::string& name) const override {
        const Spec& w = spec_;
        using Q = AnyQuantity;
        return {{w.low, w.low_release, name + (w.is_inside ? " from" : " below"),
                 [w](Q v) { return w.is_inside ? v >= w.low : v < w.low; },
                 [w](Q v) { return w.is_inside ? v < w.low_release : v > w.low_release; }},
                {w.high, w.high_release, name + (w.is_inside ? " up to" : " above"),
                 [w](Q v) { return w.is_inside ? v <= w.high : v > w.high; },
                 [w](Q v) { return w.is_inside ? v > w.high_release : v < w.high_release; }}};
    }
    std::string about(const DecideWords& words) const override { return points_about(words, ""); }
    std::string because(const DecideReasons& why) const override {
        const AnyQuantity value = why.reading.value_or({});
        const bool within = value >= spec_.low && value <= spec_.high;
        const bool held = why.truth == Truth::yes && !spec_.reached_by(value);
        return fmt::format("{}, {}{} {} to {}{}", why.reads, held ? "still " : "",
                           within ? "inside" : "outside",
                           why.value(held ? spec_.low_release : spec_.low),
                           why.value(held ? spec_.high_release : spec_.high), why.timing);
    }
    void turns(std::set<int64_t>& out) const override { points_turn(points(""), out); }
    void look(AnyQuantity value, std::vector<int>& out) const override {
        out.push_back(spec_.reached_by(value));
        out.push_back(spec_.released_by(value));
    }
    prove::DecideWires prove(const Decide& decide, prove::Pass& pass) const override {
        return {judged(spec_, decide.of, pass), {}, {}};
    }
    std::vector<Duration> times() const override { return {}; }

  private:
    Spec spec_;
};

void read(DecideReader& in, Kind kind, Decide& out) {
    TableReader& keys = in.keys;
    const bool inside = keys.find("inside") != nullptr;
    const std::string_view key = inside ? "inside" : "outside";
    if (keys.find("inside") != nullptr && keys.find("outside") != nullptr)
        keys.complain(
            fmt::format("{} has both \"inside\" and \"outside\"; give one of them", keys.label()));
    const auto ends = in.points(key, kind, 2, 2);
    keys.require("release", "the two points where it lets go again",
                 fmt::format("[\"{0}\", \"{0}\"]", example_of(kind)));
    const auto release = in.points("release", kind, 2, 2);
    if (ends.size() == 2 && release.size() == 2) {
        const Spec spec = {inside, ends[0], ends[1], release[0], release[1]};
        if (keys.expect(spec.is_a_range(), key, "with the lower end first")) {
            keys.expect(
                spec.release_is_beyond(), "release",
                inside ? "further out than \"inside\", on both sides: that gap is the hysteresis"
                       : "further in than \"outside\", on both sides: that gap is the "
                         "hysteresis");
            for (size_t i = 0; i < 2; ++i)
                in.placed(*keys.find(key), *keys.find("release"), out, ends[i], release[i]);
            out.part = std::make_shared<Window>(spec);
        }
    }
    in.timing(out);
}

} // namespace

DecideKind window_room() {
    return {"window",
            2,
            true,
            Gives::truth,
            {"inside", "outside"},
            with_timing_keys({
                {"of", "\"room\""},
                {"inside", "[\"20 degC\", \"24 degC\"]"},
                {"outside", "[\"4 degC\", \"30 degC\"]"},
                {"release", "[\"6 degC\", \"28 degC\"]"},
            }),
            read};
}

} // namespace zorilla::rig
