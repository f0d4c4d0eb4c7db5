// SPDX-License-Identifier: MIT
/// \file
/// The parts that `size` can choose.
#pragma once

#include "bench/sizing.hpp"
#include "cli/command.hpp"

#include <map>
#include <string>

namespace zorilla::cli {

void add_divider(Command* size, Chosen& chosen);
void add_led(Command* size, Chosen& chosen);
void add_load(Command* size, Chosen& chosen);

/// The series of preferred values by their names, and the option that names one.
bench::Series series_of(const std::string& name);
Option* add_series(Command* command, std::string& series);

} // namespace zorilla::cli
