// SPDX-License-Identifier: MIT
// An echo on the pin with an interrupt of its own, as the twins with pins time it: in counts of 4
// us of the clock that MILLISECONDS counts.
#pragma once

#include <avr/interrupt.h>
#include <avr/io.h>
#include <stdint.h>

static volatile uint16_t rose, width;
static volatile uint8_t heard;
ISR(INT0_vect) {
    uint8_t count = TCNT0;
    uint16_t at = MILLISECONDS;
    if ((TIFR0 & 1 << OCF0A) && count < 250 / 2)
        at++;
    at = at * 250 + count;
    if (PIND & 1 << PD2) {
        rose = at;
    } else {
        width = at - rose;
        heard = 1;
    }
}
