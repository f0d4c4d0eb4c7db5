// SPDX-License-Identifier: MIT
#include "rig/read/groups.hpp"

#include "rig/text/text.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace zorilla::rig {

bool is_world(const Node& top) {
    return top.get("sense") == nullptr &&
           (top.get("world") != nullptr || top.get("sees") != nullptr);
}

std::optional<Node> check_groups(const Node& top, Findings& findings) {
    static const Names groups = {"rig",     "board",   "sense", "derive", "decide",
                                 "machine", "pattern", "drive", "promise"};
    Node mended = Node::table(top.place());
    bool any = false;
    for (size_t i = 0; i < top.size(); ++i) {
        const Key& key = top.keys()[i];
        const Node& node = top[i];
        const std::string& word = key.text;
        const bool known = std::find(groups.begin(), groups.end(), word) != groups.end();
        const std::string meant = known ? word : nearest(word, groups);
        if (!known)
            findings.add(key, fmt::format("there is no table [{}]; {}", word,
                                          meant.empty()
                                              ? "possible are [rig], [board], [sense.NAME], "
                                                "[derive.NAME], [decide.NAME], [machine.NAME], "
                                                "[pattern.NAME], [drive.NAME] and [promise.NAME]"
                                              : fmt::format("did you mean [{}]?", meant)));
        else if (!node.is_table())
            findings.add(key,
                         fmt::format("\"{}\" must be a table: write [{}]", word,
                                     word == "rig" || word == "board" ? word : word + ".NAME"));
        any = any || (!known && !meant.empty());
        if (Node* const there = mended.get(meant); there == nullptr)
            mended.add({meant, key.place}, node);
        else
            for (size_t k = 0; k < node.keys().size(); ++k)
                there->add(node.keys()[k], node[k]);
    }
    return any ? std::optional(std::move(mended)) : std::nullopt;
}

} // namespace zorilla::rig
