// SPDX-License-Identifier: MIT
/// \file
/// Building the circuit of one pass, part by part, in the order in which a running rig goes through
/// them. Only for rig/prove/ itself.
#pragma once

#include "rig/prove/model.hpp"

namespace zorilla::rig::prove {

/// What a curve gives at a value, without its dead band.
Duty duty_at(const Decide& curve, AnyQuantity value);

/// How much an output is, as far as a proof tells it.
struct Much {
    Wire any = never;
    Wire full = never;
};

class Builder {
  public:
    Builder(const Rig& rig, bool with_self_test);
    Model build();

  private:
    // What everything is made of.
    Wire both(Wire a, Wire b) { return c_.both(a, b); }
    Wire either(Wire a, Wire b) { return c_.either(a, b); }
    Wire choose(Wire which, Wire yes, Wire no) { return c_.choose(which, yes, no); }
    Much choose(Wire which, Much yes, Much no) {
        return {choose(which, yes.any, no.any), choose(which, yes.full, no.full)};
    }
    static Three known(Wire yes) { return {yes, yes}; }
    Three evaluate(const Condition& condition) { return out_.evaluate(condition); }
    Three evaluate(const WrittenCondition& when) {
        return when.given() ? evaluate(when.condition) : Three{};
    }
    /// Yes in the pass in which a truth becomes yes, as `Edge` has it.
    Three edge(Three truth);
    /// A wait of a clock that may be over: yes, no, or open.
    /// \param asks  when it matters  \param starts  whether the clock is started in this pass
    Wire over(size_t clock, Wire asks, Wire starts, Duration time, const std::string& text);
    size_t clock() {
        out_.clocks.push_back(never);
        return out_.clocks.size() - 1;
    }
    /// A number that is counted up to `most`, cleared, and asked for; above `longest_count` nobody
    /// knows how often it was until it is full.
    struct Count {
        std::vector<Wire> reached; ///< memories: at least one, two, ...
        Wire open = never;         ///< the input that leaves it open
    };
    static constexpr size_t longest_count = 16;
    Count count_to(size_t most);
    /// Cleared, else one more, else as it was. \return  whether it is full after that
    Wire advance(const Count& count, Wire clear, Wire more);

    void sources();
    void source(size_t index);
    std::vector<int> look_of(size_t source, int32_t value) const;
    void given_facts();
    void edges_of(size_t fact);
    void decide(size_t index);
    Three judge(size_t index);
    void ladder(size_t index);
    void curve(size_t index);
    Three last(size_t index, Three truth);
    Three count(size_t index, Three truth);
    void attempts(size_t index);
    void machine(size_t index);
    void hand(size_t index);
    void shutdown();
    void self_test();
    void drive(size_t index);
    Much value_of(const Drive& drive, AnyValue value) const;
    struct Wish {
        Much much;
        Wire safe = never; ///< asked for since a claim is unknown
    };
    Wish wish(size_t index);
    Much asked(size_t index, const RigClaim& claim, Three when);
    Much pattern(size_t index, const RigClaim& claim, Three when);
    Wire relay(size_t index, const Wish& wish);
    Much motor(size_t index, Much wish);
    Much faded(size_t index, Much before, Much wish, Duration swing, Wire begins);
    /// Sets all facts of a kind about a part, and their memories.
    template <class Of> void set_facts(Fact::Kind kind, size_t of, Of truth) {
        for (size_t i = 0; i < rig_.facts.size(); ++i)
            if (rig_.facts[i].kind == kind && rig_.facts[i].of == of)
                set_fact(i, truth(rig_.facts[i]));
    }
    void set_fact(size_t index, Wire yes);
    /// Of a source's readings, those that fit.
    template <class Fits> Wire those(size_t source, Fits fits) {
        Wire out = never;
        for (size_t i = 0; i < saying(source).readings.size(); ++i)
            if (fits(AnyQuantity::from_thousandths(saying(source).readings[i])))
                out = either(out, saying(source).says[i]);
        return out;
    }
    const Saying& saying(size_t source) const { return out_.sayings[source]; }

    const Rig& rig_;
    bool with_self_test_;
    Model out_;
    Circuit& c_;
    Wire first_;                    ///< the first pass
    std::vector<Wire> fact_memory_; ///< of facts that are looked at before they are set; or `never`
    std::vector<std::vector<Wire>>
        stages_;                 ///< of each ladder, whether it is at this stage or above
    std::vector<Much> curves_;   ///< of each curve
    std::vector<Wire> relay_on_; ///< of each relay, past a self-test
    std::vector<Wire> wanted_;   ///< of each output, the same
    std::vector<std::vector<Wire>> senses_; ///< of each output's hand, which sense is taken
    Wire tests_ = never;
    std::vector<Wire> turn_;
};

} // namespace zorilla::rig::prove
