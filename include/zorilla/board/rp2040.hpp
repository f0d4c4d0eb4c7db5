// SPDX-License-Identifier: MIT
/// \file
/// The RP2040 at 48 MHz: its pins. Wire them by `Wiring` (wiring.hpp); ZORILLA_INTERRUPTS(Wires)
/// belongs into one source file, and with it comes all that stands before `main`. It is linked by
/// zorilla/board/rp2040/memory.ld.
#pragma once

#if !defined(__ARM_ARCH_6M__)
#error "zorilla/board/rp2040.hpp is for the RP2040: compile with -mcpu=cortex-m0plus -mthumb"
#endif

#include "zorilla/board/rp2040/board.hpp"

/// The chip's vectors, for the wiring of the whole device: the clock's alarm, edges on pins, lines,
/// USB.
#define ZORILLA_INTERRUPTS(Wires)                                                                  \
    ZORILLA_BOOT                                                                                   \
    extern "C" {                                                                                   \
    extern const ::zorilla::rp2040::Vectors zorilla_vectors;                                       \
    __attribute__((used, section(".vectors"))) const ::zorilla::rp2040::Vectors zorilla_vectors =  \
        ::zorilla::rp2040::vectors_of<Wires::Interrupts>(::zorilla::rp2040::Clock::on_alarm);      \
    }
