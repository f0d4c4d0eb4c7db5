// SPDX-License-Identifier: MIT
#include "rig/drive/patterns.hpp"

#include "rig/read/keys.hpp"

#include <fmt/format.h>

namespace zorilla::rig {

void Patterns::add(const Key& key, TableReader& keys) {
    keys.allow(rig::keys::of_pattern);
    const char* example = rig::keys::of_pattern.front().example;
    const bool there = keys.require("steps", "its values, each with how long it lasts", example);
    patterns_[key.text] = {&key, there ? keys.list("steps", 1, 32, example) : nullptr};
}

Patterns::Pattern* Patterns::find(const std::string& name) {
    const auto found = patterns_.find(name);
    return found == patterns_.end() ? nullptr : &found->second;
}

void Patterns::names(Names& out) const {
    for (const auto& [name, pattern] : patterns_)
        out.push_back(name);
}

void Patterns::finish(Findings& findings) const {
    if (findings.count() > 0)
        return; // an output that was not understood may be what shows it
    for (const auto& [name, pattern] : patterns_)
        if (!pattern.used)
            findings.add(*pattern.key,
                         fmt::format("no claim uses the pattern \"{0}\"; write then = \"{0}\" in "
                                     "one, or drop it",
                                     name));
}

} // namespace zorilla::rig
