// SPDX-License-Identifier: MIT
/// \file
/// Readings to decisions.
#pragma once

#include "zorilla/decide/attempts.hpp"
#include "zorilla/decide/by_code.hpp"
#include "zorilla/decide/curve.hpp"
#include "zorilla/decide/ladder.hpp"
#include "zorilla/decide/lasting.hpp"
#include "zorilla/decide/machine.hpp"
#include "zorilla/decide/threshold.hpp"
#include "zorilla/decide/window.hpp"
