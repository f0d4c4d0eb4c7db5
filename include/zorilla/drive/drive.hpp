// SPDX-License-Identifier: MIT
/// \file
/// Decisions to pins.
#pragma once

#include "zorilla/drive/claim.hpp"
#include "zorilla/drive/relay.hpp"
