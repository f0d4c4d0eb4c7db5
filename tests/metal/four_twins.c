// SPDX-License-Identifier: MIT
// The four devices of four_devices.cpp by hand, with care: codes of the converter worked out
// beforehand, faults of the wire seen, times that wrap.
#include "tests/metal/four_feed.h"

#define FIRST 116 // 80 degC
#define LAST 975  // -30 degC

static inline void set_pin(uint8_t bit, uint8_t value) {
    if (value)
        PORTB |= 1 << bit;
    else
        PORTB &= ~(1 << bit);
}

#if defined(DEVICE_threshold)

static uint8_t cold;
static void __attribute__((noinline)) pass(uint32_t now, uint16_t code) {
    (void)now;
    uint8_t lamp = 0;
    if (code >= FIRST && code <= LAST) {
        if (code >= 750)
            cold = 1;
        else if (code <= 728)
            cold = 0;
        lamp = cold;
    }
    set_pin(0, lamp);
}

#elif defined(DEVICE_two_fans)

struct fan {
    uint32_t since;
    uint8_t on, started, served;
};
static struct fan first, second;
static uint8_t stage;

static void drive(struct fan* fan, uint32_t now, uint8_t want, uint8_t safe) {
    if (!fan->started) {
        fan->started = 1;
        fan->since = now;
    }
    if (!fan->served)
        fan->served = now - fan->since >= 30000UL;
    if (want == fan->on || (!fan->served && !(safe && fan->on)))
        return;
    fan->on = want;
    fan->since = now;
    fan->served = 0;
}

static void __attribute__((noinline)) pass(uint32_t now, uint16_t code) {
    uint8_t ok = code >= FIRST && code <= LAST;
    uint8_t want = 2;
    if (ok) {
        if (code <= 354)
            stage = 2;
        else if (code <= 456 && stage < 1)
            stage = 1;
        if (code >= 501)
            stage = 0;
        want = stage;
    }
    drive(&first, now, want >= 1, 0);
    drive(&second, now, want >= 2, 0);
    set_pin(0, first.on);
    set_pin(1, second.on);
}

#elif defined(DEVICE_bar)

static const __flash uint16_t begins[4] = {684, 569, 456, 354}, releases[4] = {696, 582, 468, 365};
static uint8_t level;
static void __attribute__((noinline)) pass(uint32_t now, uint16_t code) {
    (void)now;
    if (code < FIRST || code > LAST) {
        PORTB = 0;
        return;
    }
    while (level < 4 && code <= begins[level])
        level++;
    while (level > 0 && code >= releases[level - 1])
        level--;
    PORTB = (1 << level) - 1;
}

#else

enum { IDLE, ACTING, RESTING, LOCKED };
static uint8_t state, tries;
static uint32_t since;
static void __attribute__((noinline)) pass(uint32_t now, uint16_t in) {
    uint8_t stands = in & 1;
    if (in & 2) {
        state = IDLE;
        tries = 0;
    }
    switch (state) {
    case IDLE:
        if (stands) {
            state = ACTING;
            tries = 1;
            since = now;
        }
        break;
    case ACTING:
        if (now - since >= 2000) {
            state = RESTING;
            since = now;
        }
        break;
    case RESTING:
        if (now - since >= 6000) {
            if (!stands) {
                state = IDLE;
            } else if (tries == 3) {
                state = LOCKED;
            } else {
                state = ACTING;
                tries++;
                since = now;
            }
        }
        break;
    }
    set_pin(0, !stands && state != LOCKED);
    set_pin(1, state == ACTING);
    set_pin(2, state == LOCKED);
}

#endif

int main(void) { FEED(pass); }
