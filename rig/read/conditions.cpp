// SPDX-License-Identifier: MIT
#include "rig/read/conditions.hpp"

#include "rig/text/text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <iterator>

namespace zorilla::rig {

class ConditionParser {
  public:
    ConditionParser(std::string_view text, const FindFact& find) : text_(text), find_(find) {
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
        if (word_.empty() || word_ == ")" || word_ == ">=")
            return fail("the name of a decision is missing here, such as \"cold\"");
        FactText fact;
        const size_t at = word_at_;
        fact.name = word_;
        advance();
        bool negated = false;
        constexpr std::string_view with_name[] = {"lost",  "rises",     "falls",   "locked",
                                                  "warns", "warns_off", "by_hand", "stalled"};
        if (word_ == "(" && std::find(std::begin(with_name), std::end(with_name), fact.name) !=
                                std::end(with_name)) {
            fact.verb = fact.name;
            advance();
            fact.name = word_;
            advance();
            if (word_ != ")")
                return fail(fmt::format("write {}(NAME), with one name", fact.verb));
            advance();
        } else if (word_ == ">=" || word_ == "<" || word_ == "in" || word_ == "enters" ||
                   word_ == "leaves" || word_ == "at") {
            negated = word_ == "<";
            fact.verb = negated ? ">=" : word_;
            advance();
            fact.object = word_;
            if (fact.object.empty())
                return fail(fact.verb == ">=" ? "the number of a stage is missing here, such as 2"
                                              : "the name of a state is missing here");
            advance();
        } else if (word_ == ">" || word_ == "<=" || word_ == "==" || word_ == "=") {
            return fail(fmt::format("write {0} >= 2 for stage 2 or higher, {0} < 2 for a lower one",
                                    fact.name));
        }
        std::string problem;
        const auto found = find_(fact, problem);
        if (!found) {
            fail(std::move(problem));
            out_.offset = at;
            return;
        }
        out_.condition.program_.push_back({Condition::Step::fact, *found});
        if (negated)
            out_.condition.program_.push_back({Condition::Step::negate});
        auto& named = out_.condition.facts_;
        if (std::find(named.begin(), named.end(), *found) == named.end())
            named.push_back(*found);
    }

    void fail(std::string problem) {
        out_.problem = std::move(problem);
        out_.offset = word_at_;
    }

    void advance() {
        constexpr std::string_view blanks = " \t\r\n";
        word_at_ = std::min(text_.find_first_not_of(blanks, after_), text_.size());
        size_t end = word_at_;
        const auto is = [this](size_t at, std::string_view any) {
            return at < text_.size() && any.find(text_[at]) != std::string_view::npos;
        };
        if (is(end, "()"))
            ++end;
        else if (is(end, "<>="))
            while (is(end, "<>="))
                ++end;
        else
            end = std::min(text_.find_first_of(" \t\r\n()<>=", end), text_.size());
        word_ = text_.substr(word_at_, end - word_at_);
        after_ = end;
    }

    std::string_view text_;
    const FindFact& find_;
    ConditionText out_;
    std::string_view word_;
    size_t word_at_ = 0;
    size_t after_ = 0;
};

ConditionText parse_condition(std::string_view text, const FindFact& find) {
    return ConditionParser(text, find).parse();
}

} // namespace zorilla::rig
