// SPDX-License-Identifier: MIT
/// \file
/// Ctrl-C, and whoever ends a process politely, end a loop instead of the program.
#pragma once

namespace zorilla::cli {

void end_on_signals();
bool asked_to_end();

} // namespace zorilla::cli
