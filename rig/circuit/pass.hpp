// SPDX-License-Identifier: MIT
/// \file
/// What the rooms of decisions and outputs are given to say what they do as a circuit.
#pragma once

#include "rig/circuit/model.hpp"

namespace zorilla::rig::prove {

/// How much an output is, as far as a proof tells it.
struct Much {
    Wire any = never;
    Wire full = never;
};

/// A decision as wires; only what its kind gives counts.
struct DecideWires {
    Three truth;
    std::vector<Wire> stages; ///< whether it is at this one or above
    Much duty;
    Wire locked = never;
};

/// One pass of a rig, while its circuit is being built.
class Pass {
  public:
    explicit Pass(const Rig& of) : rig(of), c_(model.circuit), first(c_.memory(true)) {}
    virtual ~Pass() = default;
    Pass(const Pass&) = delete;
    Pass& operator=(const Pass&) = delete;

    const Rig& rig;
    Model model;

    Wire input() { return c_.input(); }
    Wire memory(bool starts = false) { return c_.memory(starts); }
    void set_next(Wire memory, Wire next) { c_.set_next(memory, next); }
    Much remembered() { return {memory(), memory()}; }
    void set_next(Much memory, Much next) {
        set_next(memory.any, next.any);
        set_next(memory.full, next.full);
    }
    Wire both(Wire a, Wire b) { return c_.both(a, b); }
    Wire either(Wire a, Wire b) { return c_.either(a, b); }
    Wire choose(Wire which, Wire yes, Wire no) { return c_.choose(which, yes, no); }
    Wire same(Wire a, Wire b) { return c_.same(a, b); }
    Much choose(Wire which, Much yes, Much no) {
        return {choose(which, yes.any, no.any), choose(which, yes.full, no.full)};
    }
    static Three known(Wire yes) { return {yes, yes}; }
    /// What is not known where it is lost.
    Three unless(Wire lost, Wire yes) {
        const Wire is = both(yes, opposite(lost));
        return {is, either(is, lost)};
    }
    Wire unknown(Three truth) { return both(truth.maybe, opposite(truth.yes)); }
    Three evaluate(const Condition& condition) { return model.evaluate(condition); }
    Three evaluate(const WrittenCondition& when) {
        return when.given() ? evaluate(when.condition) : Three{};
    }
    /// Yes in the pass in which a truth becomes yes, as `Edge` has it.
    Three edge(Three truth);

    /// Of a source's readings, those that fit.
    template <class Fits> Wire those(size_t source, Fits fits) {
        const Saying& saying = model.sayings[source];
        Wire out = never;
        for (size_t i = 0; i < saying.readings.size(); ++i)
            if (fits(AnyQuantity::from_thousandths(saying.readings[i])))
                out = either(out, saying.says[i]);
        return out;
    }
    Wire lost(size_t source) const { return model.sayings[source].lost; }

    /// A clock, which is started in passes that are set later.
    size_t clock() {
        model.clocks.push_back(never);
        return model.clocks.size() - 1;
    }
    void starts(size_t clock, Wire when) { model.clocks[clock] = when; }
    /// A wait of a clock that may be over: yes, no, or open.
    /// \param asks  when it matters  \param starts  whether the clock is started in this pass
    Wire over(size_t clock, Wire asks, Wire starts, Duration time, const std::string& text);

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

    /// Sets all facts of a kind about a part, and their memories.
    template <class Of> void set_facts(Fact::Kind kind, size_t of, Of truth) {
        for (size_t i = 0; i < rig.facts.size(); ++i)
            if (rig.facts[i].kind == kind && rig.facts[i].of == of)
                set_fact(i, truth(rig.facts[i]));
    }
    void set_fact(size_t index, Wire yes);

    // --- What has been built before, for outputs

    std::vector<DecideWires> decides;           ///< of each decision that gives a stage or a duty
    std::vector<Wire> wanted;                   ///< of each output, whether it is on but for tests
    std::vector<std::vector<Wire>> hand_senses; ///< of each output's hand, which sense is taken

  protected:
    std::vector<Wire> fact_memory_; ///< of facts that are looked at before they are set; or `never`

  private:
    Circuit& c_;

  public:
    const Wire first; ///< yes in the first pass
};

} // namespace zorilla::rig::prove
