// SPDX-License-Identifier: MIT
/// \file
/// Decisions to pins.
#pragma once

#include "zorilla/drive/claim.hpp"
#include "zorilla/drive/fade.hpp"
#include "zorilla/drive/fan.hpp"
#include "zorilla/drive/hand.hpp"
#include "zorilla/drive/led.hpp"
#include "zorilla/drive/output.hpp"
#include "zorilla/drive/relay.hpp"
#include "zorilla/drive/round.hpp"
