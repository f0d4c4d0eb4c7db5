// SPDX-License-Identifier: MIT
/// \file
/// Inputs of every kind at random, faults too.
#pragma once

#include "rig/model/rig.hpp"

#include <random>
#include <vector>

namespace zorilla::bench {

/// Goes from what sensors deliver now to something else. \param raws  one for each sensor
void random_raws(const rig::Rig& rig, std::mt19937& random, std::vector<rig::Raw>& raws);

} // namespace zorilla::bench
