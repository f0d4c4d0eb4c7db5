// SPDX-License-Identifier: MIT
#include "rig/prove/never.hpp"

#include "rig/drive/part.hpp"

#include <fmt/format.h>

#include <set>

namespace zorilla::rig {

using prove::Ending;

struct Nevers::Asked {
    Asked(const Rig& rig, bool with_self_test)
        : model(prove::model_of(rig, with_self_test)), player(rig, model) {}
    prove::Model model;
    prove::Player player;
};

namespace {

/// A sequence as the circuit tells it, where no replay has come to it.
std::vector<std::string> told(const Rig& rig, const prove::Model& model,
                              const prove::Sequence& sequence) {
    std::vector<std::string> out;
    const auto join = [](std::string& to, const std::string& more) {
        to += (to.empty() ? "" : ", ") + more;
    };
    for (size_t pass = 0; pass < sequence.size(); ++pass) {
        std::string inputs, effects;
        for (const prove::Saying& saying : model.sayings) {
            const Source& source = rig.sources[saying.source];
            const auto holds = [&](size_t at, prove::Wire wire) {
                return sequence.knows(wire) && sequence.holds(at, wire);
            };
            const auto says = [&](size_t at, size_t i) { return holds(at, saying.says[i]); };
            const bool was_lost = pass > 0 && holds(pass - 1, saying.lost);
            if (holds(pass, saying.lost)) {
                if (!was_lost)
                    join(inputs, source.name + " is lost");
                continue;
            }
            for (size_t i = 0; i < saying.says.size(); ++i)
                if (says(pass, i) && (pass == 0 ? i > 0 : was_lost || !says(pass - 1, i)))
                    join(inputs, fmt::format("{} is {}", source.name,
                                             to_text(saying.readings[i], source.kind)));
        }
        for (const prove::Wait& wait : model.waits)
            if (!wait.text.empty() && sequence.knows(wait.choice) &&
                sequence.holds(pass, wait.when))
                join(inputs, wait.text);
        for (const prove::Change& change : model.changes)
            if (sequence.knows(change.is) && sequence.knows(change.was) &&
                sequence.holds(pass, change.is) && !sequence.holds(pass, change.was))
                join(effects, change.text);
        if (inputs.empty())
            inputs = pass == 0 ? "power-up" : "another pass";
        out.push_back(inputs + (effects.empty() ? "" : ": ") + effects);
    }
    return out;
}

/// Looks for a sequence that a replay comes to.
void show(const Rig& rig, size_t line, const prove::Model& model, prove::Player& player,
          prove::Deadline deadline, NeverResult& out) {
    constexpr size_t longest = 40; // passes
    constexpr int most = 20;       // sequences that a replay has not come to
    out.verdict = NeverResult::Verdict::may;
    const auto comes = [&](std::vector<prove::Row> rows) {
        auto shown = prove::replay(rig, model, line, std::move(rows));
        if (!shown)
            return false;
        out.verdict = NeverResult::Verdict::broken;
        out.steps = std::move(shown->steps);
        out.rows = std::move(shown->rows);
        return true;
    };
    std::set<int64_t> gaps = {0};
    for (const Drive& drive : rig.drives)
        for (const Duration swing : drive.part->swings())
            if (swing > Duration{})
                gaps.insert({swing.thousandths() / 100 + 1, swing.thousandths() / 4,
                             swing.thousandths() + swing.thousandths() / 16});
    // Not all of the time: what has to do with waits alone is found at once.
    const auto now = std::chrono::steady_clock::now();
    const auto enough =
        now + std::min<prove::Deadline::duration>((deadline - now) / 8, std::chrono::seconds(1));
    prove::Sequences sequences(model, model.bad[line].maybe, enough,
                               [&player](const prove::Sequence& candidate, size_t pass) {
                                   return player.lead(candidate, pass);
                               });
    for (int tried = 0; tried < most; ++tried) {
        const auto sequence = sequences.next(longest);
        if (!sequence)
            break;
        // As soon as can be; and with pauses, for what fades, ramps and settles meanwhile.
        for (const int64_t gap : gaps) {
            const auto paced = gap == 0 ? sequence : sequences.with_gaps(*sequence, gap);
            if (paced && comes(player.rows(*paced)))
                return;
        }
        if (out.steps.empty())
            out.steps = told(rig, model, *sequence);
    }
    if (auto rows = prove::wander(rig, line, player, enough + (deadline - now) / 4))
        comes(std::move(*rows));
}

} // namespace

Nevers::Nevers(const Rig& rig) : rig_(rig), plain_(std::make_unique<Asked>(rig, false)) {
    if (rig.self_test.when.given())
        tested_ = std::make_unique<Asked>(rig, true);
}
Nevers::~Nevers() = default;

NeverResult Nevers::look_at(size_t line, std::chrono::milliseconds longest) {
    const prove::Deadline deadline = std::chrono::steady_clock::now() + longest;
    NeverResult out;
    const auto ask = [&](Asked& asked, NeverResult& into) {
        const prove::Model& model = asked.model;
        const prove::Found found = prove::can_hold(model.circuit, model.bad[line].maybe, deadline);
        into.questions = found.questions;
        switch (found.ending) {
        case Ending::impossible: into.verdict = NeverResult::Verdict::proved; break;
        case Ending::possible: show(rig_, line, model, asked.player, deadline, into); break;
        case Ending::out_of_time: into.verdict = NeverResult::Verdict::open; break;
        }
    };
    ask(*plain_, out);
    if (out.verdict != NeverResult::Verdict::proved || tested_ == nullptr)
        return out;
    NeverResult with_test;
    ask(*tested_, with_test);
    if (with_test.verdict == NeverResult::Verdict::proved)
        return out;
    out.self_test = with_test.verdict;
    out.steps = std::move(with_test.steps);
    out.rows = std::move(with_test.rows);
    return out;
}

} // namespace zorilla::rig
