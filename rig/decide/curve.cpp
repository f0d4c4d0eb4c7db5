// SPDX-License-Identifier: MIT
// A duty by straight lines between points.
#include "rig/decide/part.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cstdlib>

namespace zorilla::rig {

namespace {

struct CurveTask {
    std::vector<CurvePoint<AnyQuantity>> points;
    Duty floor{};
    Duty dead_band{};

    Reading<Duty> decide(CurveState& state, AnyReading reading, Duty band) const {
        return state.decide(
            static_cast<uint8_t>(points.size()), [this](uint8_t i) { return points[i]; }, floor,
            band, reading);
    }
};

class RunningCurve : public Deciding {
  public:
    explicit RunningCurve(const CurveTask& task) : task_(&task) {}
    void pass(const DecideInput& in, DecideOutput& out) override {
        out.duty = task_->decide(state_, in.reading, task_->dead_band);
    }
    std::optional<Span> rests(AnyQuantity seen) const override {
        const auto& points = task_->points;
        const auto next = std::find_if(points.begin(), points.end(),
                                       [seen](const auto& point) { return seen <= point.at; });
        Span out;
        if (next == points.begin() || next == points.end()) {
            (next == points.begin() ? out.highest : out.lowest) =
                (next == points.begin() ? next : next - 1)->at.thousandths();
            return out;
        }
        // From one point to the next the duty goes one way, and so do its distances.
        const Duty is = given(seen);
        const auto last = [&](int64_t alike, int64_t beyond) {
            while (std::abs(beyond - alike) > 1) {
                const int64_t middle = (alike + beyond) / 2;
                const auto value = AnyQuantity::from_thousandths(static_cast<int32_t>(middle));
                (given(value) == is ? alike : beyond) = middle;
            }
            return static_cast<int32_t>(alike);
        };
        out.lowest = last(seen.thousandths(), next[-1].at.thousandths());
        out.highest = last(seen.thousandths(), next->at.thousandths());
        return out;
    }
    std::unique_ptr<Deciding> copy() const override {
        return std::make_unique<RunningCurve>(*this);
    }

  private:
    /// What it would give next, and so remember.
    Duty given(AnyQuantity value) const {
        CurveState state = state_;
        return task_->decide(state, AnyReading::of_bounded(value), task_->dead_band).value_or({});
    }
    const CurveTask* task_;
    CurveState state_;
};

class Curve : public DecidePart {
  public:
    explicit Curve(CurveTask spec) : spec_(std::move(spec)) {}

    std::unique_ptr<Deciding> start() const override {
        return std::make_unique<RunningCurve>(spec_);
    }
    std::vector<DecidePoint> points(const std::string&) const override { return {}; }
    std::string about(const DecideWords& words) const override {
        const auto share = [](Duty duty) { return to_text(AnyValue(duty), ValueKind::duty); };
        std::string out;
        for (const auto& p : spec_.points)
            out += fmt::format("{}{} at {}", out.empty() ? words.source().name + ": " : ", ",
                               share(p.duty), words.point(p.at));
        if (spec_.floor > Duty())
            out += ", floor " + share(spec_.floor);
        if (spec_.dead_band > Duty())
            out += ", dead band " + share(spec_.dead_band);
        return out;
    }
    std::string because(const DecideReasons& why) const override { return why.reads; }
    void turns(std::set<int64_t>& out) const override {
        // The values from which on it gives something of another class.
        const auto is = [this](int64_t v) {
            return class_at(AnyQuantity::from_thousandths(static_cast<int32_t>(v)));
        };
        for (size_t i = 0; i < spec_.points.size(); ++i) {
            const int64_t at = spec_.points[i].at.thousandths();
            out.insert(at);
            if (i + 1 == spec_.points.size())
                break;
            const int64_t next = spec_.points[i + 1].at.thousandths();
            for (int64_t from = at; is(from) != is(next);) {
                int64_t low = from, high = next;
                while (high - low > 1)
                    (is((low + high) / 2) == is(from) ? low : high) = (low + high) / 2;
                out.insert(high);
                from = high;
            }
        }
        for (const AnyQuantity end : {spec_.points.front().at, spec_.points.back().at})
            out.insert(int64_t{end.thousandths()} + 1);
    }
    void look(AnyQuantity value, std::vector<int>& out) const override {
        out.push_back(class_at(value));
        out.push_back(is_end(value));
    }
    prove::DecideWires prove(const Decide& decide, prove::Pass& pass) const override {
        using prove::Wire, prove::Much;
        const auto at = [&](int wanted) {
            return pass.those(decide.of, [&](AnyQuantity q) { return class_at(q) >= wanted; });
        };
        const Much now = {at(1), at(2)};
        if (spec_.dead_band == Duty{})
            return {{}, {}, now};
        // Within the band it may stay as it was; at an end of the curve, and after a fault, it does
        // not.
        const Wire at_end = pass.those(decide.of, [this](AnyQuantity q) { return is_end(q); });
        const Much was = pass.remembered();
        const Wire lost = pass.lost(decide.of);
        const Wire settled = pass.memory();
        pass.set_next(settled, prove::opposite(lost));
        const Wire stays = pass.both(pass.both(pass.input(), settled), prove::opposite(at_end));
        const Much next = pass.choose(stays, was, now);
        // What lay between may have moved on while it was lost; the duty itself is kept.
        pass.set_next(was, pass.choose(lost, was, next));
        return {{}, {}, next};
    }
    std::vector<Duration> times() const override { return {}; }

  private:
    /// What it gives at a value without its dead band: nothing, something, all.
    int class_at(AnyQuantity value) const {
        CurveState fresh;
        const Duty duty =
            spec_.decide(fresh, AnyReading::of_bounded(value), Duty{}).value_or(Duty{});
        return duty == Duty{} ? 0 : duty.of_255() == 255 ? 2 : 1;
    }
    bool is_end(AnyQuantity value) const {
        return value <= spec_.points.front().at || value >= spec_.points.back().at;
    }
    CurveTask spec_;
};

void read_curve(DecideReader& in, Kind kind, Decide& out) {
    TableReader& keys = in.keys;
    Findings& findings = in.scope.findings;
    CurveTask spec;
    const std::string example = fmt::format("[[\"{}\", \"20 %\"], ...]", example_of(kind));
    const auto duty = [&](const Node& node, std::string_view key) {
        const auto share = keys.quantity_of(node, key, Kind::percentage, "20 %");
        if (share && (*share < 0 || *share > 100'000))
            findings.add(node, "a duty must lie between 0 % and 100 %");
        return Duty(Percentage::from_thousandths(std::clamp(share.value_or(0), 0, 100'000)));
    };
    if (const auto* list = keys.list("points", 2, 16, example))
        for (const Node& node : list->inside()) {
            const Node* pair = node.as_list();
            if (pair == nullptr || pair->size() != 2) {
                findings.add(node, fmt::format("a point of a curve is a quantity and a duty, "
                                               "such as [\"{}\", \"20 %\"]",
                                               example_of(kind)));
                continue;
            }
            const auto at = keys.quantity_of((*pair)[0], "points", kind, example_of(kind));
            const Duty share = duty((*pair)[1], "points");
            if (!at)
                continue;
            const auto point = AnyQuantity::from_thousandths(*at);
            if (!spec.points.empty() && !(spec.points.back().at < point))
                findings.add((*pair)[0], "the points of a curve must go up in their "
                                         "quantity; put them in order");
            spec.points.push_back({point, share});
        }
    for (const char* key : {"floor", "dead_band"})
        if (const Node* node = keys.find(key))
            (key[0] == 'f' ? spec.floor : spec.dead_band) = duty(*node, key);
    if (!spec.points.empty())
        out.part = std::make_shared<Curve>(std::move(spec));
}

} // namespace

DecideKind curve_room() {
    return {"curve",
            0,
            true,
            Gives::duty,
            {"points"},
            {
                {"of", "\"roost\"", ""},
                {"points", "[[\"20 degC\", \"20 %\"], [\"30 degC\", \"100 %\"]]", ""},
                {"floor", "\"20 %\"", ".floor({})"},
                {"dead_band", "\"5 %\"", ".dead_band({})"},
            },
            read_curve,
            {{"", "curve({points:point({}, {})})"}},
            "Curve"};
}

} // namespace zorilla::rig
