// SPDX-License-Identifier: MIT
// One point, and the one where it lets go.
#include "rig/decide/judged.hpp"

#include <fmt/format.h>

#include <cstdlib>

namespace zorilla::rig {

namespace {

using AnyThreshold = ThresholdSpec<AnyQuantity>;

class Threshold : public JudgedPart<AnyThreshold, ThresholdState> {
  public:
    using JudgedPart::JudgedPart;

    std::vector<DecidePoint> points(const std::string& name) const override {
        return {point_of(spec(), name)};
    }
    std::string because(const DecideReasons& why) const override {
        const AnyQuantity value = why.reading.value_or({});
        const std::string_view side = spec().side == Side::below ? "below" : "above";
        const bool reached = spec().reached_by(value);
        const bool held = why.truth == Truth::yes && !reached; // by the hysteresis
        if (why.truth == Truth::no && why.let_go)
            return fmt::format("{}, {} lets go at {}", why.reads, why.decide.name,
                               why.value(spec().release));
        return fmt::format("{}, {}{} {}{}", why.reads,
                           held                                 ? "still "
                           : why.truth == Truth::no && !reached ? "not "
                                                                : "",
                           side, why.value(held ? spec().release : spec().threshold), why.timing);
    }
    const AnyThreshold* plain() const override { return &spec(); }
};

/// Complains about a release point on the wrong side, and about points out of reach.
void placed(DecideReader& in, const AnyThreshold& spec, const Decide& decide, Kind kind) {
    const bool is_below = spec.side == Side::below;
    const Node& threshold = *in.keys.find(is_below ? "below" : "above");
    const Node& release = *in.keys.find("release");
    const auto shown = [kind](AnyQuantity value) { return to_text(value.thousandths(), kind); };
    if (spec.release_is_beyond())
        return in.placed(threshold, release, decide, spec.threshold, spec.release);
    const int32_t point = spec.threshold.thousandths();
    // A tenth of the threshold away, or, for temperatures, two degrees.
    const int32_t gap = kind == Kind::temperature ? 2000 : std::max(std::abs(point) / 10, 1);
    in.scope.findings.add(release,
                          fmt::format("the release point {} must lie {} the threshold {}, or it "
                                      "could never let go; for example release = \"{}\"",
                                      shown(spec.release), is_below ? "above" : "below",
                                      shown(spec.threshold),
                                      to_text(is_below ? point + gap : point - gap, kind)));
}

void read_threshold(DecideReader& in, Kind kind, Decide& out) {
    TableReader& keys = in.keys;
    const bool degrees = kind == Kind::temperature;
    const std::string_view above_example = degrees ? "30 degC" : example_of(kind);
    const auto below = keys.quantity("below", kind, example_of(kind));
    const auto above = keys.quantity("above", kind, above_example);
    const bool has_below = keys.find("below") != nullptr;
    const bool has_above = keys.find("above") != nullptr;
    if (has_below == has_above)
        keys.complain(fmt::format("{} needs either \"below\" or \"above\"{}; for example below "
                                  "= \"{}\"",
                                  keys.label(), has_below ? ", not both" : "", example_of(kind)));
    const auto release = keys.quantity("release", kind, example_of(kind));
    if (keys.find("release") == nullptr)
        keys.complain(fmt::format(
            "{} needs \"release\", the point where it lets go again, {} the threshold; without "
            "that gap the output would chatter. For example release = \"{}\"",
            keys.label(), has_above ? "below" : "above",
            degrees ? has_above ? "28 degC" : "6 degC" : example_of(kind)));
    if (release && (below || above) && has_below != has_above) {
        const AnyThreshold spec = {has_below ? Side::below : Side::above,
                                   AnyQuantity::from_thousandths(below ? *below : *above),
                                   AnyQuantity::from_thousandths(*release)};
        placed(in, spec, out, kind);
        out.part = std::make_shared<Threshold>(spec);
    }
    in.timing(out);
}

} // namespace

DecideKind threshold_room() {
    return {"threshold",
            3,
            true,
            Gives::truth,
            {},
            with_timing_keys({
                {"of", "\"roost\"", ""},
                {"below", "\"4 degC\"", ""},
                {"above", "\"30 degC\"", ""},
                {"release", "\"6 degC\"", ".release({})"},
            }),
            read_threshold,
            {{"below", "below({below})"}, {"", "above({above})"}},
            "Threshold"};
}

} // namespace zorilla::rig
