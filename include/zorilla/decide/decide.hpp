// SPDX-License-Identifier: MIT
/// \file
/// Readings to decisions.
#pragma once

#include "zorilla/decide/threshold.hpp"
