// SPDX-License-Identifier: MIT
// What four small devices and their hand-written twins share: inputs come byte by byte through
// GPIOR0, what the pins are goes out through GPIOR1, and GPIOR2 marks where a pass begins (1) and
// ends (2). The emulator does the rest.
#pragma once

#include <avr/io.h>
#include <avr/sleep.h>
#include <stdint.h>

static uint32_t fed_time(void) {
    uint32_t out = GPIOR0;
    out |= (uint32_t)GPIOR0 << 8;
    out |= (uint32_t)GPIOR0 << 16;
    out |= (uint32_t)GPIOR0 << 24;
    return out;
}
static uint16_t fed_code(void) {
    uint16_t out = GPIOR0;
    out = (uint16_t)(out | (uint16_t)(GPIOR0 << 8));
    return out;
}
#define FEED(pass)                                                                                 \
    while (GPIOR0 != 0) {                                                                          \
        uint32_t now = fed_time();                                                                 \
        uint16_t in = fed_code();                                                                  \
        GPIOR2 = 1;                                                                                \
        pass(now, in);                                                                             \
        GPIOR2 = 2;                                                                                \
        GPIOR1 = PORTB;                                                                            \
    }                                                                                              \
    __asm__ volatile("cli");                                                                       \
    sleep_enable();                                                                                \
    sleep_cpu()
