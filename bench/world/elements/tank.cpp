// SPDX-License-Identifier: MIT
// Tanks, barrels and ponds.
#include "bench/world/elements/elements.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace zorilla::bench {

using rig::Kind;

namespace {

/// dV/dt = what flows in - what flows out - what evaporates; what is above the brim is spilled, and
/// from an empty tank nothing flows. States in litres: what is in it, what came in, what went out,
/// what was spilled; the first is exactly what it began with + in - out - spilled.
class Tank : public Element {
  public:
    static constexpr uint32_t in = 1, out = 2, spilled = 3;

    /// Its depth.
    std::vector<WorldValue> values() const override { return {{name, Kind::length}}; }
    uint32_t states() const override { return 4; }

    void read(rig::TableReader& keys, WorldScope& scope) override {
        const auto length = [&](const char* key, const char* example) {
            const auto is = keys.quantity(key, Kind::length, example);
            return is ? std::optional(rig::in_formulas(*is, Kind::length)) : std::nullopt;
        };
        const auto height = length("height", "900 mm"), diameter = length("diameter", "560 mm"),
                   lies = length("length", "1.2 m"), top = length("top_diameter", "700 mm");
        const auto area = keys.quantity("area", Kind::area, "2400 cm2");
        filled_ = actings(keys, "filled", "flow", Kind::water_flow, scope);
        drained_ = actings(keys, "drained", "flow", Kind::water_flow, scope);
        if (const auto dries = keys.quantity("evaporates", Kind::evaporation, "3 mm/d"))
            dries_ = rig::in_formulas(*dries, Kind::evaporation);
        start_ = length("start", "400 mm");
        if (area.has_value() == diameter.has_value()) {
            keys.complain(fmt::format("{} needs either \"area\", that of its water, or "
                                      "\"diameter\"; for example diameter = \"560 mm\"",
                                      keys.label()));
            return;
        }
        if (lies) {
            if (!keys.expect(diameter && *diameter > 0 && *lies > 0, "length",
                             "with a \"diameter\": that of a round tank that lies"))
                return;
            radius_ = *diameter / 2;
            length_ = *lies;
            height_ = *diameter;
        } else if (!height) {
            keys.complain(fmt::format("{} needs \"height\", up to its brim; for example height = "
                                      "\"900 mm\"",
                                      keys.label()));
            return;
        } else {
            height_ = *height;
            bottom_ =
                area ? rig::in_formulas(*area, Kind::area) * 100 : pi / 4 * *diameter * *diameter;
            const double wide = top ? pi / 4 * *top * *top : bottom_;
            if (!keys.expect(height_ > 0 && bottom_ > 0 && wide > 0, area ? "area" : "diameter",
                             "above 0, as \"height\" must"))
                return;
            widens_ = std::sqrt(wide / bottom_) - 1;
        }
        full_ = litres(height_);
        if (start_)
            keys.expect(*start_ >= 0 && *start_ <= height_, "start", "between 0 and the brim");
    }

    void begin(double* states, const double*) const override {
        states[state] = litres(start_.value_or(height_ / 2));
    }
    void rates(const double* states, const double* values, double* rates) const override {
        const double comes = sum_of(filled_, values) / 3600;
        const double goes = states[state] <= 0
                                ? 0
                                : sum_of(drained_, values) / 3600 +
                                      dries_ * surface(depth(states[state])) / 1e6 / 86'400;
        rates[state] += comes - goes;
        rates[state + in] += comes;
        rates[state + out] += goes;
    }
    void settle(double* states, const double*) const override {
        if (states[state] > full_) {
            states[state + spilled] += states[state] - full_;
            states[state] = full_;
        } else if (states[state] < 0) {
            states[state + out] += states[state];
            states[state] = 0;
        }
    }
    bool has_bounds() const override { return true; }
    bool is_within(const double* states) const override {
        return states[state] >= 0 && states[state] <= full_;
    }
    bool tell(const double* states, double* values) const override {
        values[value] = std::clamp(depth(states[state]), 0.0, height_);
        return true;
    }

  private:
    /// Of the water at a depth, in mm2.
    double surface(double mm) const {
        if (length_ > 0)
            return 2 * std::sqrt(std::max(0.0, mm * (2 * radius_ - mm))) * length_;
        const double wide = 1 + widens_ * mm / height_;
        return bottom_ * wide * wide;
    }
    /// Up to a depth: of a lying round tank the segment of a circle, of one that widens upwards the
    /// frustum of a cone.
    double litres(double mm) const {
        if (length_ > 0) {
            const double angle = std::acos(std::clamp((radius_ - mm) / radius_, -1.0, 1.0));
            return (radius_ * radius_ * angle -
                    (radius_ - mm) * std::sqrt(std::max(0.0, mm * (2 * radius_ - mm)))) *
                   length_ / 1e6;
        }
        const double share = widens_ * mm / height_;
        return bottom_ * mm * (1 + share + share * share / 3) / 1e6;
    }
    double depth(double l) const {
        if (length_ <= 0 && widens_ == 0)
            return l * 1e6 / bottom_;
        // It rises with the depth: halved until nothing is left to halve.
        double low = 0, high = height_;
        for (int i = 0; i < 40; ++i) {
            const double middle = (low + high) / 2;
            (litres(middle) < l ? low : high) = middle;
        }
        return (low + high) / 2;
    }

    double height_ = 1000, bottom_ = 1e5, widens_ = 0, radius_ = 0, length_ = 0, dries_ = 0,
           full_ = 100;
    std::vector<Acting> filled_, drained_; ///< l/h
    std::optional<double> start_;          ///< mm
};

} // namespace

ElementKind tank_element() {
    return {"tank",
            "What is filled and drained: a barrel, a trough, a bilge, a silo.",
            {{"height", "\"900 mm\""},
             {"area", "\"2400 cm2\""},
             {"diameter", "\"560 mm\""},
             {"top_diameter", "\"700 mm\""},
             {"length", "\"1.2 m\""},
             {"start", "\"400 mm\""},
             {"filled", "[ { by = \"water_valve\", flow = \"3 l/min\" } ]"},
             {"drained", "[ { flow = \"4 l/d\" } ]"},
             {"evaporates", "\"3 mm/d\""}},
            [] { return std::unique_ptr<Element>(std::make_unique<Tank>()); }};
}

} // namespace zorilla::bench
