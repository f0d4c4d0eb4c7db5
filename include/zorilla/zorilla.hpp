// SPDX-License-Identifier: MIT
/// \file
/// All of the core: sense, decide, drive. A board port is included beside it, by name, such as
/// `zorilla/board/atmega328p.hpp`.
#pragma once

#include "zorilla/decide/decide.hpp"
#include "zorilla/derive/derive.hpp"
#include "zorilla/drive/drive.hpp"
#include "zorilla/sense/sense.hpp"
#include "zorilla/units/units.hpp"
