// SPDX-License-Identifier: MIT
/// \file
/// Conditions: short boolean expressions over the names of decisions.
#pragma once

#include <zorilla/units/truth.hpp>

#include <cstddef>
#include <vector>

namespace zorilla::rig {

/// A condition such as `cold and not airing`, `lost(roost) or fans >= 2` or `hatch in opening`,
/// ready to be evaluated with three-valued logic. `not` binds strongest, then `and`, then `or`;
/// parentheses as usual.
class Condition {
  public:
    /// \param truths  the truth of each fact
    Truth evaluate(const Truth* truths) const {
        return program_.size() == 1 ? truths[program_.front().fact] : run(truths);
    }

    /// The condition that is a single fact.
    static Condition of(size_t fact) {
        Condition out;
        out.program_ = {{Step::fact, fact}};
        out.facts_ = {fact};
        return out;
    }

    /// The same over anything that can be negated and joined: `leaf(fact)`, `negate(a)`,
    /// `both(a, b)` and `either(a, b)` make a `T`.
    template <class T, class Leaf, class Negate, class Both, class Either>
    T fold(Leaf leaf, Negate negate, Both both, Either either) const {
        std::vector<T> stack;
        for (const Instruction& next : program_) {
            if (next.step == Step::fact) {
                stack.push_back(leaf(next.fact));
            } else if (next.step == Step::negate) {
                stack.back() = negate(stack.back());
            } else {
                const T last = stack.back();
                stack.pop_back();
                stack.back() =
                    next.step == Step::both ? both(stack.back(), last) : either(stack.back(), last);
            }
        }
        return stack.back();
    }

    /// The facts that it names, each once, in order of appearance.
    const std::vector<size_t>& facts() const { return facts_; }

  private:
    friend class ConditionParser;
    enum class Step : unsigned char { fact, negate, both, either };
    struct Instruction {
        Step step;
        size_t fact = 0;
    };
    Truth run(const Truth* truths) const;

    std::vector<Instruction> program_;
    std::vector<size_t> facts_;
};

} // namespace zorilla::rig
