// SPDX-License-Identifier: MIT
/// \file
/// What nearly every test includes, compiled once. Each file still includes what it uses.
#pragma once

#include "rig/decide/part.hpp"
#include "rig/derive/part.hpp"
#include "rig/drive/part.hpp"
#include "rig/rig_file.hpp"
#include "rig/run/running_rig.hpp"
#include "tests/desk/process.hpp"

#include <gtest/gtest.h>

#include <cmath>
#include <map>
#include <optional>
#include <random>
#include <set>
#include <string>
#include <vector>
