// SPDX-License-Identifier: MIT
/// \file
/// Says at once which compiler to take, where this one is too old; and what the library of one for
/// a small chip may lack.
#pragma once

#if !defined(__cplusplus) || __cplusplus < 201703L
#error Zorilla needs C++17. For 8-bit chips take clang 19 (clang++-19 --target=avr -std=c++17): the \
avr-gcc of most distributions is too old. Elsewhere g++ 8 or clang 7, with -std=c++17, or newer.
#include "zorilla/the_compiler_is_too_old_see_the_error_above.hpp"
#endif

// On a small chip:
// ZORILLA_SHARED stands before what several blocks are to share rather than each have its own copy;
// ZORILLA_ONCE before a function that stands in place where one block calls it, and is shared where
// several do, which the compiler can tell as long as nobody else may call it;
// ZORILLA_IN_PLACE before what is called from one place, as the pass of a device is: there the chip
// knows where each part of the device stands, and need not count from its beginning.
#if defined(__AVR__)
#define ZORILLA_SHARED [[gnu::noinline]]
#define ZORILLA_ONCE static
#define ZORILLA_IN_PLACE [[gnu::always_inline]]
#else
#define ZORILLA_SHARED
#define ZORILLA_ONCE
#define ZORILLA_IN_PLACE
#endif

namespace zorilla::detail {

template <bool IsFirst, class First, class Second> struct EitherOf { using Type = First; };
template <class First, class Second> struct EitherOf<false, First, Second> { using Type = Second; };
template <bool IsFirst, class First, class Second>
using Either = typename EitherOf<IsFirst, First, Second>::Type;

} // namespace zorilla::detail
