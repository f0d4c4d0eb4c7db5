// SPDX-License-Identifier: MIT
/// \file
/// State machines as pictures, and as SCXML (https://www.w3.org/TR/scxml).
#pragma once

#include "rig/rig_file.hpp"

#include <string>
#include <vector>

namespace zorilla::bench {

/// A machine in the language of Graphviz: its states with what is on in them, and its moves.
std::string dot_of(const rig::Rig& rig, const rig::RigMachine& machine);

/// A machine as SCXML 1.0. Conditions become events, timers delayed ones.
/// \param left_out  what SCXML has no plain word for, a sentence each
std::string scxml_of(const rig::RigMachine& machine, std::vector<std::string>& left_out);

/// Draws what is in the language of Graphviz into a file by its ending: .dot, .svg or .png.
/// \throws rig::InputError  if Graphviz is not there, or the file cannot be written
void draw_diagram(const std::string& path, const std::string& dot);

} // namespace zorilla::bench
