// SPDX-License-Identifier: MIT
/// \file
/// The ATmega2560 at 16 MHz: its pins. PE0 and PE1 are its first serial line.
/// Wire them by `Wiring` (wiring.hpp); ZORILLA_INTERRUPTS(Wires) belongs into one source file.
#pragma once

#if !defined(__AVR_ATmega2560__)
#error "zorilla/board/atmega2560.hpp is for the ATmega2560: compile with -mmcu=atmega2560"
#endif

#include "zorilla/board/avr/board.hpp"

namespace zorilla {
using Atmega2560 = AvrBoard<16'000'000>;
} // namespace zorilla

/// The chip's interrupts, for the wiring of the whole device: the clock (timer 0 overflow), edges
/// on pins, characters that come.
#define ZORILLA_INTERRUPTS(Wires)                                                                  \
    extern "C" __attribute__((signal, used)) void __vector_23() { Wires::Interrupts::on_tick(); }  \
    ZORILLA_JUMP(__vector_9, Wires::Interrupts::OnPins<0>::run)                                    \
    ZORILLA_JUMP(__vector_10, Wires::Interrupts::OnPins<1>::run)                                   \
    ZORILLA_JUMP(__vector_11, Wires::Interrupts::OnPins<2>::run)                                   \
    ZORILLA_JUMP(__vector_25, Wires::Interrupts::OnCharacter<0>::run)                              \
    ZORILLA_JUMP(__vector_36, Wires::Interrupts::OnCharacter<1>::run)                              \
    ZORILLA_JUMP(__vector_51, Wires::Interrupts::OnCharacter<2>::run)                              \
    ZORILLA_JUMP(__vector_54, Wires::Interrupts::OnCharacter<3>::run)
