// SPDX-License-Identifier: MIT
// What the hen house and its hand-written twin share: how the emulator hands inputs over and takes
// outputs, as tests/chips/devices.hpp packs them. See four_feed.h.
#pragma once

#include <avr/io.h>
#include <avr/sleep.h>
#include <stdint.h>

static uint32_t now;

/// As a board would deliver them: a code that was not taken is 0xffff, a level that was not read is
/// above 1; of frame and echo, 1 means that one came, 0 that none came, 2 that nobody asked.
struct inputs {
    uint16_t roost, yard;
    uint8_t frame, bytes[5], echo;
    uint16_t width, gas;
    uint8_t air, hush;
};
static struct inputs fed;

static uint16_t fed_word(void) {
    uint8_t low = GPIOR0;
    return (uint16_t)(low | (uint16_t)(GPIOR0 << 8));
}
static void feed_house(void) {
    uint16_t low = fed_word();
    now = low | (uint32_t)fed_word() << 16;
    fed.roost = fed_word();
    fed.yard = fed_word();
    fed.frame = GPIOR0;
    for (uint8_t i = 0; i < 5; i++)
        fed.bytes[i] = GPIOR0;
    fed.echo = GPIOR0;
    fed.width = fed_word();
    fed.gas = fed_word();
    fed.air = GPIOR0;
    fed.hush = GPIOR0;
}

#define FEED_HOUSE(pass, report)                                                                   \
    while (GPIOR0 != 0) {                                                                          \
        feed_house();                                                                              \
        GPIOR2 = 1;                                                                                \
        pass();                                                                                    \
        GPIOR2 = 2;                                                                                \
        report();                                                                                  \
    }                                                                                              \
    __asm__ volatile("cli");                                                                       \
    sleep_enable();                                                                                \
    sleep_cpu()
