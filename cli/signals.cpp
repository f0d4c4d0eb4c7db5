// SPDX-License-Identifier: MIT
#include "cli/signals.hpp"

#include <csignal>

namespace zorilla::cli {

namespace {
volatile std::sig_atomic_t asked = 0;
}

void end_on_signals() {
    struct sigaction action {};
    action.sa_handler = [](int) { asked = 1; };
    for (const int signal : {SIGINT, SIGTERM, SIGHUP})
        sigaction(signal, &action, nullptr);
}

bool asked_to_end() { return asked != 0; }

} // namespace zorilla::cli
