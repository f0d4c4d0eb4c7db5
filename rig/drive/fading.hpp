// SPDX-License-Identifier: MIT
/// \file
/// A duty on its way, as a circuit.
#pragma once

#include "rig/drive/part.hpp"

namespace zorilla::rig {

/// A duty on its way to what is wanted. \param swing  the time from nothing to full; 0: it jumps
/// \param begins  it starts in this pass, from nothing
prove::Much faded(const Drive& drive, prove::Much before, prove::Much wish, Duration swing,
                  prove::Wire begins, prove::Pass& pass);

/// A value, as much as a proof tells of it.
prove::Much much_of(const Drive& drive, AnyValue value);

} // namespace zorilla::rig
