// SPDX-License-Identifier: MIT
#include "bench/why.hpp"

#include "rig/text/text.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace zorilla::bench {

namespace {

class Why {
  public:
    Why(const rig::RunningRig& running, const Explainer& explainer,
        const std::vector<std::string>& moved, Question question)
        : running_(running), rig_(running.rig()), explainer_(explainer), moved_(moved),
          question_(question), index_(question.index),
          drive_(rig_.drives.empty() ? none_ : rig_.drives[is_drive() ? index_ : 0]) {}

    std::vector<std::string> tell(int64_t now, int64_t since, const rig::Raw* raws) {
        switch (question_.about) {
        case Question::About::drive: break;
        case Question::About::decide: decision(now, raws); break;
        case Question::About::machine: machine(now, raws); break;
        case Question::About::source:
            say(0, "{} at {}", explainer_.about_source(index_), rig::time_to_text(now));
            add_source(index_);
            for (const size_t source : sources_)
                sample(source, raws);
            break;
        }
        if (!is_drive()) {
            say(1, "{} since {}.",
                question_.about == Question::About::source ? "Its health has been the same"
                                                           : "It has been so",
                rig::time_to_text(since));
            return std::move(out_);
        }
        const rig::Driven& driven = running_.drivens()[index_];
        say(0, "{} at {}: {}", drive_.name, rig::time_to_text(now), value_text(driven));
        // What is behind the claims, then the claims, then what comes of them.
        if (driven.tested) {
            say(1, "{}, past claims and guards.", capital(explainer_.why_driven(index_, now)));
            pins(driven);
            return std::move(out_);
        }
        find_parts(driven);
        behind(raws);
        claims(driven);
        cause(driven);
        pins(driven);
        say(1, "It has been so since {}.", rig::time_to_text(since));
        return std::move(out_);
    }

  private:
    bool is_drive() const { return question_.about == Question::About::drive; }

    void behind(const rig::Raw* raws) {
        for (const size_t source : sources_)
            sample(source, raws);
        for (const size_t decide : decides_)
            if (question_.about != Question::About::decide || decide != index_)
                about(decide);
        for (const size_t machine : machines_)
            if (question_.about != Question::About::machine || machine != index_)
                say(1, "{} is in {}{}.", rig_.machines[machine].name,
                    rig_.machines[machine].states[running_.state(machine)], moved_[machine]);
    }
    void decision(int64_t now, const rig::Raw* raws) {
        const rig::Decide& decide = rig_.decides[index_];
        say(0, "{} at {}: {}", decide.name, rig::time_to_text(now), value_of(index_));
        add_decide(index_);
        behind(raws);
        if (decide.has_truth())
            say(1, "{}.", capital(explainer_.about_fact(decide.fact)));
        else
            say(1, "{}, and {} gives {}.", capital(explainer_.about_source(decide.of)), decide.name,
                value_of(index_));
    }
    std::string value_of(size_t index) const {
        const rig::Decide& decide = rig_.decides[index];
        if (decide.has_truth())
            return std::string(rig::to_text(running_.truths()[decide.fact]));
        if (decide.gives == rig::Gives::stage)
            return running_.stage(index).ok()
                       ? fmt::format("stage {}", running_.stage(index).value_or(Stage()).number())
                       : std::string("nothing");
        return running_.duty(index).ok()
                   ? rig::to_text(running_.duty(index).value_or(Duty()), rig::ValueKind::duty)
                   : std::string("nothing");
    }
    void machine(int64_t now, const rig::Raw* raws) {
        const rig::RigMachine& machine = rig_.machines[index_];
        const uint8_t state = running_.state(index_);
        say(0, "{} at {}: in {}", machine.name, rig::time_to_text(now), machine.states[state]);
        for (const rig::WrittenCondition& event : machine.events)
            for (const size_t fact : event.condition.facts())
                follow(fact);
        behind(raws);
        say(1, "It is in {}{}.", machine.states[state], moved_[index_]);
        for (const MachineMove& move : machine.moves) {
            if (!move.leaves(state))
                continue;
            std::string out = "To " + machine.states[move.to];
            if (move.after > 0)
                out += fmt::format(", after {}", rig::span_to_text(move.after));
            if (move.has_event())
                out += fmt::format(", when \"{}\": {}", machine.events[move.when].text,
                                   rig::to_text(machine.events[move.when].condition.evaluate(
                                       running_.truths().data())));
            say(1, "{}.", out);
        }
    }

    template <class... Parts>
    void say(size_t depth, fmt::format_string<Parts...> text, Parts&&... parts) {
        out_.push_back(std::string(2 * depth, ' ') +
                       fmt::format(text, std::forward<Parts>(parts)...));
    }

    std::string value_text(const rig::Driven& driven) const {
        const std::string asked = explainer_.what_driven(index_);
        const std::string is = to_text(driven.value, drive_.kind());
        return asked == is ? is : fmt::format("{}, at this moment {}", asked, is);
    }

    void pins(const rig::Driven& driven) { say(1, "{}", drive_.part->pins(drive_, driven.value)); }

    void cause(const rig::Driven& driven) {
        const rig::RigClaim& claim = drive_.claims[driven.claim];
        switch (driven.cause) {
        case Cause::rest: return say(1, "No claim holds: it has its rest value.");
        case Cause::claim:
            if (claim.by == rig::RigClaim::By::rest)
                return say(1, "No claim holds: it shows its rest, {}.", claim.says);
            return say(1, "So {} wins{}.",
                       claim.by == rig::RigClaim::By::hand       ? "the person's hand"
                       : claim.by == rig::RigClaim::By::shutdown ? "the shutdown"
                                                                 : rig::label_of(claim),
                       driven.claim == 0 ? ", as the first" : ": those above it do not hold");
        case Cause::safe:
            return say(1, "So {} cannot be told, and it has its safe value, {}.",
                       rig::label_of(claim), drive_.says(drive_.safe));
        case Cause::minimum_on:
        case Cause::minimum_off:
        case Cause::longest_on:
        case Cause::warning:
        case Cause::interlock:
        case Cause::kick_start:
        case Cause::ramp:
        case Cause::stalled:
        case Cause::failed:
            return say(1, "{}.", capital(explainer_.why_driven(index_, INT64_MIN + 1)));
        }
    }

    /// The last claim that was asked.
    size_t last_asked(const rig::Driven& driven) const {
        return driven.cause == Cause::rest ? drive_.claims.size() - 1 : driven.claim;
    }
    void claims(const rig::Driven& driven) {
        const size_t last = last_asked(driven);
        for (size_t i = 0; i <= last; ++i)
            if (drive_.claims[i].by != rig::RigClaim::By::rest)
                say(1, "{}, for {}: {}.", capital(rig::label_of(drive_.claims[i])),
                    drive_.claims[i].says, explainer_.about_claim(index_, i));
        if (last + 1 < drive_.claims.size())
            say(1, "The claims below it are not asked.");
    }

    void find_parts(const rig::Driven& driven) {
        for (size_t i = 0; i <= last_asked(driven); ++i) {
            const rig::RigClaim& claim = drive_.claims[i];
            for (const size_t fact : claim.when.facts())
                follow(fact);
            if (claim.follows)
                add_decide(*claim.follows);
        }
    }

    /// Finds the decisions and sources behind a fact.
    void follow(size_t index) {
        const rig::Fact& fact = rig_.facts[index];
        switch (rig::from_of(fact.kind)) {
        case rig::FactFrom::source: return add_source(fact.of);
        case rig::FactFrom::edge: return follow(fact.of);
        case rig::FactFrom::truth:
        case rig::FactFrom::decision: return add_decide(fact.of);
        case rig::FactFrom::hand:
            for (const size_t one : rig_.drives[fact.of].hand->take.condition.facts())
                follow(one);
            return;
        case rig::FactFrom::machine:
            if (std::find(machines_.begin(), machines_.end(), fact.of) == machines_.end())
                machines_.push_back(fact.of);
            return;
        case rig::FactFrom::shutdown:
        case rig::FactFrom::part:
        case rig::FactFrom::nobody: return;
        }
    }
    void add_decide(size_t index) {
        if (std::find(decides_.begin(), decides_.end(), index) != decides_.end())
            return;
        decides_.push_back(index);
        const rig::Decide& decide = rig_.decides[index];
        if (decide.judges)
            return add_source(decide.of);
        for (const size_t fact : decide.when.condition.facts())
            follow(fact);
    }
    void add_source(size_t index) {
        if (std::find(sources_.begin(), sources_.end(), index) != sources_.end())
            return;
        for (const rig::Derive& derive : rig_.derives)
            if (derive.source == index)
                for (const size_t of : derive.of)
                    add_source(of);
        sources_.push_back(index);
    }

    void about(size_t index) {
        const rig::Decide& decide = rig_.decides[index];
        if (!decide.has_truth())
            return;
        say(1, "{}.", explainer_.about_fact(decide.fact));
    }

    void sample(size_t source, const rig::Raw* raws) {
        const rig::AnyReading reading = running_.readings()[source];
        const std::string reads =
            reading.ok()
                ? rig::reading_text(reading.value_or({}).thousandths(), rig_.sources[source].kind)
                : std::string(rig::to_text(reading.health()));
        const std::string& name = rig_.sources[source].name;
        const rig::Sense* sense = rig_.sense_of(source);
        if (sense == nullptr)
            return say(1, "{}: {}, made of others.", name, reads);
        const rig::Raw raw = raws[sense - rig_.senses.data()];
        if (sense->pin.empty())
            return say(1, "{}: {}, from the line.", name, reads);
        const std::string came = came_text(*sense, raw);
        if (const std::string held = explainer_.about_held(source); !held.empty())
            return say(1, "{}: {}{}: an earlier read stands in, since now there is {} on {}.", name,
                       reads, held, came, sense->pin);
        say(1, "{}: {}, from {} on {}{}.", name, reads, came, sense->pin,
            explainer_.about_trim(*sense));
    }

    static std::string capital(std::string text) {
        if (!text.empty() && text[0] >= 'a' && text[0] <= 'z')
            text[0] = static_cast<char>(text[0] - 'a' + 'A');
        return text;
    }

    const rig::RunningRig& running_;
    const rig::Rig& rig_;
    const Explainer& explainer_;
    const std::vector<std::string>& moved_; ///< when and why each machine came into its state
    Question question_;
    size_t index_;
    const rig::Drive none_{};
    const rig::Drive& drive_;
    std::vector<size_t> decides_;
    std::vector<size_t> sources_;
    std::vector<size_t> machines_;
    std::vector<std::string> out_;
};

/// What must stay the same for a part to be as it was.
std::vector<int64_t> state_of(const rig::RunningRig& running, Question question) {
    const size_t i = question.index;
    switch (question.about) {
    case Question::About::drive: {
        const rig::Driven& is = running.drivens()[i];
        return {static_cast<int64_t>(is.cause), is.claim, is.is_on, is.tested};
    }
    case Question::About::decide: {
        const rig::Decide& decide = running.rig().decides[i];
        if (decide.has_truth())
            return {static_cast<int64_t>(running.truths()[decide.fact])};
        return {running.stage(i).value_or(Stage()).number(),
                running.duty(i).value_or(Duty()).of_255()};
    }
    case Question::About::machine: return {running.state(i)};
    case Question::About::source: break;
    }
    return {static_cast<int64_t>(running.readings()[i].health())};
}

} // namespace

std::vector<std::string> explain_now(const rig::RunningRig& running, const Explainer& explainer,
                                     const std::vector<std::string>& moved, Question question,
                                     int64_t now, int64_t since, const rig::Raw* raws) {
    return Why(running, explainer, moved, question).tell(now, since, raws);
}

std::vector<std::string> explain_why(const rig::Rig& rig, TraceReader& trace, Question question) {
    rig::RunningRig running(rig);
    std::optional<Explainer> explainer(running);
    std::vector<rig::Raw> raws(rig.senses.size());
    std::vector<std::string> moved(rig.machines.size(), " since power-up");
    int64_t begin = 0, now = 0, since = 0;
    bool any = false;
    std::vector<int64_t> before;
    while (trace.next()) {
        // The last pass that is not later than what is asked for; at least the first one.
        if (any && trace.milliseconds() > question.milliseconds)
            return Why(running, *explainer, moved, question).tell(now, since, raws.data());
        if (!any)
            begin = trace.milliseconds();
        now = trace.milliseconds();
        if (trace.begins_anew()) {
            running = rig::RunningRig(rig);
            explainer.emplace(running);
            moved.assign(rig.machines.size(), " since the device began anew");
        }
        std::copy_n(trace.raws(), raws.size(), raws.begin());
        running.pass(Instant(static_cast<uint32_t>(now - begin)), raws.data());
        explainer->follow(now);
        for (size_t i = 0; i < moved.size(); ++i)
            if (running.state(i) != running.left_state(i))
                moved[i] =
                    fmt::format(" since {}: {}", rig::time_to_text(now), explainer->why_moved(i));
        const std::vector<int64_t> is = state_of(running, question);
        if (!any || is != before)
            since = now;
        before = is;
        any = true;
    }
    if (!any || question.milliseconds > now)
        return {};
    return Why(running, *explainer, moved, question).tell(now, since, raws.data());
}

} // namespace zorilla::bench
