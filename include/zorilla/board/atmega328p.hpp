// SPDX-License-Identifier: MIT
/// \file
/// The ATmega328P at 16 MHz, or at 8 MHz: its pins. PC6 is the reset, PB6 and PB7 carry the
/// crystal. Wire them by `Wiring` (wiring.hpp); ZORILLA_INTERRUPTS(Wires) belongs into one source
/// file.
#pragma once

#if !defined(__AVR_ATmega328P__)
#error "zorilla/board/atmega328p.hpp is for the ATmega328P: compile with -mmcu=atmega328p"
#endif

#include "zorilla/board/avr/board.hpp"

namespace zorilla {
using Atmega328p = AvrBoard<16'000'000>;
using Atmega328p8MHz = AvrBoard<8'000'000>;
} // namespace zorilla

/// The chip's interrupts, for the wiring of the whole device: the clock (timer 0 overflow), edges
/// on pins, characters that come.
#define ZORILLA_INTERRUPTS(Wires)                                                                  \
    extern "C" __attribute__((signal, used)) void __vector_16() { Wires::Interrupts::on_tick(); }  \
    ZORILLA_JUMP(__vector_3, Wires::Interrupts::OnPins<0>::run)                                    \
    ZORILLA_JUMP(__vector_4, Wires::Interrupts::OnPins<1>::run)                                    \
    ZORILLA_JUMP(__vector_5, Wires::Interrupts::OnPins<2>::run)                                    \
    ZORILLA_JUMP(__vector_18, Wires::Interrupts::OnCharacter<0>::run)
