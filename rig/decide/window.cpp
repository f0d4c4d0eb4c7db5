// SPDX-License-Identifier: MIT
// A range, and the points where it lets go.
#include "rig/decide/judged.hpp"

#include <fmt/format.h>

namespace zorilla::rig {

namespace {

using AnyWindow = WindowSpec<AnyQuantity>;

class Window : public JudgedPart<AnyWindow, WindowState> {
  public:
    using JudgedPart::JudgedPart;

    std::vector<DecidePoint> points(const std::string& name) const override {
        const AnyWindow& w = spec();
        using Q = AnyQuantity;
        return {{w.low, w.low_release, name + (w.is_inside ? " from" : " below"),
                 [w](Q v) { return w.is_inside ? v >= w.low : v < w.low; },
                 [w](Q v) { return w.is_inside ? v < w.low_release : v > w.low_release; }},
                {w.high, w.high_release, name + (w.is_inside ? " up to" : " above"),
                 [w](Q v) { return w.is_inside ? v <= w.high : v > w.high; },
                 [w](Q v) { return w.is_inside ? v > w.high_release : v < w.high_release; }}};
    }
    std::string because(const DecideReasons& why) const override {
        const AnyQuantity value = why.reading.value_or({});
        const bool within = value >= spec().low && value <= spec().high;
        const bool held = why.truth == Truth::yes && !spec().reached_by(value);
        return fmt::format("{}, {}{} {} to {}{}", why.reads, held ? "still " : "",
                           within ? "inside" : "outside",
                           why.value(held ? spec().low_release : spec().low),
                           why.value(held ? spec().high_release : spec().high), why.timing);
    }
};

void read_window(DecideReader& in, Kind kind, Decide& out) {
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
        const AnyWindow spec = {inside, ends[0], ends[1], release[0], release[1]};
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
    return {
        "window",
        2,
        true,
        Gives::truth,
        {"inside", "outside"},
        with_timing_keys({
            {"of", "\"room\"", ""},
            {"inside", "[\"20 degC\", \"24 degC\"]", ""},
            {"outside", "[\"4 degC\", \"30 degC\"]", ""},
            {"release", "[\"6 degC\", \"28 degC\"]", ".release({.0}, {.1})"},
        }),
        read_window,
        {{"inside", "inside({inside.0}, {inside.1})"}, {"", "outside({outside.0}, {outside.1})"}},
        "Window"};
}

} // namespace zorilla::rig
