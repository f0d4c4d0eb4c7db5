// SPDX-License-Identifier: MIT
// The points of decisions: in words, as codes, and for proofs.
#include "rig/decide/part.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cstdlib>

namespace zorilla::rig {

DecidePoint point_of(const ThresholdSpec<AnyQuantity>& spec, const std::string& name) {
    return {spec.threshold, spec.release, name + (spec.side == Side::below ? " below" : " above"),
            [spec](AnyQuantity v) { return spec.reached_by(v); },
            [spec](AnyQuantity v) { return spec.released_by(v); }};
}

Span span_between(const std::vector<int64_t>& turns, AnyQuantity value) {
    Span out;
    const auto next = std::upper_bound(turns.begin(), turns.end(), int64_t{value.thousandths()});
    if (next != turns.begin())
        out.lowest = static_cast<int32_t>(next[-1]);
    if (next != turns.end())
        out.highest = static_cast<int32_t>(*next - 1);
    return out;
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

std::string DecideWords::point(AnyQuantity value) const {
    const Sense* sense = rig.sense_of(decide.of);
    const bool counted = sense != nullptr && codes_of(*sense).known();
    return this->value(value) +
           (counted ? fmt::format(" (code {})", codes_of(*sense).code_at(value)) : std::string());
}

std::string points_about(const DecideWords& words, std::string_view before) {
    const Decide& decide = words.decide;
    const Sense* sense = words.rig.sense_of(decide.of);
    const bool counted = sense != nullptr && codes_of(*sense).known();
    const auto coded = [&](AnyQuantity q, const auto& turned) {
        return words.value(q) + (counted
                                     ? fmt::format(" (code {})", code_of_point(*sense, turned, q))
                                     : std::string());
    };
    std::string out;
    for (const DecidePoint& p : points_of(decide)) {
        // The words begin with the decision's own name.
        out +=
            fmt::format("{}{}{} {}, lets go at {}", out.empty() ? words.source().name + " " : "; ",
                        before, p.words.substr(decide.name.size() + 1), coded(p.at, p.reached),
                        coded(p.release, p.released));
        if (!counted)
            continue;
        const int gap = std::abs(code_of_point(*sense, p.reached, p.at) -
                                 code_of_point(*sense, p.released, p.release));
        out += fmt::format(": hysteresis of {} {}", gap, gap == 1 ? "count" : "counts");
    }
    return out;
}

void points_turn(const std::vector<DecidePoint>& points, std::set<int64_t>& out) {
    for (const DecidePoint& point : points)
        for (const AnyQuantity q : {point.at, point.release}) {
            out.insert(q.thousandths());
            out.insert(int64_t{q.thousandths()} + 1);
        }
}

} // namespace zorilla::rig
