// SPDX-License-Identifier: MIT
/// \file
/// Reading what a device is promised to keep to.
#pragma once

#include "rig/read/scope.hpp"

namespace zorilla::rig {

/// Reads `[promise.NAME]` and adds it to the rig, of which all else has been read.
void read_promise(Scope& scope, const Key& key, TableReader& keys);

} // namespace zorilla::rig
