// SPDX-License-Identifier: MIT
// The four devices of four_devices.cpp by hand, with care: codes of the converter worked out
// beforehand, faults of the wire seen, times that wrap. With KEEPS they keep what blocks keep.
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
    if ((uint16_t)(code - FIRST) <= LAST - FIRST) {
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

#ifdef KEEPS // each fan has code, and so times, of its own
static inline void __attribute__((always_inline))
#else
static void
#endif
drive(struct fan* fan, uint32_t now, uint8_t want, uint8_t safe) {
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
    uint8_t ok = (uint16_t)(code - FIRST) <= LAST - FIRST;
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

// How many are lit, as a mask, and the codes between which nothing changes.
static uint8_t lit;
static uint16_t next = 684, back = 0xffff;

static const __flash uint8_t masks[] = {0, 1, 3, 7, 15};
static uint8_t level;
static void __attribute__((noinline)) move(uint16_t code) {
    static const __flash uint16_t begins[] = {684, 569, 456, 354, 0},
                                  releases[] = {0xffff, 696, 582, 468, 365};
    while (code <= begins[level])
        level++;
    while (code >= releases[level])
        level--;
    next = begins[level];
    back = releases[level];
    lit = masks[level];
}

static void __attribute__((noinline)) pass(uint32_t now, uint16_t code) {
    (void)now;
    if ((uint16_t)(code - FIRST) > LAST - FIRST) {
        PORTB = 0;
        return;
    }
    if (code <= next || code >= back)
        move(code);
#ifdef KEEPS // the level, of which the lights are made
    PORTB = masks[level];
#else
    PORTB = lit;
#endif
}

#else

enum { IDLE, ACTING, RESTING, LOCKED };
static uint8_t state, tries, held = 2;
static uint32_t since;
static void __attribute__((noinline)) pass(uint32_t now, uint16_t in) {
    uint8_t stands = in & 1;
    // A reset that is held counts once; held at power-up, not at all.
    uint8_t reset = in & 2 & ~held;
    held = in & 2;
    if (reset) {
        state = IDLE;
        tries = 0;
    }
    uint8_t pins = stands ? 0 : 1;
    if (state == IDLE) {
        if (stands) {
            state = ACTING;
            tries = 1;
            since = now;
            pins |= 2;
        }
    } else if (state == LOCKED) {
        pins = 4;
    } else {
        uint32_t lasted = now - since;
        if (state == ACTING) {
            if (lasted >= 2000) {
                state = RESTING;
                since = now;
            } else {
                pins |= 2;
            }
        } else if (lasted >= 6000) {
            if (!stands) {
                state = IDLE;
            } else if (tries == 3) {
                state = LOCKED;
                pins = 4;
            } else {
                state = ACTING;
                tries++;
                since = now;
                pins |= 2;
            }
        }
    }
#ifdef KEEPS // the port's other pins
    set_pin(0, pins & 1);
    set_pin(1, pins & 2);
    set_pin(2, pins & 4);
#else
    PORTB = pins;
#endif
}

#endif

int main(void) { FEED(pass); }
