// SPDX-License-Identifier: MIT
/// \file
/// What fans and pumps have in common.
#pragma once

#include "rig/drive/reader.hpp"

namespace zorilla::rig {

void read_motor(DriveReader& in, Drive& out);
std::vector<PartKey> motor_keys();

} // namespace zorilla::rig
