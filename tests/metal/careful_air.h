// SPDX-License-Identifier: MIT
// What air is like, by hand in C, with care: dew point, water, and how hot it feels.
#pragma once

#include "tests/metal/numbers.h"
#include "tests/metal/sensor_tables.h"

/// log2 of 17 bits, in 2^-11.
static uint16_t log_of_long(uint32_t x) { return x >> 16 ? log_of(x >> 2) + 4096 : log_of(x); }

/// 17.62 t / (243.12 degC + t), in thousandths.
static int32_t magnus(int32_t t) { return t * 17620 / (243120 + t); }

static int32_t dew(int32_t t, uint32_t h) {
    // ln(h / 100 %): 0.34657 for each 2^-10 and half as much for each 2^-11 of its log2.
    int32_t g = (((int32_t)log_of_long(h) - 34016) * 693 >> 11) + magnus(t);
    return 24312 * g / (17620 - g) * 10;
}

static uint32_t vapour(int32_t t, uint32_t h) {
    uint32_t along = t + 40000;
    const __flash uint32_t* at = saturated + (along >> 11);
    uint32_t all = at[0] + ((at[1] - at[0]) * (uint16_t)(along & 0x7ff) >> 11);
    return all * (uint16_t)(h * 41 / 1000) / 4100;
}

static uint8_t root(uint16_t x) {
    uint8_t out = 0;
    for (uint8_t bit = 0x80; bit; bit >>= 1)
        if ((uint16_t)(out | bit) * (out | bit) <= x)
            out |= bit;
    return out;
}

/// In degF as it is defined: 2^-7 of a degree, and 2^-8 of a percent.
static int32_t heat(int32_t celsius, uint32_t humidity) {
    int32_t t = (celsius * 9 / 5 * 16 + 512000) / 125;
    int32_t r = humidity * 32 / 125;
    int32_t simple = (t + 7808 + (t - 8704) * 6 / 5 + r * 94 / 2000) / 2;
    int32_t f = (simple + t) / 2;
    if (f >= 10240) {
        int32_t rr = r * r >> 8;
        int32_t a = -694337 + (r * 10387 >> 4) - (rr * 449 >> 7);         // 2^-14
        int32_t b = 33571 - (r * 58918 >> 12) + ((rr >> 4) * 3577 >> 12); // 2^-14
        int32_t c = -7170 + (r * 20615 >> 12) - (rr * 534 >> 16);         // 2^-20
        int32_t d = b + ((t >> 1) * c >> 12);
        f = (a + (d * (t >> 1) >> 6)) >> 7;
        if (r < 3328 && t >= 10240 && t <= 14336) {
            int16_t off = t - 12160;
            f -= (3328 - r) * root((uint16_t)(2176 - (off < 0 ? -off : off)) * 30) >> 11;
        } else if (r > 21760 && t >= 10240 && t <= 11136) {
            f += (r - 21760) * (11136 - t) / 12800;
        }
    }
    return (f - 4096) * 625 / 144;
}

#ifdef KEEPS
/// How far along the way from one point to the next, of an axis with any points, in 2^-16.
static uint16_t __attribute__((noinline))
along(const __flash int32_t* at, const __flash uint32_t* inverse, uint8_t count, int32_t value,
      uint8_t* place) {
    uint8_t i = 0;
    while (i + 2 < count && value >= at[i + 1])
        i++;
    *place = i;
    if (value <= at[i])
        return 0;
    return value >= at[i + 1] ? 0xffff : (value - at[i]) * inverse[i] >> 16;
}
/// log2 of the climate's factor in 2^-11, between those of three temperatures and two humidities.
static int16_t climate_log(int32_t t, uint32_t h) {
    static const __flash int16_t logs[][2] = {{1568, 1198}, {0, -311}, {-659, -1054}};
    static const __flash int32_t warmths[] = {-10000, 20000, 50000}, damps[] = {33000, 85000};
    static const __flash uint32_t by_warmth[] = {143165, 143165}, by_damp[] = {82595};
    uint8_t row, column;
    uint16_t up = along(warmths, by_warmth, 3, t, &row) >> 1;
    uint16_t across = along(damps, by_damp, 2, h, &column) >> 1;
    const __flash int16_t* at = logs[row] + column;
    int16_t low = at[0] + (int16_t)((int32_t)(int16_t)(at[1] - at[0]) * (int16_t)across >> 15);
    int16_t high = at[2] + (int16_t)((int32_t)(int16_t)(at[3] - at[2]) * (int16_t)across >> 15);
    return low + (int16_t)((int32_t)(int16_t)(high - low) * (int16_t)up >> 15);
}
#else
static uint32_t product16(uint16_t a, uint16_t b) { return (uint32_t)a * b; }

/// log2 of the climate's factor in 2^-11, between those of three temperatures and two humidities.
static int16_t climate_log(int32_t t, uint32_t h) {
    static const __flash int16_t logs[][2] = {{1568, 1198}, {0, -311}, {-659, -1054}};
    uint16_t u = t < -10000 ? 0 : t > 50000 ? 60000 : (uint16_t)(t + 10000);
    uint16_t w = h < 33000 ? 0 : h > 85000 ? 52000 : (uint16_t)(h - 33000);
    const __flash int16_t* row = logs[0];
    if (u >= 30000) {
        u -= 30000;
        row += 2;
    }
    // All of them fall.
    uint16_t across = product16(w, 41298) >> 16, along = product16(u, 35791) >> 15;
    int16_t low = row[0] - (int16_t)(product16(row[0] - row[1], across) >> 15);
    int16_t high = row[2] - (int16_t)(product16(row[2] - row[3], across) >> 15);
    return low - (int16_t)(product16(low - high, along) >> 15);
}
#endif
