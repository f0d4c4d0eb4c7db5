// SPDX-License-Identifier: MIT
// What sensors may say, as a circuit: any side of any point that they are judged at.
#include "rig/prove/builder.hpp"

#include "rig/decide/part.hpp"
#include "rig/sense/part.hpp"

#include <algorithm>
#include <set>

namespace zorilla::rig::prove {

/// How everything that looks at a source sees a value.
std::vector<int> Builder::look_of(size_t source, int32_t value) const {
    const auto q = AnyQuantity::from_thousandths(value);
    std::vector<int> out = {rig.sources[source].kind == Kind::truth ? value : 0};
    for (const Decide& decide : rig.decides)
        if (decide.judges && decide.of == source)
            decide.part->look(q, out);
    for (const Drive& drive : rig.drives)
        if (drive.turns == source)
            out.push_back(value > 0);
    return out;
}

void Builder::source(size_t index) {
    const Source& source = rig.sources[index];
    Saying out{index, input(), {}, {}, {}, {}};
    std::set<int64_t> begins = {INT32_MIN}; // of the values that look the same
    for (const Decide& decide : rig.decides)
        if (decide.judges && decide.of == index)
            decide.part->turns(begins);
    for (const Drive& drive : rig.drives)
        if (drive.turns == index)
            begins.insert({0, 1});
    if (source.kind == Kind::truth)
        begins = {0, 1000};
    struct Range {
        int32_t lowest, highest, seen;
    };
    const Sense* sense = rig.sense_of(index);
    std::vector<Range> ranges;
    std::vector<std::vector<int>> looks;
    for (auto at = begins.begin(); at != begins.end(); ++at) {
        const auto next = std::next(at);
        const auto low = static_cast<int32_t>(std::min<int64_t>(*at, INT32_MAX));
        const auto high = static_cast<int32_t>(next == begins.end() ? INT32_MAX : *next - 1);
        if (low > high || (next != begins.end() && *next > INT32_MAX))
            continue;
        std::vector<int> look = look_of(index, low);
        if (!looks.empty() && looks.back() == look) {
            ranges.back().highest = high;
            continue;
        }
        looks.push_back(std::move(look));
        ranges.push_back({low, high, low});
    }
    // What a table of all codes never gives is never read.
    if (sense != nullptr && !sense->by_code.empty())
        ranges.erase(
            std::remove_if(ranges.begin(), ranges.end(),
                           [&](const Range& r) {
                               return std::none_of(
                                   sense->by_code.begin(), sense->by_code.end(),
                                   [&r](AnyReading reading) {
                                       const int32_t v = reading.value_or({}).thousandths();
                                       return reading.ok() && v >= r.lowest && v <= r.highest;
                                   });
                           }),
            ranges.end());
    if (ranges.empty())
        ranges.push_back({INT32_MIN, INT32_MAX, 0});
    for (Range& range : ranges) {
        const int32_t low = range.lowest, high = range.highest;
        // Something that it can well deliver, if there is such a value: not at the very edge.
        const int64_t from = std::max(low, source.lowest), to = std::min(high, source.highest);
        const int64_t middle = (int64_t{source.lowest} + source.highest) / 2;
        const int64_t inset =
            std::min((to - from) / 2, (int64_t{source.highest} - source.lowest) / 20);
        const int64_t seen = from > to ? std::clamp<int64_t>(middle, low, high)
                                       : std::clamp(middle, from + inset, to - inset);
        range.seen = source.kind == Kind::truth ? low : static_cast<int32_t>(seen);
    }
    // The calmest first: the one in the middle of what it delivers.
    const auto distance = [&source](const Range& r) {
        const int64_t middle = (int64_t{source.lowest} + source.highest) / 2;
        return source.kind == Kind::truth ? int64_t{r.seen} : std::abs(r.seen - middle);
    };
    std::stable_sort(ranges.begin(), ranges.end(),
                     [&](const Range& a, const Range& b) { return distance(a) < distance(b); });
    Wire none_yet = always;
    out.says.assign(ranges.size(), never);
    for (size_t i = ranges.size(); i-- > 1;) {
        const Wire wants = input();
        out.says[i] = both(none_yet, wants);
        none_yet = both(none_yet, opposite(wants));
    }
    out.says[0] = none_yet;
    for (const Range& range : ranges) {
        out.readings.push_back(range.seen);
        out.lowest.push_back(range.lowest);
        out.highest.push_back(range.highest);
    }
    // A contact that has to hold still first is not known in the first pass.
    if (sense != nullptr && sense->raw == RawKind::level) {
        bool known_at_once = false;
        for (const int64_t level : {0, 1}) {
            AnyReading reading;
            sense->part->start()->pass({}, Raw(level), nullptr, &reading);
            known_at_once = known_at_once || reading.ok();
        }
        if (!known_at_once)
            out.lost = either(out.lost, first);
    }
    for (Wire& says : out.says)
        says = both(says, opposite(out.lost));
    model.sayings.push_back(std::move(out));
}

void Builder::given_facts() {
    for (size_t i = 0; i < rig.facts.size(); ++i) {
        const Fact& fact = rig.facts[i];
        if (fact.kind == Fact::Kind::lost)
            model.facts[i] = known(lost(fact.of));
        if (fact.kind != Fact::Kind::switched)
            continue;
        const Wire yes = those(fact.of, [](AnyQuantity q) { return q.thousandths() != 0; });
        model.facts[i] = {yes, either(yes, lost(fact.of))};
        edges_of(i);
    }
}

void Builder::edges_of(size_t fact) {
    for (size_t i = 0; i < rig.facts.size(); ++i) {
        if (rig.facts[i].of != fact)
            continue;
        const Three truth = model.facts[fact];
        if (rig.facts[i].kind == Fact::Kind::rises)
            model.facts[i] = edge(truth);
        else if (rig.facts[i].kind == Fact::Kind::falls)
            model.facts[i] = edge({opposite(truth.maybe), opposite(truth.yes)});
    }
}

} // namespace zorilla::rig::prove
