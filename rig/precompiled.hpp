// SPDX-License-Identifier: MIT
/// \file
/// What nearly every file of the tool includes, compiled once: the core, fmt and the
/// standard library. Each file still includes what it uses.
#pragma once

#include <zorilla/zorilla.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdint>
#include <functional>
#include <map>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <vector>
