// SPDX-License-Identifier: MIT
/// \file
/// Other programs, run to their end.
#pragma once

#include <string>
#include <utility>

namespace zorilla::bench {

/// Text as one word for a shell.
std::string shell_word(const std::string& text);
/// How a command ended (its exit status), and what it printed, errors too.
std::pair<int, std::string> run_process(const std::string& command);

} // namespace zorilla::bench
