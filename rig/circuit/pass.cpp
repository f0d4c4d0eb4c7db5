// SPDX-License-Identifier: MIT
#include "rig/circuit/pass.hpp"

#include "rig/text/text.hpp"

#include <fmt/format.h>

namespace zorilla::rig::prove {

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

Three Pass::edge(Three truth) {
    const Wire was = memory(true);
    const Wire unknown = both(truth.maybe, opposite(truth.yes));
    set_next(was, choose(unknown, was, truth.yes));
    const Wire rises = both(truth.yes, opposite(was));
    return {rises, either(rises, unknown)};
}

Wire Pass::over(size_t clock, Wire asks, Wire starts, Duration time, const std::string& text) {
    if (time <= Duration{})
        return always;
    const Wire choice = input();
    const Wire is_over = both(choice, opposite(starts));
    const int64_t span = time.thousandths();
    model.waits.push_back({clock, both(asks, is_over), starts, choice, span, std::nullopt,
                           fmt::format("{} ({}) is over", text, span_to_text(span))});
    model.waits.push_back({clock, both(asks, opposite(is_over)), starts, choice, std::nullopt,
                           span - 1, std::string()});
    return is_over;
}

Pass::Count Pass::count_to(size_t most) {
    Count out;
    const bool known = most <= longest_count;
    for (size_t i = 0; i < (known ? most : 1); ++i)
        out.reached.push_back(memory());
    if (!known)
        out.open = input();
    return out;
}

Wire Pass::advance(const Count& count, Wire clear, Wire more) {
    Wire below = always, last = never;
    for (const Wire reached : count.reached) {
        const Wire may = count.open == never ? always : count.open;
        last = both(opposite(clear), either(reached, both(both(more, below), may)));
        set_next(reached, last);
        below = reached;
    }
    return last;
}

void Pass::set_fact(size_t index, Wire yes) {
    model.facts[index] = known(yes);
    if (fact_memory_[index] != never)
        set_next(fact_memory_[index], yes);
}

} // namespace zorilla::rig::prove
