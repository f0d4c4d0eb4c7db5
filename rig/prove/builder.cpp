// SPDX-License-Identifier: MIT
#include "rig/prove/builder.hpp"

#include "rig/sense/part.hpp"
#include "rig/text/text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <set>

namespace zorilla::rig::prove {

bool is_full(const Drive& drive, AnyValue value) {
    return drive.kind() == ValueKind::stage ? value == drive.full() : value.is_full(drive.kind());
}

Three Model::evaluate(const Condition& condition) {
    return condition.fold<Three>(
        [this](size_t fact) { return facts[fact]; },
        [](Three a) {
            return Three{opposite(a.maybe), opposite(a.yes)};
        },
        [this](Three a, Three b) {
            return Three{circuit.both(a.yes, b.yes), circuit.both(a.maybe, b.maybe)};
        },
        [this](Three a, Three b) {
            return Three{circuit.either(a.yes, b.yes), circuit.either(a.maybe, b.maybe)};
        });
}

Model model_of(const Rig& rig, bool with_self_test) { return Builder(rig, with_self_test).build(); }

Builder::Builder(const Rig& rig, bool with_self_test)
    : rig_(rig), with_self_test_(with_self_test), c_(out_.circuit), first_(c_.memory(true)) {}

Model Builder::build() {
    out_.facts.resize(rig_.facts.size());
    out_.any.resize(rig_.drives.size());
    out_.full.resize(rig_.drives.size());
    fact_memory_.assign(rig_.facts.size(), never);
    stages_.resize(rig_.decides.size());
    curves_.resize(rig_.decides.size());
    senses_.resize(rig_.drives.size());
    for (size_t i = 0; i < rig_.facts.size(); ++i) {
        const Fact& fact = rig_.facts[i];
        switch (fact.kind) {
        case Fact::Kind::in_state:
        case Fact::Kind::enters:
        case Fact::Kind::leaves:
        case Fact::Kind::warns:
        case Fact::Kind::warns_off:
        case Fact::Kind::by_hand:
        case Fact::Kind::stalled:
        case Fact::Kind::shut_down: {
            const bool starts =
                fact.kind == Fact::Kind::in_state && rig_.machines[fact.of].start == fact.number;
            fact_memory_[i] = c_.memory(starts);
            out_.facts[i] = known(fact_memory_[i]);
            break;
        }
        case Fact::Kind::switched:
        case Fact::Kind::decision:
        case Fact::Kind::lost:
        case Fact::Kind::rises:
        case Fact::Kind::falls:
        case Fact::Kind::at_least:
        case Fact::Kind::locked:
        case Fact::Kind::is_on:
        case Fact::Kind::at_full: break; // set before anybody looks
        }
    }
    for (size_t i = 0; i < rig_.drives.size(); ++i) {
        out_.any[i] = c_.memory(false);
        relay_on_.push_back(c_.memory(false));
        wanted_.push_back(c_.memory(false));
    }
    sources();
    given_facts();
    for (size_t i = 0; i < rig_.decides.size(); ++i)
        decide(i);
    for (size_t i = 0; i < rig_.machines.size(); ++i)
        machine(i);
    for (size_t i = 0; i < rig_.drives.size(); ++i)
        if (rig_.drives[i].hand)
            hand(i);
    if (!rig_.shutdown.order.empty())
        shutdown();
    if (with_self_test_ && rig_.self_test.when.given())
        self_test();
    for (size_t i = 0; i < rig_.drives.size(); ++i)
        drive(i);
    c_.set_next(first_, never);
    for (const WrittenCondition& line : rig_.nevers)
        out_.bad.push_back(evaluate(line));
    return std::move(out_);
}

// --- What everything is made of

Three Builder::edge(Three truth) {
    const Wire was = c_.memory(true);
    const Wire unknown = both(truth.maybe, opposite(truth.yes));
    c_.set_next(was, choose(unknown, was, truth.yes));
    const Wire rises = both(truth.yes, opposite(was));
    return {rises, either(rises, unknown)};
}

Wire Builder::over(size_t clock, Wire asks, Wire starts, Duration time, const std::string& text) {
    if (time <= Duration{})
        return always;
    const Wire choice = c_.input();
    const Wire is_over = both(choice, opposite(starts));
    const int64_t span = time.thousandths();
    out_.waits.push_back({clock, both(asks, is_over), starts, choice, span, std::nullopt,
                          fmt::format("{} ({}) is over", text, span_to_text(span))});
    out_.waits.push_back({clock, both(asks, opposite(is_over)), starts, choice, std::nullopt,
                          span - 1, std::string()});
    return is_over;
}

Builder::Count Builder::count_to(size_t most) {
    Count out;
    const bool known = most <= longest_count;
    for (size_t i = 0; i < (known ? most : 1); ++i)
        out.reached.push_back(c_.memory(false));
    if (!known)
        out.open = c_.input();
    return out;
}

Wire Builder::advance(const Count& count, Wire clear, Wire more) {
    Wire below = always, last = never;
    for (const Wire reached : count.reached) {
        const Wire may = count.open == never ? always : count.open;
        last = both(opposite(clear), either(reached, both(both(more, below), may)));
        c_.set_next(reached, last);
        below = reached;
    }
    return last;
}

void Builder::set_fact(size_t index, Wire yes) {
    out_.facts[index] = known(yes);
    if (fact_memory_[index] != never)
        c_.set_next(fact_memory_[index], yes);
}

// --- Sources

void Builder::sources() {
    for (size_t i = 0; i < rig_.sources.size(); ++i)
        source(i);
}

Duty duty_at(const Decide& curve, AnyQuantity value) {
    CurveState fresh;
    return fresh
        .decide(
            static_cast<uint8_t>(curve.points.size()),
            [&curve](uint8_t i) { return curve.points[i]; }, curve.floor, Duty{},
            AnyReading::of_bounded(value))
        .value_or(Duty{});
}

/// The class of a curve's duty at a value: nothing, something, all.
static int class_of(const Decide& decide, int32_t value) {
    const Duty duty = duty_at(decide, AnyQuantity::from_thousandths(value));
    return duty == Duty{} ? 0 : duty.of_255() == 255 ? 2 : 1;
}

/// The values from which on a curve gives something of another class.
static void turns_of(const Decide& decide, std::set<int64_t>& out) {
    for (size_t i = 0; i < decide.points.size(); ++i) {
        const int64_t at = decide.points[i].at.thousandths();
        out.insert(at);
        if (i + 1 == decide.points.size())
            return;
        const int64_t next = decide.points[i + 1].at.thousandths();
        const auto is = [&decide](int64_t v) { return class_of(decide, static_cast<int32_t>(v)); };
        for (int64_t from = at; is(from) != is(next);) {
            int64_t low = from, high = next;
            while (high - low > 1)
                (is((low + high) / 2) == is(from) ? low : high) = (low + high) / 2;
            out.insert(high);
            from = high;
        }
    }
}

/// How everything that looks at a source sees a value.
std::vector<int> Builder::look_of(size_t source, int32_t value) const {
    const auto q = AnyQuantity::from_thousandths(value);
    std::vector<int> out = {rig_.sources[source].kind == Kind::truth ? value : 0};
    const auto look = [&out, q](const auto& spec) {
        out.push_back(spec.reached_by(q));
        out.push_back(spec.released_by(q));
    };
    for (const Decide& decide : rig_.decides) {
        if (!decide.judges() || decide.of != source)
            continue;
        if (decide.part == Decide::Part::threshold)
            look(decide.spec);
        else if (decide.part == Decide::Part::window)
            look(decide.window);
        for (const auto& stage : decide.stages)
            look(stage);
        if (decide.part != Decide::Part::curve)
            continue;
        out.push_back(class_of(decide, value));
        out.push_back(q <= decide.points.front().at || q >= decide.points.back().at);
    }
    for (const Drive& drive : rig_.drives)
        if (drive.turns == source)
            out.push_back(value > 0);
    return out;
}

void Builder::source(size_t index) {
    const Source& source = rig_.sources[index];
    Saying out{index, c_.input(), {}, {}, {}, {}};
    std::set<int64_t> starts = {INT32_MIN}; // of the values that look the same
    const auto split = [&starts](AnyQuantity q) {
        for (const int64_t by : {0, 1})
            starts.insert(std::max<int64_t>(q.thousandths(), INT32_MIN) + by);
    };
    for (const Decide& decide : rig_.decides) {
        if (!decide.judges() || decide.of != index)
            continue;
        for (const DecidePoint& point : points_of(decide)) {
            split(point.at);
            split(point.release);
        }
        if (decide.part == Decide::Part::curve) {
            turns_of(decide, starts);
            split(decide.points.front().at);
            split(decide.points.back().at);
        }
    }
    for (const Drive& drive : rig_.drives)
        if (drive.turns == index)
            split(AnyQuantity{});
    if (source.kind == Kind::truth)
        starts = {0, 1000};
    struct Range {
        int32_t lowest, highest, seen;
    };
    const Sense* sense = rig_.sense_of(index);
    std::vector<Range> ranges;
    std::vector<std::vector<int>> looks;
    for (auto at = starts.begin(); at != starts.end(); ++at) {
        const auto next = std::next(at);
        const auto low = static_cast<int32_t>(std::min<int64_t>(*at, INT32_MAX));
        const auto high = static_cast<int32_t>(next == starts.end() ? INT32_MAX : *next - 1);
        if (low > high || (next != starts.end() && *next > INT32_MAX))
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
        const Wire wants = c_.input();
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
            out.lost = either(out.lost, first_);
    }
    for (Wire& says : out.says)
        says = both(says, opposite(out.lost));
    out_.sayings.push_back(std::move(out));
}

void Builder::given_facts() {
    for (size_t i = 0; i < rig_.facts.size(); ++i) {
        const Fact& fact = rig_.facts[i];
        if (fact.kind == Fact::Kind::lost)
            out_.facts[i] = known(saying(fact.of).lost);
        if (fact.kind != Fact::Kind::switched)
            continue;
        const Wire yes = those(fact.of, [](AnyQuantity q) { return q.thousandths() != 0; });
        out_.facts[i] = {yes, either(yes, saying(fact.of).lost)};
        edges_of(i);
    }
}

void Builder::edges_of(size_t fact) {
    for (size_t i = 0; i < rig_.facts.size(); ++i) {
        if (rig_.facts[i].of != fact)
            continue;
        const Three truth = out_.facts[fact];
        if (rig_.facts[i].kind == Fact::Kind::rises)
            out_.facts[i] = edge(truth);
        else if (rig_.facts[i].kind == Fact::Kind::falls)
            out_.facts[i] = edge({opposite(truth.maybe), opposite(truth.yes)});
    }
}

} // namespace zorilla::rig::prove
