// SPDX-License-Identifier: MIT
/// \file
/// What a rig does in one pass, as a circuit of two-valued wires: inputs, memory, and gates.
#pragma once

#include <cstddef>
#include <cstdint>
#include <map>
#include <utility>
#include <vector>

namespace zorilla::rig::prove {

/// A wire, or its negation: twice the number of what makes it, plus one if it is negated.
using Wire = uint32_t;
inline constexpr Wire never = 0, always = 1;
constexpr Wire opposite(Wire a) { return a ^ 1U; }

class Circuit {
  public:
    enum class Part : uint8_t { constant, input, memory, gate };
    struct Node {
        Part part = Part::constant;
        Wire a = 0; ///< of a gate, which is yes where both are; of a memory, its next value
        Wire b = 0;
        bool starts = false; ///< what a memory holds before the first pass
    };

    Wire input() { return add({Part::input}); }
    Wire memory(bool starts) { return add({Part::memory, never, never, starts}); }
    void set_next(Wire memory, Wire next) { nodes_[memory >> 1].a = next; }

    Wire both(Wire a, Wire b);
    Wire either(Wire a, Wire b) { return opposite(both(opposite(a), opposite(b))); }
    Wire choose(Wire which, Wire yes, Wire no) {
        return either(both(which, yes), both(opposite(which), no));
    }
    Wire same(Wire a, Wire b) { return choose(a, b, opposite(b)); }

    const std::vector<Node>& nodes() const { return nodes_; }
    /// All nodes that these wires hang on, in any pass, in order.
    std::vector<uint32_t> behind(const std::vector<Wire>& wires) const;

  private:
    Wire add(Node node) {
        nodes_.push_back(node);
        return static_cast<Wire>(2 * (nodes_.size() - 1));
    }
    std::vector<Node> nodes_ = {Node{}};
    std::map<std::pair<Wire, Wire>, Wire> gates_;
};

/// A truth of three values on two wires.
struct Three {
    Wire yes = never;
    Wire maybe = never; ///< yes or unknown
};

} // namespace zorilla::rig::prove
