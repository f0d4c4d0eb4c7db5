// SPDX-License-Identifier: MIT
/// \file
/// What a board must offer, as a compile-time interface: there is no base class, since a virtual
/// call costs program memory and a table in RAM on a small chip.
#pragma once

#include "zorilla/drive/relay.hpp"
#include "zorilla/sense/sample.hpp"
#include "zorilla/units/time.hpp"

namespace zorilla {

namespace detail {
template <class A, class B> struct Same { static constexpr bool value = false; };
template <class A> struct Same<A, A> { static constexpr bool value = true; };
} // namespace detail

/// Stops the compiler with a sentence where a board lacks something. A board has only static
/// functions:
///
/// - `void begin(uint8_t analogue_input)`: starts clock, converter and serial line. Outputs are
///   started before it, each by itself, level first, so that none is ever driven the wrong way.
/// - `Instant now()`: milliseconds since power-up.
/// - `Sample sample()`: the newest code of the analogue input; not taken before the first
///   conversion is over. Starts the next conversion and does not wait for it.
/// - `bool send(char c)`: hands one character to the serial line, or says that it is busy.
/// - `void idle()`: sleeps until something happens, at most a millisecond.
template <class Board> struct BoardCheck {
    static_assert(detail::Same<decltype(Board::now()), Instant>::value,
                  "a board needs static Instant now()");
    static_assert(detail::Same<decltype(Board::sample()), Sample>::value,
                  "a board needs static Sample sample()");
    static_assert(detail::Same<decltype(Board::send('x')), bool>::value,
                  "a board needs static bool send(char)");
    static_assert(detail::Same<decltype(Board::begin(0)), void>::value,
                  "a board needs static void begin(uint8_t)");
    static_assert(detail::Same<decltype(Board::idle()), void>::value,
                  "a board needs static void idle()");
    static constexpr bool passed = true;
};

} // namespace zorilla
