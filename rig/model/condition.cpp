// SPDX-License-Identifier: MIT
#include "rig/model/condition.hpp"

#include <array>

namespace zorilla::rig {

Truth Condition::run(const Truth* truths) const {
    // The parser bounds the depth, so that a fixed stack is enough.
    std::array<Truth, 64> stack;
    size_t top = 0;
    for (const Instruction& next : program_) {
        switch (next.step) {
        case Step::fact: stack[top++] = truths[next.fact]; break;
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

} // namespace zorilla::rig
