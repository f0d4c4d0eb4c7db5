// SPDX-License-Identifier: MIT
/// \file
/// All kinds of elements, in the order in which people think of them.
#pragma once

#include "bench/world/element.hpp"

namespace zorilla::bench {

constexpr double pi = 3.14159265358979323846;

ElementKind weather_element();
ElementKind warmth_element();
ElementKind air_element();
ElementKind gas_element();
ElementKind tank_element();
ElementKind light_element();
ElementKind turning_element();
ElementKind people_element();

} // namespace zorilla::bench
