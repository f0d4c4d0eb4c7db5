// SPDX-License-Identifier: MIT
/// \file
/// Patterns: values one after the other, under a name.
#pragma once

#include "rig/read/scope.hpp"

#include <map>
#include <string>

namespace zorilla::rig {

/// The patterns of a rig; their values are read by each output that uses one.
class Patterns {
  public:
    struct Pattern {
        const Key* key;
        const Node* steps; ///< null if they could not be understood
        bool used = false;
    };

    /// Reads `[pattern.NAME]`.
    void add(const Key& key, TableReader& keys);
    /// Null if there is none of that name.
    Pattern* find(const std::string& name);
    /// Adds all names.
    void names(Names& out) const;
    /// Complains about those that nobody uses.
    void finish(Findings& findings) const;

  private:
    std::map<std::string, Pattern> patterns_;
};

} // namespace zorilla::rig
