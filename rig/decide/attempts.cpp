// SPDX-License-Identifier: MIT
// Actions that are tried again, and given up.
#include "rig/decide/part.hpp"

#include <fmt/format.h>

namespace zorilla::rig {

namespace {

class Attempts : public DecidePart {
  public:
    explicit Attempts(const AttemptsSpec& spec) : spec_(spec) {}

    std::unique_ptr<Deciding> start() const override {
        return decides([spec = spec_, state = AttemptsState()](const DecideInput& in,
                                                               DecideOutput& out) mutable {
            const Attempting doing = state.pass(spec, in.now, in.when, in.reset);
            out.truth = acts(doing, in.when == Truth::unknown);
            out.locked = doing == Attempting::locked;
        });
    }
    std::vector<DecidePoint> points(const std::string&) const override { return {}; }
    std::string about(const DecideWords& words) const override {
        std::string out = "when " + words.decide.when.text;
        const auto add = [&out](std::string_view name, Duration time) {
            if (time > Duration{})
                out += fmt::format(", {} {}", name, span_to_text(time.thousandths()));
        };
        add("act_for", spec_.act());
        add("rest_for", spec_.rest());
        if (spec_.tries() > 0)
            out += fmt::format(", tries {}", spec_.tries());
        add("longest_total", spec_.longest_total());
        return out;
    }
    std::string because(const DecideReasons& why) const override {
        return fmt::format("{}: {}", why.truth == Truth::yes ? "acting" : "not acting", why.facts);
    }
    void turns(std::set<int64_t>&) const override {}
    void look(AnyQuantity, std::vector<int>&) const override {}
    prove::DecideWires prove(const Decide& decide, prove::Pass& pass) const override;
    std::vector<Duration> times() const override { return {spec_.act(), spec_.rest()}; }

  private:
    AttemptsSpec spec_;
};

prove::DecideWires Attempts::prove(const Decide& decide, prove::Pass& pass) const {
    using prove::Wire, prove::opposite;
    const prove::Three cause = pass.evaluate(decide.when);
    const Wire unknown = pass.unknown(cause);
    const Wire reset = pass.edge(pass.evaluate(decide.reset)).yes;
    const Wire acting = pass.memory(), resting = pass.memory(), locked = pass.memory();
    const Wire does_act = pass.both(acting, opposite(reset));
    const Wire rests = pass.both(resting, opposite(reset));
    const Wire is_locked = pass.both(locked, opposite(reset));
    const Wire idles = opposite(pass.either(does_act, pass.either(rests, is_locked)));
    const size_t timer = pass.clock();
    const auto served = [&](Wire asks, Duration time, std::string_view word) {
        // It was started in an earlier pass, whenever it is asked.
        return pass.over(timer, asks, prove::never, time,
                         fmt::format("{} of {}", word, decide.name));
    };
    const Wire ends =
        pass.both(does_act, pass.either(unknown, served(does_act, spec_.act(), "act_for")));
    const Wire looks =
        pass.both(pass.both(rests, served(rests, spec_.rest(), "rest_for")), opposite(unknown));
    const Wire again = pass.both(looks, cause.yes), calm = pass.both(looks, opposite(cause.yes));
    Wire gives_up = prove::never;
    if (spec_.tries() > 0)
        gives_up = pass.advance(pass.count_to(spec_.tries()), pass.either(reset, calm), ends);
    if (spec_.longest_total() > Duration{}) {
        // How long it has acted in all is left open; once, there is room for it.
        const prove::Pass::Count once = pass.count_to(1);
        const Wire any = pass.advance(once, pass.either(reset, calm), ends);
        gives_up = pass.either(gives_up, pass.both(any, pass.input()));
    }
    const Wire locks = pass.both(again, gives_up);
    const Wire begins = pass.either(pass.both(idles, cause.yes), pass.both(again, opposite(locks)));
    pass.starts(timer, pass.either(begins, ends));
    const Wire next_acting = pass.either(begins, pass.both(does_act, opposite(ends)));
    const Wire next_locked = pass.either(is_locked, locks);
    pass.set_next(acting, next_acting);
    pass.set_next(resting, pass.either(ends, pass.both(rests, opposite(looks))));
    pass.set_next(locked, next_locked);
    const Wire known_cause = pass.both(opposite(next_locked), opposite(unknown));
    const Wire yes = pass.both(known_cause, next_acting);
    return {
        {yes, pass.either(yes, pass.both(unknown, opposite(next_locked)))}, {}, {}, next_locked};
}

/// The sources behind a fact, and behind those that are made of others.
class Behind {
  public:
    explicit Behind(const Rig& rig) : rig_(rig), seen_(rig.sources.size()) {}
    void fact(size_t index) {
        const Fact& fact = rig_.facts[index];
        if (fact.kind == Fact::Kind::switched || fact.kind == Fact::Kind::lost)
            return source(fact.of);
        if (fact.kind == Fact::Kind::rises || fact.kind == Fact::Kind::falls)
            return this->fact(fact.of);
        if (fact.kind != Fact::Kind::decision && fact.kind != Fact::Kind::at_least)
            return;
        const Decide& decide = rig_.decides[fact.of];
        if (decide.judges)
            return source(decide.of);
        for (const size_t one : decide.when.condition.facts())
            this->fact(one);
    }
    bool has(const Sense& sense) const {
        for (size_t i = 0; i < sense.sources; ++i)
            if (seen_[sense.source + i])
                return true;
        return false;
    }

  private:
    void source(size_t index) {
        if (seen_[index])
            return;
        seen_[index] = true;
        for (const Derive& derive : rig_.derives)
            if (derive.source == index)
                for (const size_t of : derive.of)
                    source(of);
    }
    const Rig& rig_;
    std::vector<bool> seen_;
};

/// Complains about an action that would look again at what was read before it acted.
void looks_at_something_new(DecideReader& in, const Decide& decide, Duration rest) {
    const Rig& rig = in.scope.rig;
    Behind behind(rig);
    for (const size_t fact : decide.when.condition.facts())
        behind.fact(fact);
    const Node* node = in.keys.find("rest_for");
    for (const Sense& sense : rig.senses) {
        if (!behind.has(sense) || sense.every <= rest || node == nullptr)
            continue;
        const std::string every = span_to_text(sense.every.thousandths());
        const std::string least = span_to_text(rest.thousandths());
        in.scope.findings.add(*node,
                              fmt::format("{} looks again {} after an action, but {} is read every "
                                          "{} only: it would act on what it knew before. Make "
                                          "\"rest_for\" at least \"{}\", or \"every\" of "
                                          "[sense.{}] at most \"{}\"",
                                          in.keys.label(), least, sense.name, every, every,
                                          sense.name, least));
    }
}

void read_attempts(DecideReader& in, Kind, Decide& out) {
    TableReader& keys = in.keys;
    const auto act = keys.quantity("act_for", Kind::duration, "2 s");
    const auto rest = keys.required_quantity("rest_for", Kind::duration, "5 s",
                                             "how long to rest before looking again");
    AttemptsSpec spec = act_for(Duration::from_thousandths(act.value_or(1000)))
                            .rest_for(Duration::from_thousandths(rest.value_or(1000)))
                            .tries(static_cast<uint8_t>(keys.whole("tries", 1, 255).value_or(0)));
    if (const auto total = keys.quantity("longest_total", Kind::duration, "5 min"))
        spec = spec.longest_total(Duration::from_thousandths(*total));
    keys.expect(spec.times_can_be_told(), "act_for",
                "between 1 ms and 24 d, and so must \"rest_for\" and \"longest_total\"");
    keys.expect(spec.total_makes_sense(), "longest_total",
                "at \"act_for\" or more, so that there is room for one action");
    out.reset = in.scope.condition(keys, "reset");
    looks_at_something_new(in, out, spec.rest());
    out.can_lock = true;
    out.part = std::make_shared<Attempts>(spec);
}

} // namespace

DecideKind attempts_room() {
    return {"attempts",
            4,
            false,
            Gives::truth,
            {"act_for"},
            {
                {"when", "\"jammed\"", ""},
                {"act_for", "\"2 s\"", ""},
                {"rest_for", "\"5 s\"", ".rest_for({})"},
                {"tries", "3", ".tries({})"},
                {"longest_total", "\"5 min\"", ".longest_total({})"},
                {"reset", "\"reset_button\"", ""},
            },
            read_attempts,
            {{"", "act_for({act_for})"}},
            "Attempts"};
}

} // namespace zorilla::rig
