// SPDX-License-Identifier: MIT
#include "rig/circuit/circuit.hpp"

#include <algorithm>

namespace zorilla::rig::prove {

Wire Circuit::both(Wire a, Wire b) {
    if (a > b)
        std::swap(a, b);
    if (a == never || a == opposite(b))
        return never;
    if (a == always || a == b)
        return b;
    const auto [known, fresh] = gates_.emplace(std::pair(a, b), never);
    if (fresh)
        known->second = add({Part::gate, a, b});
    return known->second;
}

std::vector<uint32_t> Circuit::behind(const std::vector<Wire>& wires) const {
    std::vector<bool> seen(nodes_.size());
    std::vector<uint32_t> out, waiting;
    const auto look = [&](Wire wire) {
        if (!seen[wire >> 1]) {
            seen[wire >> 1] = true;
            waiting.push_back(wire >> 1);
        }
    };
    for (const Wire wire : wires)
        look(wire);
    while (!waiting.empty()) {
        const uint32_t at = waiting.back();
        waiting.pop_back();
        out.push_back(at);
        const Node& node = nodes_[at];
        if (node.part == Part::gate || node.part == Part::memory)
            look(node.a);
        if (node.part == Part::gate)
            look(node.b);
    }
    std::sort(out.begin(), out.end());
    return out;
}

} // namespace zorilla::rig::prove
