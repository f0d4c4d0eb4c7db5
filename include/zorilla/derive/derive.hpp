// SPDX-License-Identifier: MIT
/// \file
/// Quantities made from quantities.
#pragma once

#include "zorilla/derive/air.hpp"
#include "zorilla/derive/change.hpp"
#include "zorilla/derive/several.hpp"
