// SPDX-License-Identifier: MIT
#include "rig/condition.hpp"

#include "rig/text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>

namespace zorilla::rig {

Truth Condition::run(const Truth* truths) const {
    // The parser bounds the depth, so that a fixed stack is enough.
    std::array<Truth, 64> stack;
    size_t top = 0;
    for (const Instruction& next : program_) {
        switch (next.step) {
        case Step::decision: stack[top++] = truths[next.decision]; break;
        case Step::negate: stack[top - 1] = !stack[top - 1]; break;
        case Step::both:
            --top;
            stack[top - 1] = stack[top - 1] && stack[top];
            break;
        case Step::either:
            --top;
            stack[top - 1] = stack[top - 1] || stack[top];
            break;
        }
    }
    return stack[0];
}

class ConditionParser {
  public:
    ConditionParser(std::string_view text, const std::vector<std::string>& decisions)
        : text_(text), decisions_(decisions) {
        advance();
    }

    ConditionText parse() {
        either(0);
        if (out_.problem.empty() && !word_.empty())
            fail(fmt::format("\"{}\" does not belong here; join names with \"and\" or \"or\"",
                             word_));
        return out_;
    }

  private:
    // With `depth` at most 60, the stack of an evaluation stays below 64.
    static constexpr size_t deepest = 60;

    void either(size_t depth) {
        both(depth);
        while (out_.problem.empty() && word_ == "or") {
            advance();
            both(depth + 1);
            out_.condition.program_.push_back({Condition::Step::either});
        }
    }

    void both(size_t depth) {
        one(depth);
        while (out_.problem.empty() && word_ == "and") {
            advance();
            one(depth + 1);
            out_.condition.program_.push_back({Condition::Step::both});
        }
    }

    void one(size_t depth) {
        if (!out_.problem.empty())
            return;
        if (depth > deepest)
            return fail("this condition is nested too deeply; use a decision of its own");
        if (word_ == "not") {
            advance();
            one(depth + 1);
            out_.condition.program_.push_back({Condition::Step::negate});
        } else if (word_ == "(") {
            advance();
            either(depth + 1);
            if (out_.problem.empty() && word_ != ")")
                return fail("a closing \")\" is missing");
            advance();
        } else {
            name();
        }
    }

    void name() {
        const auto found = std::find(decisions_.begin(), decisions_.end(), word_);
        if (found == decisions_.end()) {
            if (word_.empty())
                return fail("the name of a decision is missing here, such as \"cold\"");
            return fail(
                fmt::format("there is no [decide.{}]{}", word_, suggestion(word_, decisions_)));
        }
        const auto index = static_cast<size_t>(found - decisions_.begin());
        out_.condition.program_.push_back({Condition::Step::decision, index});
        auto& named = out_.condition.decisions_;
        if (std::find(named.begin(), named.end(), index) == named.end())
            named.push_back(index);
        advance();
    }

    void fail(std::string problem) {
        out_.problem = std::move(problem);
        out_.offset = word_at_;
    }

    void advance() {
        constexpr std::string_view blanks = " \t\r\n";
        word_at_ = std::min(text_.find_first_not_of(blanks, after_), text_.size());
        size_t end = word_at_;
        if (end < text_.size() && (text_[end] == '(' || text_[end] == ')'))
            ++end;
        else
            end = std::min(text_.find_first_of(" \t\r\n()", end), text_.size());
        word_ = text_.substr(word_at_, end - word_at_);
        after_ = end;
    }

    std::string_view text_;
    const std::vector<std::string>& decisions_;
    ConditionText out_;
    std::string_view word_;
    size_t word_at_ = 0;
    size_t after_ = 0;
};

ConditionText parse_condition(std::string_view text, const std::vector<std::string>& decisions) {
    return ConditionParser(text, decisions).parse();
}

} // namespace zorilla::rig
