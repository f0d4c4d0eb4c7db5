// SPDX-License-Identifier: MIT
#include "rig/prove/replay.hpp"

#include "rig/drive/part.hpp"

#include "rig/text/text.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace zorilla::rig::prove {

namespace {

/// Truths of a rig with those that only `never` may look at.
} // namespace

void all_truths(const RunningRig& running, std::vector<Truth>& out) {
    out = running.truths();
    const Rig& rig = running.rig();
    for (size_t i = 0; i < rig.facts.size(); ++i) {
        const Fact& fact = rig.facts[i];
        if (fact.kind != Fact::Kind::is_on && fact.kind != Fact::Kind::at_full)
            continue;
        const AnyValue value = running.drivens()[fact.of].value;
        out[i] = truth_of(fact.kind == Fact::Kind::is_on ? value.any()
                                                         : is_full(rig.drives[fact.of], value));
    }
}

namespace {

std::vector<Truth> all_truths(const RunningRig& running) {
    std::vector<Truth> out;
    prove::all_truths(running, out);
    return out;
}

/// Tells passes one after the other: what has changed at the inputs, and what came of it.
class Story {
  public:
    Story(const Rig& rig, const Model& model, size_t line)
        : rig_(rig), model_(model), line_(rig.nevers[line]), bears_(model.circuit.nodes().size()) {
        for (const uint32_t at : model.circuit.behind({model.bad[line].maybe}))
            bears_[at] = true;
        for (const Saying& saying : model.sayings) {
            bool bears = bears_[saying.lost >> 1];
            for (const Wire says : saying.says)
                bears = bears || (says > always && bears_[says >> 1]);
            sources_.push_back(bears);
        }
        for (size_t i = 0; i < model.any.size(); ++i) {
            bool bears = bears_[model.any[i] >> 1] || bears_[model.full[i] >> 1];
            for (const size_t fact : line_.condition.facts())
                bears = bears || ((rig.facts[fact].kind == Fact::Kind::is_on ||
                                   rig.facts[fact].kind == Fact::Kind::at_full) &&
                                  rig.facts[fact].of == i);
            drives_.push_back(bears);
        }
    }

    /// Adds a sentence if there is anything to tell. \param last  it always is, then
    void tell(int64_t now, const RunningRig& running, bool last, std::vector<std::string>& out) {
        const std::vector<Truth> truths = all_truths(running);
        std::string inputs = said(running), effects = done(running, truths);
        first_ = false;
        truths_ = truths;
        if (inputs.empty() && effects.empty() && !last)
            return;
        if (inputs.empty())
            inputs = out.empty() ? "power-up" : "by time alone";
        out.push_back(fmt::format("{}, {}{}{}", span_to_text(now), inputs,
                                  effects.empty() ? "" : ": ", effects));
    }

  private:
    static void join(std::string& to, const std::string& more) {
        to += (to.empty() ? "" : ", ") + more;
    }

    std::string said(const RunningRig& running) {
        std::string out;
        const auto& readings = running.readings();
        for (size_t i = 0; i < readings.size(); ++i) {
            const AnyReading is = readings[i];
            const AnyReading was = first_ ? AnyReading() : readings_[i];
            const bool moved = is.health() != was.health() || is.value_or({}) != was.value_or({});
            if (!moved || !sources_[i])
                continue;
            const Source& source = rig_.sources[i];
            // At first, only what is not as it is at rest.
            const int32_t value = is.value_or({}).thousandths();
            if (first_ && is.ok() && value >= model_.sayings[i].lowest[0] &&
                value <= model_.sayings[i].highest[0])
                continue;
            join(out, is.ok()
                          ? fmt::format("{} is {}", source.name,
                                        reading_text(is.value_or({}).thousandths(), source.kind))
                          : fmt::format("{} is lost ({})", source.name, to_text(is.health())));
        }
        readings_ = readings;
        return out;
    }

    std::string done(const RunningRig& running, const std::vector<Truth>& truths) {
        std::string out;
        for (size_t i = 0; i < rig_.machines.size(); ++i)
            if (running.state(i) != running.left_state(i))
                join(out, fmt::format("{} goes to {}", rig_.machines[i].name,
                                      rig_.machines[i].states[running.state(i)]));
        values_.resize(rig_.drives.size());
        tested_.resize(rig_.drives.size());
        for (size_t i = 0; i < rig_.drives.size(); ++i) {
            const Driven& is = running.drivens()[i];
            if (is.value != values_[i] && drives_[i])
                join(out, fmt::format("{} goes {}{}", rig_.drives[i].name,
                                      is_full(rig_.drives[i], is.value) &&
                                              rig_.drives[i].kind() == ValueKind::duty
                                          ? std::string("to full")
                                      : rig_.drives[i].kind() == ValueKind::duty && is.value.any()
                                          ? "to " + to_text(is.value, ValueKind::duty)
                                          : to_text(is.value, rig_.drives[i].kind()),
                                      is.tested && !tested_[i] ? " in a self-test" : ""));
            values_[i] = is.value;
            tested_[i] = is.tested;
        }
        // What the line itself asks, as far as it was not told above.
        for (const size_t fact : line_.condition.facts()) {
            const Fact::Kind kind = rig_.facts[fact].kind;
            const bool told = kind == Fact::Kind::is_on || kind == Fact::Kind::at_full ||
                              kind == Fact::Kind::switched || kind == Fact::Kind::lost ||
                              kind == Fact::Kind::in_state || kind == Fact::Kind::enters;
            const Truth was = first_ ? Truth::no : truths_[fact];
            if (!told && truths[fact] != was)
                join(out, fmt::format("{} is {}", rig_.facts[fact].name, to_text(truths[fact])));
        }
        return out;
    }

    const Rig& rig_;
    const Model& model_;
    const WrittenCondition& line_;
    std::vector<bool> bears_, sources_, drives_; ///< whether they bear on the line
    bool first_ = true;
    std::vector<AnyReading> readings_;
    std::vector<Truth> truths_;
    std::vector<AnyValue> values_;
    std::vector<bool> tested_;
};

/// How long a rig is left alone after the last row: ramps, kicks and patterns go on by themselves.
int64_t tail_of(const Rig& rig) {
    int64_t out = 0;
    for (const Drive& drive : rig.drives) {
        int64_t way = 0;
        for (const Duration swing : drive.part->swings())
            way += swing.thousandths();
        out = std::max(out, way);
        for (const RigClaim& claim : drive.claims)
            out = std::max<int64_t>(out, claim.pattern_time.thousandths());
    }
    return std::min<int64_t>(out, 3'600'000);
}

} // namespace

Truth truth_of_line(const RunningRig& running, const WrittenCondition& line) {
    return line.condition.evaluate(all_truths(running).data());
}

std::optional<Shown> replay(const Rig& rig, const Model& model, size_t line,
                            std::vector<Row> rows) {
    const WrittenCondition& condition = rig.nevers[line];
    constexpr int64_t tail_rows = 200;
    if (const int64_t tail = tail_of(rig); tail > 0) {
        const Row last = rows.back();
        const int64_t step = std::max<int64_t>(tail / tail_rows, 1);
        for (int64_t i = 1; i <= tail_rows + tail_rows / 4; ++i)
            rows.push_back({last.time + i * step, last.raws});
    }
    RunningRig running(rig);
    Story story(rig, model, line);
    Shown out;
    const int64_t begin = rows.front().time; // a rig's clock starts with its first pass
    for (Row& row : rows) {
        row.time -= begin;
        running.pass(Instant(static_cast<uint32_t>(row.time)), row.raws.data());
        const bool holds = truth_of_line(running, condition) != Truth::no;
        story.tell(row.time, running, holds, out.steps);
        out.rows.push_back(std::move(row));
        if (holds)
            return out;
    }
    return std::nullopt;
}

} // namespace zorilla::rig::prove
