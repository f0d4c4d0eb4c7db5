// SPDX-License-Identifier: MIT
/// \file
/// Conditions: short boolean expressions over the names of decisions.
#pragma once

#include <zorilla/units/truth.hpp>

#include <cstddef>
#include <string>
#include <string_view>
#include <vector>

namespace zorilla::rig {

/// A condition such as `cold and not airing`, ready to be evaluated with three-valued logic.
/// `not` binds strongest, then `and`, then `or`; parentheses as usual.
class Condition {
  public:
    /// \param truths  the truth of each decision, in the order of the names given to the parser
    Truth evaluate(const Truth* truths) const {
        return program_.size() == 1 ? truths[program_.front().decision] : run(truths);
    }

    /// The decisions that it names, each once, in order of appearance.
    const std::vector<size_t>& decisions() const { return decisions_; }

  private:
    friend class ConditionParser;
    enum class Step : unsigned char { decision, negate, both, either };
    struct Instruction {
        Step step;
        size_t decision = 0;
    };
    Truth run(const Truth* truths) const;

    std::vector<Instruction> program_;
    std::vector<size_t> decisions_;
};

/// A parsed condition, or what is wrong with the text and where in it.
struct ConditionText {
    Condition condition;
    std::string problem; ///< empty if the text was understood
    size_t offset = 0;   ///< of the problem, in characters from the beginning of the text
};

ConditionText parse_condition(std::string_view text, const std::vector<std::string>& decisions);

} // namespace zorilla::rig
