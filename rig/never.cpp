// SPDX-License-Identifier: MIT
#include "rig/never.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <set>
#include <unordered_map>

namespace zorilla::rig {

namespace {

/// What may or may not happen in a pass: every combination of answers is tried, one after the
/// other.
class Choices {
  public:
    /// A number below `count`.
    size_t choose(size_t count) {
        if (next_ == taken_.size()) {
            taken_.push_back(0);
            counts_.push_back(count);
        }
        return taken_[next_++];
    }
    /// Whether something that takes time has happened by now; `what` is told if so.
    template <class What> bool may(What what) {
        const bool happened = choose(2) == 1;
        if (happened && notes != nullptr)
            notes->push_back(what());
        return happened;
    }
    /// Goes to the next combination of answers; false if there is none.
    bool advance() {
        while (!taken_.empty() && taken_.back() + 1 == counts_.back()) {
            taken_.pop_back();
            counts_.pop_back();
        }
        if (taken_.empty())
            return false;
        ++taken_.back();
        next_ = 0;
        return true;
    }
    void restart() { next_ = 0; }
    std::vector<size_t> taken() const { return taken_; }
    void replay(std::vector<size_t> taken) {
        taken_ = std::move(taken);
        counts_.assign(taken_.size(), SIZE_MAX);
        next_ = 0;
    }

    std::vector<std::string>* notes = nullptr;

  private:
    std::vector<size_t> taken_;
    std::vector<size_t> counts_;
    size_t next_ = 0;
};

/// What a source may say: values that its decisions tell apart, and nothing.
struct Says {
    size_t source;
    std::vector<AnyReading> readings; ///< the first is the calmest
};

/// All that a rig remembers from pass to pass, without times.
using Memory = std::string;

/// Those parts of a rig that have a say in what must never be; the others are left out.
class Needed {
  public:
    explicit Needed(const Rig& rig)
        : sources(rig.sources.size()), decides(rig.decides.size()), machines(rig.machines.size()),
          drives(rig.drives.size()), facts(rig.facts.size()), rig_(rig) {}

    void condition(const WrittenCondition& when) {
        if (when.given())
            condition(when.condition);
    }

    std::vector<bool> sources, decides, machines, drives, facts;

  private:
    static bool first(std::vector<bool>& known, size_t i) {
        const bool fresh = !known[i];
        known[i] = true;
        return fresh;
    }
    void condition(const Condition& when) {
        for (const size_t one : when.facts())
            fact(one);
    }
    void fact(size_t index) {
        if (!first(facts, index))
            return;
        const Fact& fact = rig_.facts[index];
        switch (fact.kind) {
        case Fact::Kind::switched:
        case Fact::Kind::lost: sources[fact.of] = true; break;
        case Fact::Kind::rises: this->fact(fact.of); break;
        case Fact::Kind::decision:
        case Fact::Kind::at_least:
        case Fact::Kind::locked: decide(fact.of); break;
        case Fact::Kind::in_state:
        case Fact::Kind::enters:
        case Fact::Kind::leaves:
            if (first(machines, fact.of))
                for (const WrittenCondition& event : rig_.machines[fact.of].events)
                    condition(event);
            break;
        case Fact::Kind::shut_down: condition(rig_.shutdown.when); break;
        case Fact::Kind::warns:
        case Fact::Kind::by_hand:
        case Fact::Kind::stalled:
        case Fact::Kind::is_on:
        case Fact::Kind::at_full: drive(fact.of); break;
        }
    }
    void decide(size_t index) {
        if (!first(decides, index))
            return;
        const Decide& decide = rig_.decides[index];
        if (decide.judges())
            sources[decide.of] = true;
        condition(decide.when);
        condition(decide.reset);
    }
    void drive(size_t index) {
        if (!first(drives, index))
            return;
        const Drive& drive = rig_.drives[index];
        for (const RigClaim& claim : drive.claims) {
            condition(claim.when);
            if (claim.follows)
                decide(*claim.follows);
        }
        if (drive.hand) {
            condition(drive.hand->take);
            condition(drive.hand->back);
        }
        if (drive.never_with)
            this->drive(*drive.never_with);
        condition(drive.reset);
    }

    const Rig& rig_;
};

/// How much an output is, as far as it matters here.
enum class Much : char { none, some, full };

class Explorer {
  public:
    explicit Explorer(const Rig& rig) : rig_(rig), needed_(rig) {
        for (const WrittenCondition& never : rig.nevers)
            needed_.condition(never);
        for (size_t i = 0; i < rig.sources.size(); ++i)
            add_source(i);
        readings_.resize(rig.sources.size());
        facts_.assign(rig.facts.size(), Truth::unknown);
    }

    /// How many combinations of what the sensors say there are.
    uint64_t inputs() const {
        uint64_t out = 1;
        for (const Says& says : says_)
            out *= says.readings.size();
        return out;
    }
    Memory start() const {
        Memory out(memory_size(), '\0');
        for (size_t i = 0; i < rig_.machines.size(); ++i)
            out[machine_at(i)] = out[machine_at(i) + 1] = static_cast<char>(rig_.machines[i].start);
        return out;
    }

    /// One pass with what the sensors say, as number `input`.
    Memory pass(const Memory& before, uint64_t input, Choices& choices) {
        Memory after = before;
        uint64_t rest = input;
        for (const Says& says : says_) {
            readings_[says.source] = says.readings[rest % says.readings.size()];
            rest /= says.readings.size();
        }
        look_at_inputs(after);
        for (size_t i = 0; i < rig_.decides.size(); ++i)
            if (needed_.decides[i])
                decide(i, after, choices);
        for (size_t i = 0; i < rig_.machines.size(); ++i)
            if (needed_.machines[i])
                machine(i, after, choices);
        for (size_t i = 0; i < rig_.drives.size(); ++i)
            if (needed_.drives[i] && rig_.drives[i].hand)
                hand(i, after, choices);
        shut_down(after, choices);
        for (size_t i = 0; i < rig_.drives.size(); ++i)
            if (needed_.drives[i])
                drive(i, after, choices);
        return after;
    }
    /// Whether a condition may hold after the last pass: an unknown is no promise.
    bool may_hold(const Condition& condition) const {
        return condition.evaluate(facts_.data()) != Truth::no;
    }

    /// What the sensors say, as far as it differs from the pass before.
    std::string describe(uint64_t input, uint64_t before, bool first) const {
        std::string out;
        for (const Says& says : says_) {
            const size_t now = input % says.readings.size(), then = before % says.readings.size();
            input /= says.readings.size();
            before /= says.readings.size();
            if (first ? now == 0 : now == then)
                continue;
            const AnyReading reading = says.readings[now];
            const Source& source = rig_.sources[says.source];
            out += fmt::format(
                "{}{} {}", out.empty() ? "" : ", ", source.name,
                reading.ok() ? "is " + to_text(reading.value_or({}).thousandths(), source.kind)
                             : std::string("is not healthy"));
        }
        return out;
    }

  private:
    // Memory: two bytes for each decision, machine and output; one for each fact that may rise; two
    // for each output that may be taken over, whether it is and whether the button is held; and how
    // far a shutdown has come.
    size_t memory_size() const { return shutdown_at() + 1; }
    size_t hand_at(size_t i) const { return rise_at(rig_.facts.size()) + 2 * i; }
    size_t shutdown_at() const { return hand_at(rig_.drives.size()); }
    size_t rise_at(size_t fact) const {
        return 2 * (rig_.decides.size() + rig_.machines.size() + rig_.drives.size()) +
               static_cast<size_t>(std::count_if(
                   rig_.facts.begin(), rig_.facts.begin() + static_cast<ptrdiff_t>(fact),
                   [](const Fact& f) { return f.kind == Fact::Kind::rises; }));
    }
    /// What rises with a fact that has just been set.
    void set(size_t fact, Truth truth, Memory& memory) {
        facts_[fact] = truth;
        for (size_t i = 0; i < rig_.facts.size(); ++i) {
            if (rig_.facts[i].kind != Fact::Kind::rises || rig_.facts[i].of != fact)
                continue;
            char& was = memory[rise_at(i)];
            facts_[i] = truth == Truth::unknown ? truth : truth_of(truth == Truth::yes && was == 0);
            if (truth != Truth::unknown)
                was = truth == Truth::yes ? 1 : 0;
        }
    }
    size_t machine_at(size_t i) const { return 2 * (rig_.decides.size() + i); }
    size_t drive_at(size_t i) const { return 2 * (rig_.decides.size() + rig_.machines.size() + i); }

    /// A value for each way in which the decisions about a source may see it.
    void add_source(size_t index) {
        const bool is_truth = rig_.sources[index].kind == Kind::truth;
        bool looked_at = false;
        std::set<int32_t> values;
        for (size_t i = 0; i < rig_.decides.size(); ++i)
            if (const Decide& decide = rig_.decides[i];
                needed_.decides[i] && decide.judges() && decide.of == index) {
                looked_at = true;
                for (const DecidePoint& point : points_of(decide))
                    for (const AnyQuantity q : {point.at, point.release})
                        for (const int32_t by : {-1, 0, 1})
                            values.insert(q.thousandths() + by);
            }
        if (!looked_at && !needed_.sources[index])
            return;
        if (is_truth)
            values = {0, 1000};
        else if (values.empty())
            values = {0};
        Says says{index, {}};
        std::set<std::vector<bool>> seen;
        std::vector<std::pair<size_t, AnyReading>> ordered; // by how many decisions it moves
        for (const int32_t value : values) {
            const std::vector<bool> look =
                is_truth ? std::vector<bool>{value != 0} : look_of(index, value);
            if (!seen.insert(look).second)
                continue;
            const auto moved = static_cast<size_t>(std::count(look.begin(), look.end(), true));
            ordered.emplace_back(moved,
                                 AnyReading::of_bounded(AnyQuantity::from_thousandths(value)));
        }
        // The values were in order already; the calmest come first.
        std::sort(ordered.begin(), ordered.end(), [](const auto& a, const auto& b) {
            const auto value = [](const auto& x) { return x.second.value_or({}).thousandths(); };
            return a.first != b.first ? a.first < b.first : value(a) < value(b);
        });
        for (const auto& [moved, reading] : ordered)
            says.readings.push_back(reading);
        says.readings.emplace_back();
        says_.push_back(std::move(says));
    }

    /// How each point of each decision sees a value: reached, and not yet released.
    std::vector<bool> look_of(size_t source, int32_t value) const {
        const auto q = AnyQuantity::from_thousandths(value);
        std::vector<bool> out;
        const auto look = [&out, q](const auto& spec) {
            out.push_back(spec.reached_by(q));
            out.push_back(!spec.released_by(q));
        };
        for (size_t i = 0; i < rig_.decides.size(); ++i) {
            const Decide& decide = rig_.decides[i];
            if (!needed_.decides[i] || !decide.judges() || decide.of != source)
                continue;
            if (decide.part == Decide::Part::threshold)
                look(decide.spec);
            else if (decide.part == Decide::Part::window)
                look(decide.window);
            for (const auto& stage : decide.stages)
                look(stage);
        }
        return out;
    }

    void look_at_inputs(Memory& before) {
        for (size_t i = 0; i < rig_.facts.size(); ++i) {
            const Fact& fact = rig_.facts[i];
            if (!needed_.facts[i])
                continue;
            switch (fact.kind) {
            case Fact::Kind::switched:
                set(i,
                    readings_[fact.of].ok()
                        ? truth_of(readings_[fact.of].value_or({}).thousandths() != 0)
                        : Truth::unknown,
                    before);
                break;
            case Fact::Kind::lost: facts_[i] = truth_of(!readings_[fact.of].ok()); break;
            case Fact::Kind::in_state:
            case Fact::Kind::enters:
            case Fact::Kind::leaves: facts_[i] = fact_of_machine(before, fact); break;
            case Fact::Kind::warns: facts_[i] = truth_of(before[drive_at(fact.of) + 1] != 0); break;
            case Fact::Kind::is_on: facts_[i] = truth_of(before[drive_at(fact.of)] != 0); break;
            case Fact::Kind::at_full:
                facts_[i] = truth_of(much(before[drive_at(fact.of)]) == Much::full);
                break;
            case Fact::Kind::stalled:
                facts_[i] = truth_of(before[drive_at(fact.of) + 1] != 0);
                break;
            case Fact::Kind::by_hand: facts_[i] = truth_of(before[hand_at(fact.of)] != 0); break;
            case Fact::Kind::shut_down:
                facts_[i] = truth_of(before[shutdown_at()] > static_cast<char>(fact.number));
                break;
            case Fact::Kind::decision:
            case Fact::Kind::rises:
            case Fact::Kind::at_least:
            case Fact::Kind::locked: break;
            }
        }
    }
    Truth fact_of_machine(const Memory& memory, const Fact& fact) const {
        const auto now = static_cast<uint8_t>(memory[machine_at(fact.of)]);
        const auto left = static_cast<uint8_t>(memory[machine_at(fact.of) + 1]);
        switch (fact.kind) {
        case Fact::Kind::enters: return truth_of(now == fact.number && left != now);
        case Fact::Kind::leaves: return truth_of(left == fact.number && left != now);
        default: return truth_of(now == fact.number);
        }
    }
    Truth evaluate(const WrittenCondition& condition) const {
        return condition.given() ? condition.condition.evaluate(facts_.data()) : Truth::no;
    }
    /// Facts of one decision but its own truth.
    template <class Of> void update(Fact::Kind kind, size_t of, Of truth) {
        for (size_t i = 0; i < rig_.facts.size(); ++i)
            if (rig_.facts[i].kind == kind && rig_.facts[i].of == of)
                facts_[i] = truth(rig_.facts[i]);
    }

    void decide(size_t index, Memory& memory, Choices& choices) {
        const Decide& decide = rig_.decides[index];
        char& holds = memory[2 * index];
        char& more = memory[2 * index + 1];
        const AnyReading reading = readings_[decide.of];
        const AnyQuantity value = reading.value_or({});
        Truth truth = Truth::unknown;
        switch (decide.part) {
        case Decide::Part::threshold:
            if (reading.ok())
                truth = settle_bit(holds, decide.spec, value);
            break;
        case Decide::Part::window:
            if (reading.ok())
                truth = settle_bit(holds, decide.window, value);
            break;
        case Decide::Part::ladder: return ladder(index, holds, reading);
        case Decide::Part::curve: return;
        case Decide::Part::condition: truth = evaluate(decide.when); break;
        case Decide::Part::attempts: return attempts(index, memory, choices);
        }
        // The lowest bit: what lasting has settled on; the next: enough were counted; the third:
        // whether the truth that is counted was yes.
        if (decide.lasting && truth != Truth::unknown) {
            const bool yes = truth == Truth::yes, was = (more & 1) != 0;
            const Duration wait = yes ? decide.lasting->yes_for : decide.lasting->no_for;
            if (yes != was && (wait == Duration{} || choices.may([&] {
                    return fmt::format("{} has been {} for {}", decide.name, to_text(truth),
                                       span_to_text(wait.thousandths()));
                })))
                more = static_cast<char>(more ^ 1);
            truth = truth_of((more & 1) != 0);
        }
        if (decide.times > 0) {
            const bool yes = truth == Truth::yes;
            if (evaluate(decide.reset) == Truth::yes)
                more = static_cast<char>(more & ~2);
            else if (yes && (more & 4) == 0 && (more & 2) == 0 &&
                     (decide.times == 1 || choices.may([&] {
                         return fmt::format("{} has come {} times", decide.name, decide.times);
                     })))
                more = static_cast<char>(more | 2);
            if (truth != Truth::unknown)
                more = static_cast<char>(yes ? more | 4 : more & ~4);
            truth = truth_of((more & 2) != 0);
        }
        set(decide.fact, truth, memory);
    }
    template <class Spec>
    static Truth settle_bit(char& holds, const Spec& spec, AnyQuantity value) {
        holds = (holds != 0 ? !spec.released_by(value) : spec.reached_by(value)) ? 1 : 0;
        return truth_of(holds != 0);
    }
    void ladder(size_t index, char& stage, AnyReading reading) {
        const Decide& decide = rig_.decides[index];
        Reading<Stage> result = Reading<Stage>::without_value(reading.health());
        if (reading.ok()) {
            // From the stage that is remembered: as the core does it.
            const AnyQuantity value = reading.value_or({});
            char begun = 0, held = 0;
            for (const auto& one : decide.stages) {
                begun = static_cast<char>(begun + (one.reached_by(value) ? 1 : 0));
                held = static_cast<char>(held + (one.released_by(value) ? 0 : 1));
            }
            stage = std::min(std::max(stage, begun), held);
            result = Reading<Stage>::of_bounded(Stage(static_cast<uint8_t>(stage)));
        }
        update(Fact::Kind::at_least, index,
               [result](const Fact& fact) { return at_least(result, fact.number); });
    }
    void attempts(size_t index, Memory& memory, Choices& choices) {
        char& doing_now = memory[2 * index];
        const Decide& decide = rig_.decides[index];
        auto doing = static_cast<Attempting>(doing_now);
        const Truth cause = evaluate(decide.when);
        if (evaluate(decide.reset) == Truth::yes)
            doing = Attempting::idle;
        const auto over = [&](std::string_view key, Duration time) {
            return choices.may([&] {
                return fmt::format("{} of {} ({}) is over", key, decide.name,
                                   span_to_text(time.thousandths()));
            });
        };
        switch (doing) {
        case Attempting::idle:
            if (cause == Truth::yes)
                doing = Attempting::acting;
            break;
        case Attempting::acting:
            if (cause == Truth::unknown || over("act_for", decide.attempts.act()))
                doing = Attempting::resting;
            break;
        case Attempting::resting:
            if (cause == Truth::unknown || !over("rest_for", decide.attempts.rest()))
                break;
            if (cause == Truth::no)
                doing = Attempting::idle;
            else if ((decide.attempts.tries() > 0 ||
                      decide.attempts.longest_total() > Duration{}) &&
                     choices.may([&] {
                         return fmt::format("{} has tried for the last time", decide.name);
                     }))
                doing = Attempting::locked;
            else
                doing = Attempting::acting;
            break;
        case Attempting::locked: break;
        }
        doing_now = static_cast<char>(doing);
        set(decide.fact, acts(doing, cause == Truth::unknown), memory);
        update(Fact::Kind::locked, index,
               [doing](const Fact&) { return truth_of(doing == Attempting::locked); });
    }

    void machine(size_t index, Memory& memory, Choices& choices) {
        const RigMachine& machine = rig_.machines[index];
        const auto state = static_cast<uint8_t>(memory[machine_at(index)]);
        memory[machine_at(index) + 1] = static_cast<char>(state);
        for (const MachineMove& move : machine.moves) {
            if (!move.leaves(state) ||
                (move.has_event() && evaluate(machine.events[move.when]) != Truth::yes))
                continue;
            if (move.after > 0 && !choices.may([&] {
                    return fmt::format("{} has been {} for {}", machine.name, machine.states[state],
                                       span_to_text(move.after));
                }))
                continue;
            memory[machine_at(index)] = static_cast<char>(move.to);
            break;
        }
        for (const Fact::Kind kind : {Fact::Kind::in_state, Fact::Kind::enters, Fact::Kind::leaves})
            update(kind, index,
                   [this, &memory](const Fact& fact) { return fact_of_machine(memory, fact); });
    }

    void hand(size_t index, Memory& memory, Choices& choices) {
        const Drive::TakeOver& hand = *rig_.drives[index].hand;
        char& taken = memory[hand_at(index)];
        char& held = memory[hand_at(index) + 1];
        const Truth take = evaluate(hand.take);
        const bool pressed = take == Truth::yes && held == 0;
        if (take != Truth::unknown)
            held = take == Truth::yes ? 1 : 0;
        const bool over = taken != 0 && choices.may([&] {
            return fmt::format("longest of by_hand of {} ({}) is over", rig_.drives[index].name,
                               span_to_text(hand.longest.thousandths()));
        });
        if (hand.back.given())
            taken = evaluate(hand.back) == Truth::yes || over ? 0 : pressed ? 1 : taken;
        else
            taken = taken != 0 ? !pressed && !over : pressed;
        facts_[hand.fact] = truth_of(taken != 0);
    }

    void shut_down(Memory& memory, Choices& choices) {
        const Shutdown& shutdown = rig_.shutdown;
        if (std::none_of(shutdown.facts.begin(), shutdown.facts.end(),
                         [this](size_t fact) { return needed_.facts[fact]; }))
            return;
        char& reached = memory[shutdown_at()];
        const Truth when = evaluate(shutdown.when);
        if (when == Truth::no)
            reached = 0;
        else if (reached == 0 && when == Truth::yes)
            reached = 1;
        while (reached > 0 && static_cast<size_t>(reached) < shutdown.order.size() &&
               (shutdown.gap == Duration{} || choices.may([&] {
                   return fmt::format("{} after the one before it is over, in the shutdown",
                                      span_to_text(shutdown.gap.thousandths()));
               })))
            ++reached;
        for (size_t i = 0; i < shutdown.facts.size(); ++i)
            facts_[shutdown.facts[i]] = truth_of(i < static_cast<size_t>(reached));
    }

    static Much much(char memory) { return static_cast<Much>(memory); }
    static Much much(AnyValue value, ValueKind kind) {
        return !value.any() ? Much::none : value.is_full(kind) ? Much::full : Much::some;
    }
    static void add(std::vector<Much>& list, Much one) {
        if (std::find(list.begin(), list.end(), one) == list.end())
            list.push_back(one);
    }
    /// All that a claim may ask for.
    std::vector<Much> asks(const Drive& drive, const RigClaim& claim) const {
        std::vector<Much> out;
        if (claim.follows) {
            const Decide& decide = rig_.decides[*claim.follows];
            if (decide.part == Decide::Part::ladder)
                return {Much::none, Much::full};
            for (const auto& point : decide.points)
                add(out, much(point.duty, ValueKind::duty));
            add(out, Much::some); // between them
        } else if (claim.pattern.empty()) {
            out = {much(claim.then, drive.kind())};
        }
        for (const auto& step : claim.pattern)
            add(out, much(step.value, drive.kind()));
        return out;
    }

    void drive(size_t index, Memory& memory, Choices& choices) {
        const Drive& drive = rig_.drives[index];
        const ValueKind kind = drive.kind();
        std::vector<Much> asked = {much(drive.rest, kind)};
        Cause cause = Cause::rest;
        for (const RigClaim& claim : drive.claims) {
            Truth when = claim.always() ? Truth::yes : claim.when.evaluate(facts_.data());
            if (claim.follows && !readings_[rig_.decides[*claim.follows].of].ok())
                when = when && Truth::unknown;
            if (when == Truth::no)
                continue;
            cause = when == Truth::yes ? Cause::claim : Cause::safe;
            asked =
                when == Truth::yes ? asks(drive, claim) : std::vector<Much>{much(drive.safe, kind)};
            break;
        }
        char& now = memory[drive_at(index)];
        char& more = memory[drive_at(index) + 1]; // whether it warns, or has stalled
        if (drive.part == Drive::Part::relay) {
            const bool wanted = asked[choices.choose(asked.size())] != Much::none;
            const bool next = relay(drive, memory, wanted, cause, choices);
            now = static_cast<char>(next ? Much::full : Much::none);
        } else {
            more = 0;
            const bool wanted = asked.size() > 1 || asked.front() != Much::none;
            if (drive.turns && wanted && choices.may([&] { return drive.name + " stands still"; }))
                more = 1;
            if (drive.is_motor() && wanted && drive.motor.kick_time() > Duration{})
                add(asked, much(drive.motor.kick(), kind));
            if ((wanted && drive.motor.ramp() > Duration{}) || drive.fade > Duration{}) {
                add(asked, much(now)); // still on its way
                add(asked, Much::some);
            }
            now = static_cast<char>(more != 0 ? Much::none : asked[choices.choose(asked.size())]);
        }
        update(Fact::Kind::warns, index, [&more](const Fact&) { return truth_of(more != 0); });
        update(Fact::Kind::stalled, index, [&more](const Fact&) { return truth_of(more != 0); });
        update(Fact::Kind::is_on, index,
               [now](const Fact&) { return truth_of(much(now) != Much::none); });
        update(Fact::Kind::at_full, index,
               [now](const Fact&) { return truth_of(much(now) == Much::full); });
    }

    /// Whether a relay is on after its guards.
    bool relay(const Drive& drive, Memory& memory, bool next, Cause cause, Choices& choices) {
        const auto index = static_cast<size_t>(&drive - rig_.drives.data());
        const bool is_on = memory[drive_at(index)] != 0;
        char& warns = memory[drive_at(index) + 1];
        const auto over = [&](std::string_view guard, Duration time) {
            return time == Duration{} || choices.may([&] {
                return fmt::format("{} of {} ({}) is over", guard, drive.name,
                                   span_to_text(time.thousandths()));
            });
        };
        const bool blocked = drive.never_with && memory[drive_at(*drive.never_with)] != 0;
        if (is_on) {
            if (next)
                next = !drive.spec.has_longest_on() || !over("longest_on", drive.spec.longest_on());
            else if (cause != Cause::safe)
                next = !over("min_on", drive.spec.min_on());
        } else if (next) {
            next = !blocked && over("min_off", drive.spec.min_off());
        }
        if (!is_on && next && drive.spec.warn() > Duration{}) {
            next = warns != 0 && over("warn", drive.spec.warn());
            warns = next ? 0 : 1;
        } else {
            warns = 0;
        }
        return next;
    }

    const Rig& rig_;
    Needed needed_;
    std::vector<Says> says_;
    std::vector<AnyReading> readings_;
    std::vector<Truth> facts_;
};

/// Where a state was first reached from.
struct Reached {
    Memory memory;
    size_t from;
    uint64_t input;
    std::vector<size_t> choices;
};

/// The way to a pass that breaks a rule, in sentences.
std::vector<std::string> steps_to(const Rig& rig, const std::vector<Reached>& reached,
                                  Reached last) {
    std::vector<Reached> way = {std::move(last)};
    while (way.back().from != 0)
        way.push_back(reached[way.back().from]);
    std::reverse(way.begin(), way.end());
    Explorer explorer(rig);
    Memory memory = explorer.start();
    std::vector<std::string> out;
    uint64_t before = 0;
    for (size_t i = 0; i < way.size(); ++i) {
        std::vector<std::string> notes;
        Choices choices;
        choices.notes = &notes;
        choices.replay(way[i].choices);
        const Memory next = explorer.pass(memory, way[i].input, choices);
        std::string text = explorer.describe(way[i].input, before, i == 0);
        for (const std::string& note : notes)
            text += (text.empty() ? "" : "; ") + note;
        if (text.empty())
            text = i == 0 ? "power-up" : "another pass";
        std::string then;
        const size_t decides = rig.decides.size(), machines = rig.machines.size();
        for (size_t m = 0; m < machines; ++m)
            if (next[2 * (decides + m)] != memory[2 * (decides + m)])
                then += fmt::format(
                    ", {} goes to {}", rig.machines[m].name,
                    rig.machines[m].states[static_cast<uint8_t>(next[2 * (decides + m)])]);
        for (size_t d = 0; d < rig.drives.size(); ++d) {
            const size_t at = 2 * (decides + machines + d);
            if (next[at] != memory[at])
                then +=
                    fmt::format(", {} goes {}", rig.drives[d].name,
                                static_cast<Much>(next[at]) == Much::none   ? "off"
                                : rig.drives[d].kind() != ValueKind::duty   ? "on"
                                : static_cast<Much>(next[at]) == Much::full ? "to full"
                                                                            : "to less than full");
        }
        out.push_back(text + (then.empty() ? "" : ": " + then.substr(2)));
        memory = next;
        before = way[i].input;
    }
    return out;
}

} // namespace

NeverReport explore_nevers(const Rig& rig, uint64_t most) {
    NeverReport out;
    out.results.resize(rig.nevers.size());
    Explorer explorer(rig);
    std::vector<Reached> reached = {{explorer.start(), 0, 0, {}}};
    std::unordered_map<Memory, size_t> known = {{reached[0].memory, 0}};
    size_t open = rig.nevers.size();
    const uint64_t inputs = explorer.inputs();
    bool finished = true;
    for (size_t at = 0; at < reached.size() && open > 0 && finished; ++at) {
        const Memory memory = reached[at].memory;
        for (uint64_t input = 0; input < inputs && open > 0 && finished; ++input) {
            Choices choices;
            do {
                choices.restart();
                if (++out.combinations > most) {
                    finished = false;
                    break;
                }
                const Memory next = explorer.pass(memory, input, choices);
                for (size_t i = 0; i < rig.nevers.size(); ++i) {
                    NeverResult& result = out.results[i];
                    if (result.verdict == NeverResult::Verdict::broken ||
                        !explorer.may_hold(rig.nevers[i].condition))
                        continue;
                    result.verdict = NeverResult::Verdict::broken;
                    Explorer again(rig);
                    result.steps = steps_to(rig, reached, {next, at, input, choices.taken()});
                    --open;
                }
                if (known.emplace(next, reached.size()).second)
                    reached.push_back({next, at, input, choices.taken()});
            } while (choices.advance());
        }
    }
    out.states = reached.size();
    if (!finished)
        for (NeverResult& result : out.results)
            if (result.verdict == NeverResult::Verdict::proved)
                result.verdict = NeverResult::Verdict::too_large;
    return out;
}

} // namespace zorilla::rig
