// SPDX-License-Identifier: MIT
// The points of decisions, for a person and for figures.
#include "rig/sense/part.hpp"

#include <fmt/format.h>

namespace zorilla::rig {

std::vector<DecidePoint> points_of(const Decide& decide) {
    const auto side = [](Side s) { return s == Side::below ? "below" : "above"; };
    using Q = AnyQuantity;
    const auto of_threshold = [&side](const ThresholdSpec<Q>& spec, std::string name) {
        return DecidePoint{spec.threshold, spec.release,
                           fmt::format("{} {}", std::move(name), side(spec.side)),
                           [spec](Q v) { return spec.reached_by(v); },
                           [spec](Q v) { return spec.released_by(v); }};
    };
    switch (decide.part) {
    case Decide::Part::threshold: return {of_threshold(decide.spec, decide.name)};
    case Decide::Part::window: {
        const auto& w = decide.window;
        return {{w.low, w.low_release,
                 fmt::format("{} {}", decide.name, w.is_inside ? "from" : "below"),
                 [w](Q v) { return w.is_inside ? v >= w.low : v < w.low; },
                 [w](Q v) { return w.is_inside ? v < w.low_release : v > w.low_release; }},
                {w.high, w.high_release,
                 fmt::format("{} {}", decide.name, w.is_inside ? "up to" : "above"),
                 [w](Q v) { return w.is_inside ? v <= w.high : v > w.high; },
                 [w](Q v) { return w.is_inside ? v > w.high_release : v < w.high_release; }}};
    }
    case Decide::Part::ladder: {
        std::vector<DecidePoint> out;
        for (size_t i = 0; i < decide.stages.size(); ++i)
            out.push_back(of_threshold(decide.stages[i], fmt::format("{} {}", decide.name, i + 1)));
        return out;
    }
    case Decide::Part::curve:
    case Decide::Part::condition:
    case Decide::Part::attempts: break;
    }
    return {};
}


uint16_t code_of_point(const Sense& sense, const std::function<bool(AnyQuantity)>& turned,
                       AnyQuantity at) {
    const size_t first = codes_of(sense).first, last = codes_of(sense).last;
    const auto is = [&](size_t code) {
        const AnyReading reading = sense.by_code[code];
        return reading.ok() && turned(reading.value_or({}));
    };
    if (!sense.by_code.empty() && last < sense.by_code.size() && is(first) != is(last)) {
        // From the end where it has turned, to the last code where it still has.
        const bool from_first = is(first);
        size_t code = from_first ? first : last;
        while (is(from_first ? code + 1 : code - 1))
            code = from_first ? code + 1 : code - 1;
        return static_cast<uint16_t>(code);
    }
    return codes_of(sense).code_at(at);
}

} // namespace zorilla::rig
