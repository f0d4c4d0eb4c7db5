// SPDX-License-Identifier: MIT
// The arithmetic of the hen house's hand-written twin: the same results, bit for bit, as the
// library's.
#pragma once

#include "tests/metal/hen_house_feed.h"

// Tables of a logarithm and a power to the base 2, and of half the speed of sound.

static const __flash int16_t logs[] = {
    1,     728,   1434,  2119,  2785,  3433,  4063,  4677,  5275,  5859,  6428,
    6984,  7527,  8059,  8578,  9087,  9584,  10071, 10549, 11017, 11476, 11926,
    12368, 12802, 13228, 13646, 14057, 14461, 14858, 15249, 15634, 16012, 16384,
};
static const __flash int16_t powers[] = {
    0,     179,   359,   541,   726,   912,   1100,  1291,  1483,  1678,  1874,  2073,  2274,
    2477,  2683,  2890,  3100,  3312,  3527,  3744,  3963,  4184,  4408,  4635,  4864,  5095,
    5329,  5565,  5804,  6046,  6290,  6537,  6787,  7039,  7294,  7552,  7813,  8076,  8342,
    8612,  8884,  9159,  9437,  9718,  10003, 10290, 10580, 10874, 11171, 11471, 11774, 12081,
    12391, 12704, 13021, 13341, 13665, 13992, 14323, 14657, 14995, 15337, 15682, 16031, 16384,
};
static const __flash int16_t sounds[] = {
    -18390, -17019, -15660, -14313, -12977, -11652, -10337, -9033, -7739, -6455, -5181,
    -3916,  -2660,  -1414,  -176,   1053,   2273,   3485,   4689,  5885,  7073,  8254,
    9426,   10592,  11750,  12901,  14045,  15182,  16312,  17436, 18553, 19666,
};

/// On the line to the next entry of a table that rises, \p along in 2^-16 of it.
#define BETWEEN(at, along) ((uint32_t)(uint16_t)((at)[1] - (at)[0]) * (uint16_t)(along))

static uint16_t __attribute__((noinline)) log_of(uint16_t x) {
    uint8_t whole = 15;
    if (x < 0x100) {
        x <<= 8;
        whole = 7;
    }
    for (; !(x & 0x8000); x <<= 1)
        whole--;
    x &= 0x7fff;
    const __flash int16_t* at = logs + (x >> 10);
    uint16_t fraction = at[0] + (uint16_t)((BETWEEN(at, x << 6) + 0x8000) >> 16);
    return ((uint16_t)whole << 11) + ((fraction + 4) >> 3);
}

/// 2^(x / 2^16); of 2^23 and more, 2^23 - 1.
static uint32_t __attribute__((noinline)) power(int32_t x) {
    int8_t whole = x >> 16;
    if (x >= (int32_t)23 << 16)
        return 0x7fffff;
    if (x < 0)
        return 0;
    const __flash int16_t* at = powers + ((uint16_t)x >> 10);
    uint32_t more = BETWEEN(at, (uint16_t)x << 6) + 0x4000;
    uint32_t out = 0x8000UL + 2 * (uint16_t)at[0] + (uint16_t)(more << 1 >> 16);
    int8_t down = 15 - whole;
    if (down <= 0) {
        while (down++)
            out <<= 1;
        return out;
    }
    uint16_t narrow = out; // below 2^16
    while (--down)
        narrow >>= 1;
    return (narrow >> 1) + (narrow & 1);
}

static uint32_t by_law(uint16_t code, int16_t zero, int32_t offset, int16_t exponent) {
    int16_t log = log_of(1024 - code) - log_of(code) - zero;
    return power(offset - ((int32_t)log * exponent >> 7));
}

/// a / b where that is below 256.
static uint8_t __attribute__((noinline)) quotient(uint32_t a, uint32_t b) {
    uint8_t out = 0;
    b <<= 7;
    for (uint8_t i = 8; i; i--) {
        out <<= 1;
        if (a >= b) {
            a -= b;
            out |= 1;
        }
        b >>= 1;
    }
    return out;
}

// Smoothing of the gas over two minutes: a whole number and 2^-16 of it.

static uint32_t smooth;
static uint16_t smooth_rest;
static uint32_t smooth_at, smooth_step;
static uint16_t share;
static uint8_t share_down, smooth_runs;

static void __attribute__((noinline)) set_share(uint32_t time) {
    // Of a time in 2^-16 and a rate, 1 / 2 min in 2^-32, of 16 bits each.
#ifndef SMOOTH_EXPONENT
#define SMOOTH_EXPONENT (-16)
#endif
    int8_t exponent = SMOOTH_EXPONENT;
    if (time == 0) {
        share = 0;
        return;
    }
    while (!(time >> 24)) {
        time <<= 8;
        exponent -= 8;
    }
    while (!(time & 0x80000000)) {
        time <<= 1;
        exponent--;
    }
    uint32_t wide = (uint32_t)(uint16_t)(time >> 16) * 35791;
    exponent += 16;
    if (!(wide & 0x80000000)) {
        wide <<= 1;
        exponent--;
    }
    uint16_t u = wide >> 16;
    int8_t down = -16 - exponent;
    uint8_t doublings = 0;
    for (; down < 5; down++)
        if (++doublings > 9) {
            share = 0xffff;
            share_down = 0;
            return;
        }
    for (uint8_t doubles = 0;; doubles = 1) {
        uint16_t bend = (uint32_t)u * u >> 16;
        for (int8_t i = down; i >= 0 && bend; i--)
            bend >>= 1;
        u -= bend;
        if (doubles && --down < 0) {
            down = 0;
            u = u & 0x8000 ? 0xffff : u << 1;
        }
        if (!doublings--)
            break;
    }
    share = u;
    share_down = down;
}

static uint32_t __attribute__((noinline)) smoothed(uint32_t target) {
    uint32_t time = now - smooth_at;
    smooth_at = now;
    if (!smooth_runs) {
        smooth_runs = 1;
        smooth = target;
        smooth_rest = 0;
        return target;
    }
#ifdef SMOOTH_EVEN // passes that always come in time
    (void)time;
    share = SMOOTH_EVEN;
    share_down = 4;
#else
    if (time != smooth_step) {
        smooth_step = time;
        set_share(time);
    }
#endif
    uint8_t up = target > smooth;
    uint32_t way;
    uint16_t rest;
    if (up) {
        rest = -smooth_rest;
        way = target - smooth - (smooth_rest != 0);
    } else {
        rest = smooth_rest;
        way = smooth - target;
    }
    uint32_t all;
    if (way >> 16) {
        all = (uint32_t)(uint16_t)(way >> 16) * share + ((uint32_t)(uint16_t)way * share >> 16);
        way = all;
        rest = 0;
    } else {
        all = (uint32_t)(uint16_t)way * share + ((uint32_t)rest * share >> 16);
        way = all >> 16;
        rest = all;
    }
    uint8_t down = share_down;
    if (down >= 8) {
        down -= 8;
        rest = rest >> 8 | (uint16_t)(way << 8);
        way >>= 8;
    }
    if (down >= 8) {
        down -= 8;
        rest = rest >> 8 | (uint16_t)(way << 8);
        way >>= 8;
    }
    for (; down; down--) {
        rest = rest >> 1 | (uint16_t)(way << 15);
        way >>= 1;
    }
    if (up) {
        smooth_rest += rest;
        smooth += way + (smooth_rest < rest);
    } else {
        smooth -= way + (smooth_rest < rest);
        smooth_rest -= rest;
    }
    return smooth + (smooth_rest >> 15);
}
