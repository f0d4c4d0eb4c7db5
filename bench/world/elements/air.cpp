// SPDX-License-Identifier: MIT
// The air of a room, and gases in it.
#include "bench/world/elements/elements.hpp"
#include "bench/world/elements/warmth.hpp"

#include <algorithm>
#include <cmath>

namespace zorilla::bench {

using rig::Kind;

double saturated_vapour(double celsius) {
    const double pascal = 611.2 * std::exp(17.62 * celsius / (243.12 + celsius));
    return 2.16679 * pascal / (celsius + 273.15);
}

namespace {

/// Air that is mixed well: V dw/dt = m - Q (w - w_outside), w in g/m3. (ASHRAE Handbook
/// Fundamentals, chapter on ventilation and infiltration: the dilution of a contaminant.) What the
/// air carries out of warmth is taken from the body that it stands in. State: its vapour.
class Air : public Element {
  public:
    std::vector<WorldValue> values() const override { return {{name, Kind::humidity}}; }
    uint32_t states() const override { return 1; }

    void read(rig::TableReader& keys, WorldScope& scope) override {
        if (const auto all =
                keys.required_quantity("volume", Kind::volume, "12 m3", "how much air there is");
            all && keys.expect(*all > 0, "volume", "above 0"))
            volume = rig::in_formulas(*all, Kind::volume) / 1000;
        warm_ = scope.look(keys, "warmth", Kind::temperature, true, "what is as warm as the air")
                    .value_or(WorldRef{});
        if (const std::string* body = keys.table().get("warmth") == nullptr
                                          ? nullptr
                                          : keys.table().get("warmth")->as_text())
            body_ = dynamic_cast<const Warmth*>(scope.element_of(*body));
        outside_ = scope.element(keys, "outside", "weather", "the air that comes in");
        flows_ = actings(keys, "aired", "flow", Kind::air_flow, scope);
        for (Acting& flow : flows_)
            flow.amount /= 3600;
        if (const auto leaks = keys.quantity("leaks", Kind::air_flow, "6 m3/h")) {
            flows_.push_back({});
            flows_.back().amount = rig::in_formulas(*leaks, Kind::air_flow) / 3600;
        }
        made_ = actings(keys, "made", "vapour", Kind::vapour, scope);
        if (const auto at = keys.quantity("start", Kind::humidity, "70 %RH"))
            start_ = rig::in_formulas(*at, Kind::humidity);
    }
    void begin(double* states, const double* values) const override {
        const double warm = warm_.of(states, values);
        states[state] = start_ ? *start_ / 100 * saturated_vapour(warm)
                               : std::min(outside_vapour(values), saturated_vapour(warm));
    }
    void rates(const double* states, const double* values, double* rates) const override {
        const double flow = sum_of(flows_, values);
        rates[state] +=
            (sum_of(made_, values) / 3600 - flow * (states[state] - outside_vapour(values))) /
            volume;
        if (body_ != nullptr)
            body_->lose(air_heat_capacity * flow *
                            (warm_.of(states, values) - values[outside_->value]),
                        rates);
    }
    /// What the air cannot hold runs down the walls.
    void settle(double* states, const double* values) const override {
        states[state] = std::min(states[state], saturated_vapour(warm_.of(states, values)));
    }
    bool tell(const double* states, double* values) const override {
        // Within a step there may be more of it than the air holds; nobody sees that.
        values[value] =
            std::min(100 * states[state] / saturated_vapour(warm_.of(states, values)), 100.0);
        return true;
    }
    /// Its own, or that of the body whose warmth it carries off.
    double fastest() const override {
        const double own = most_of(flows_) / volume;
        return body_ == nullptr
                   ? own
                   : std::max(own, air_heat_capacity * most_of(flows_) / body_->capacity +
                                       body_->fastest());
    }
    /// Through its leaks alone, or whatever carries it off least.
    double slowest() const override {
        double least = 0;
        for (const Acting& flow : flows_)
            least = least == 0 ? flow.amount : std::min(least, flow.amount);
        return least > 0 ? volume / least : 0;
    }
    std::optional<Climate> climate() const override { return Climate{warm_.value, value}; }

    double flow(const double* values) const { return sum_of(flows_, values); }
    double volume = 1; ///< m3

  private:
    double outside_vapour(const double* values) const { return values[outside_->value + 2]; }

    WorldRef warm_;
    const Warmth* body_ = nullptr;
    const Element* outside_ = nullptr;
    std::vector<Acting> flows_; ///< m3/s
    std::vector<Acting> made_;  ///< g/h
    std::optional<double> start_;
};

/// A gas in such air: V dc/dt = s - Q (c - c_outside), c in ppm, so that a millilitre in a cubic
/// metre is one.
class Gas : public Element {
  public:
    std::vector<WorldValue> values() const override { return {{name, Kind::concentration}}; }
    uint32_t states() const override { return 1; }

    void read(rig::TableReader& keys, WorldScope& scope) override {
        air_ = dynamic_cast<const Air*>(scope.element(keys, "air", "air", "the air that it is in"));
        made_ = actings(keys, "made", "gas", Kind::gas_flow, scope);
        if (const auto there = keys.quantity("outside", Kind::concentration, "400 ppm"))
            outside_ = rig::in_formulas(*there, Kind::concentration);
        start_ = outside_;
        if (const auto at = keys.quantity("start", Kind::concentration, "9 ppm"))
            start_ = rig::in_formulas(*at, Kind::concentration);
    }
    void begin(double* states, const double*) const override { states[state] = start_; }
    void rates(const double* states, const double* values, double* rates) const override {
        rates[state] +=
            (sum_of(made_, values) / 3600 - air_->flow(values) * (states[state] - outside_)) /
            air_->volume;
    }
    bool tell(const double* states, double* values) const override {
        values[value] = states[state];
        return true;
    }
    double fastest() const override { return air_->fastest(); }
    std::optional<Climate> climate() const override { return air_->climate(); }

  private:
    const Air* air_ = nullptr;
    std::vector<Acting> made_; ///< ml/h
    double outside_ = 0, start_ = 0;
};

} // namespace

ElementKind air_element() {
    return {"air",
            "The air of a room, how damp it is, and what carries it off.",
            {{"volume", "\"12 m3\""},
             {"warmth", "\"roost\""},
             {"outside", "\"outside\""},
             {"leaks", "\"6 m3/h\""},
             {"aired", "[ { by = \"ventilator\", flow = \"60 m3/h\" } ]"},
             {"made", "[ { vapour = \"40 g/h\" } ]"},
             {"start", "\"70 %RH\""}},
            [] { return std::unique_ptr<Element>(std::make_unique<Air>()); }};
}
ElementKind gas_element() {
    return {"gas",
            "A gas in the air of a room.",
            {{"air", "\"house\""},
             {"made", "[ { gas = \"200 ml/h\" } ]"},
             {"outside", "\"400 ppm\""},
             {"start", "\"9 ppm\""}},
            [] { return std::unique_ptr<Element>(std::make_unique<Gas>()); }};
}

} // namespace zorilla::bench
