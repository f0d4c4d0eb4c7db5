// SPDX-License-Identifier: MIT
// Conversions by hand in C, with care: integers, tables, faults of the wire seen. Inputs come as in
// bank_atmega328p.cpp; the marks on GPIOR2 are seen by the emulator only. BANK_ONLY says which.
#include <avr/io.h>
#include <avr/sleep.h>
#include <stdint.h>

static uint32_t now;
#include "tests/metal/numbers.h"

enum {
#define COSTED(name) name,
#define BANKED(name) name,
#include "tests/chips/bank_list.h"
};

struct input {
    uint32_t a;
    int32_t b, c;
    uint8_t bytes[5];
};
static struct {
    int32_t value, second;
    uint8_t health;
} out;
enum {
    OK,
    MISSING,
    OPEN_CIRCUIT,
    SHORT_CIRCUIT,
    OUT_OF_RANGE,
    BAD_FRAME = 7,
    NO_ECHO,
    TOO_NEAR,
    TOO_FAR
};

/// Of a sensor that pulls to the supply when its wire is off, or to ground.
static inline uint8_t fault_of(uint16_t code, uint16_t first, uint16_t last, uint8_t open_at_top) {
    if (code >= first && code <= last)
        return OK;
    if (code >= 8 && code <= 1015)
        return OUT_OF_RANGE;
    return (code > 1015) == open_at_top ? OPEN_CIRCUIT : SHORT_CIRCUIT;
}

// In 4 mK, each 8 codes.
static const __flash int16_t degrees[] = {
    32767, 32767, 32767, 32767, 32330, 30014, 28185, 26678, 25400,  24292,  23315,  22441, 21651,
    20931, 20268, 19654, 19083, 18548, 18046, 17571, 17122, 16695,  16288,  15899,  15527, 15169,
    14825, 14493, 14173, 13864, 13564, 13273, 12990, 12715, 12447,  12186,  11931,  11682, 11439,
    11200, 10967, 10738, 10513, 10292, 10075, 9861,  9651,  9444,   9239,   9038,   8839,  8642,
    8448,  8256,  8066,  7878,  7691,  7506,  7323,  7141,  6961,   6782,   6603,   6426,  6250,
    6075,  5900,  5726,  5552,  5379,  5207,  5034,  4862,  4690,   4518,   4347,   4174,  4002,
    3829,  3656,  3483,  3309,  3134,  2958,  2781,  2604,  2425,   2245,   2063,   1880,  1695,
    1509,  1320,  1130,  936,   741,   542,   341,   136,   -72,    -284,   -500,   -721,  -947,
    -1178, -1415, -1658, -1908, -2167, -2433, -2710, -2997, -3296,  -3608,  -3936,  -4282, -4648,
    -5037, -5455, -5907, -6400, -6945, -7558, -8261, -9093, -10124, -11507, -13707, -19350};

static void __attribute__((noinline)) convert(const struct input* in) {
    uint16_t code = in->a;
    switch (BANK_ONLY) {
    case thermistor_beta:
        out.health = in->a > 0xffff ? MISSING : fault_of(code, 29, 997, 1);
        if (out.health == OK) {
            const __flash int16_t* at = degrees + (code >> 3);
            int16_t begin = at[0], rise = (at[1] - begin) * (int16_t)(code & 7);
            out.value = (int32_t)(begin + (rise >> 3)) * 4;
        }
        break;
    case linear_chip_:
        out.health = in->a > 0xffff ? MISSING : fault_of(code, 31, 543, 0);
        if (out.health == OK)
            out.value = (int32_t)(((uint32_t)code * 20625 + 32) >> 6) - 50000;
        break;
    case percent:
        out.health = in->a > 0xffff ? MISSING : OK;
        out.value = code <= 60    ? 0
                    : code >= 910 ? 100000
                                  : (int32_t)(((uint32_t)(uint16_t)(code - 60) * 30118 + 128) >> 8);
        break;
    case photoresistor_:
        out.health = in->a > 0xffff ? MISSING : fault_of(code, 112, 999, 0);
        if (out.health == OK)
            out.value = by_law(code, 0, 870824, 5851);
        break;
    case ranger_: {
        uint16_t width = in->a;
        if (in->b < -40000 || in->b > 85000) {
            out.health = OUT_OF_RANGE;
            break;
        }
        if (width >= 36000) {
            out.health = NO_ECHO;
            break;
        }
        uint16_t along = (uint32_t)(in->b + 40000) >> 1;
        const __flash int16_t* line = sounds + (along >> 11);
        int16_t half = line[0] + (int16_t)((BETWEEN(line, along << 5) + 0x8000) >> 16);
        int32_t more = (int32_t)((int16_t)(width >> 1)) * half * 2;
        if (width & 1)
            more += half;
        out.value = (uint32_t)width * 171 + (uint32_t)((more + 512) >> 10);
        out.health = out.value < 20000 ? TOO_NEAR : out.value > 4000000 ? TOO_FAR : OK;
        break;
    }
    case frame_tenths: {
        const uint8_t* b = in->bytes;
        uint16_t wet = (uint16_t)b[0] << 8 | b[1], size = (uint16_t)(b[2] & 0x7f) << 8 | b[3];
        uint8_t below = b[2] & 0x80;
        if (!(b[0] | b[1] | b[2] | b[3]) || b[4] != (uint8_t)(b[0] + b[1] + b[2] + b[3])) {
            out.health = BAD_FRAME;
        } else if (wet > 1000 || size > (below ? 400 : 800)) {
            out.health = OUT_OF_RANGE;
        } else {
            out.health = OK;
            out.second = (int32_t)size * 100;
            if (below)
                out.second = -out.second;
            out.value = (uint32_t)wet * 100;
        }
        break;
    }
    case gas: {
        static uint32_t since;
        static uint8_t runs, warm;
        if (!runs) {
            runs = 1;
            since = now;
        }
        if (!warm && (int32_t)(now - since) >= 3000)
            warm = 1;
        out.health = in->a > 0xffff ? MISSING : fault_of(code, 4, 1019, 0);
        if (out.health == OK && warm) {
            out.value = by_law(code, 3246, 1077071, 9351);
            if (out.value < 500 || out.value > 500000)
                out.health = OUT_OF_RANGE;
        }
        break;
    }
    case mean_of_four: {
        static int32_t list[4];
        static uint8_t next;
        list[next] = in->b;
        next = (next + 1) & 3;
        out.value = (list[0] + list[1] + list[2] + list[3] + 2) >> 2;
        break;
    }
    case smoothing: out.value = smoothed(in->b); break;
    default: out.value = in->b;
    }
}

static uint32_t get_long(void) {
    uint32_t number = 0;
    for (uint8_t i = 0; i < 4; i++)
        number |= (uint32_t)GPIOR0 << 8 * i;
    return number;
}

int main(void) {
    while (GPIOR0 != 0) {
        struct input in;
        (void)GPIOR0;
        now = get_long();
        in.a = get_long();
        in.b = get_long();
        in.c = get_long();
        for (uint8_t i = 0; i < 4; i++)
            in.bytes[i] = in.a >> (24 - 8 * i);
        in.bytes[4] = in.b;
        GPIOR2 = 1;
        convert(&in);
        __asm__ volatile("" : : "r"(&out) : "memory");
        GPIOR2 = 2;
    }
    __asm__ volatile("cli");
    sleep_enable();
    sleep_cpu();
}
