// SPDX-License-Identifier: MIT
/// \file
/// The ATtiny85 at 8 MHz, by its own clock: its pins. PB5 is the reset.
/// Wire them by `Wiring` (wiring.hpp); ZORILLA_INTERRUPTS(Wires) belongs into one source file.
#pragma once

#if !defined(__AVR_ATtiny85__)
#error "zorilla/board/attiny85.hpp is for the ATtiny85: compile with -mmcu=attiny85"
#endif

#include "zorilla/board/avr/board.hpp"

namespace zorilla {
using Attiny85 = AvrBoard<8'000'000>;
} // namespace zorilla

/// The chip's interrupts, for the wiring of the whole device: the clock (timer 0 overflow), edges
/// on pins, the bits of a line that sends by timer 1.
#define ZORILLA_INTERRUPTS(Wires)                                                                  \
    extern "C" __attribute__((signal, used)) void __vector_5() { Wires::Interrupts::on_tick(); }   \
    extern "C" __attribute__((signal, used)) void __vector_3() { Wires::Interrupts::on_bit(); }    \
    ZORILLA_JUMP(__vector_2, Wires::Interrupts::OnPins<0>::run)
