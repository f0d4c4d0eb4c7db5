// SPDX-License-Identifier: MIT
// Conversions by hand in C, with care: integers, tables, faults of the wire seen. Inputs come as in
// bank_atmega328p.cpp; the marks on GPIOR2 are seen by the emulator only. BANK_ONLY says which.
#include <avr/io.h>
#include <avr/sleep.h>
#include <stdint.h>

static uint32_t now;
#define SMOOTH_EXPONENT (-14) // 30 s
#include "tests/metal/careful_air.h"

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
    WARMING,
    BAD_FRAME = 7,
    NO_ECHO,
    TOO_NEAR,
    TOO_FAR
};

/// Of a sensor that pulls to the supply when its wire is off, or to ground; `bottom` and `top` are
/// its last codes that are none of a wire's faults.
static inline uint8_t fault_between(uint16_t code, uint16_t first, uint16_t last, uint16_t bottom,
                                    uint16_t top, uint8_t open_at_top) {
    if (code >= first && code <= last)
        return OK;
    if (code >= bottom && code <= top)
        return OUT_OF_RANGE;
    return (code > top) == open_at_top ? OPEN_CIRCUIT : SHORT_CIRCUIT;
}
static inline uint8_t fault_of(uint16_t code, uint16_t first, uint16_t last, uint8_t open_at_top) {
    return fault_between(code, first, last, 8, 1015, open_at_top);
}
static inline uint8_t fault_of_air(int32_t t, int32_t coldest, int32_t hottest, int32_t h,
                                   int32_t driest) {
    return t < coldest || t > hottest || h < driest || h > 100000 ? OUT_OF_RANGE : OK;
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

/// \p table begins at the code \p first, and has an entry each 2^\p step codes.
static inline int32_t from_table(const __flash int16_t* table, uint16_t first, uint8_t step,
                                 uint16_t code) {
    const __flash int16_t* at = table + ((uint16_t)(code - first) >> step);
    int16_t begin = at[0], rise = (at[1] - begin) * (int16_t)(code & ((1 << step) - 1));
    return (int32_t)(begin + (rise >> step)) * 4;
}

/// a * 1000 / b, with its thousandths.
static uint32_t thousandths_of(uint32_t a, uint32_t b) {
    for (; b > 4000000; b >>= 1)
        a >>= 1;
    return a / b * 1000 + a % b * 1000 / b;
}

/// A change in a minute, over the last 5 min in eight steps.
static int32_t rate(int32_t value, uint8_t ill) {
    static struct {
        int32_t value;
        uint32_t at;
    } past[8];
    static uint8_t next, count;
    out.health = ill;
    if (ill) {
        count = 0;
        return 0;
    }
    uint8_t last = (next - 1) & 7;
    if (!count || now - past[last].at >= 37500) {
        past[next].value = value;
        past[next].at = now;
        next = (next + 1) & 7;
        if (count < 8)
            count++;
    }
    uint8_t first = (next - count) & 7;
    // Behind a pause the oldest ones are too old.
    for (; count > 1 && now - past[(first + 1) & 7].at >= 300000; count--)
        first = (first + 1) & 7;
    int32_t rise = value - past[first].value;
    uint32_t time = now - past[first].at, size = rise < 0 ? -rise : rise;
    if (time < 225000) {
        out.health = MISSING;
        return 0;
    }
    size = size < 71582 ? size * 60000 / time : (size >> 4) * 60000 / (time >> 4);
    return rise < 0 ? -size : size;
}

static void __attribute__((noinline)) convert(const struct input* in) {
    uint16_t code = in->a;
    switch (BANK_ONLY) {
    case thermistor_beta:
        out.health = in->a > 0xffff ? MISSING : fault_of(code, 116, 975, 1);
        if (out.health == OK)
            out.value = from_table(degrees, 0, 3, code);
        break;
    case thermistor_points:
        out.health = in->a > 0xffff ? MISSING : fault_of(code, 73, 925, 0);
        if (out.health == OK)
            out.value = from_table(by_points, 72, 3, code);
        break;
    case thermistor_coefficients:
        out.health = in->a > 0xffff ? MISSING : fault_between(code, 135, 572, 5, 669, 1);
        if (out.health == OK)
            out.value = from_table(by_coefficients, 128, 3, code);
        break;
    case thermistor_lines:
        out.health = in->a > 0xffff ? MISSING : fault_of(code, 371, 676, 1);
        if (out.health == OK)
            out.value = from_table(by_lines, 368, 2, code);
        break;
    case phototransistor_:
        out.health = in->a > 0xffff ? MISSING : fault_of(code, 11, 972, 0);
        if (out.health == OK)
            out.value = ((uint32_t)code * 62500 + 32) >> 6;
        break;
    case humidity_chip_: {
        out.health = in->a > 0xffff ? MISSING : fault_of(code, 133, 830, 1);
        if (out.health == OK && (in->b < -40000 || in->b > 85000))
            out.health = OUT_OF_RANGE;
        if (out.health != OK)
            break;
        int32_t raw = (int32_t)((uint32_t)code * 40323 >> 8) - 25806;
        // 1 / (1 - x) by its series, in 2^-16.
        int16_t x = (in->b - 25000) * 145 >> 10, xx = (int32_t)x * x >> 16;
        int16_t more =
            x + xx + (int16_t)((int32_t)xx * x >> 16) + (int16_t)((int32_t)xx * xx >> 16);
        out.value = raw + (raw * more >> 16);
        if (out.value < -10000 || out.value > 110000)
            out.health = OUT_OF_RANGE;
        // A part is a little off at its ends.
        out.value = out.value < 0 ? 0 : out.value > 100000 ? 100000 : out.value;
        break;
    }
    case frame_whole: {
        const uint8_t* b = in->bytes;
        uint8_t tenth = b[3] & 0x7f, below = b[3] & 0x80;
        if (!(b[0] | b[1] | b[2] | b[3]) || b[4] != (uint8_t)(b[0] + b[1] + b[2] + b[3]) ||
            b[1] > 9 || tenth > 9) {
            out.health = BAD_FRAME;
            break;
        }
        uint16_t wet = b[0] * 10 + b[1], size = b[2] * 10 + tenth;
        if (wet > 1000 || size > (below ? 400 : 800)) {
            out.health = OUT_OF_RANGE;
            break;
        }
        out.health = OK;
        out.second = (int32_t)size * 100;
        if (below)
            out.second = -out.second;
        out.value = (uint32_t)wet * 100;
        break;
    }
    case value_table_:
        out.health = in->a > 0xffff ? MISSING : fault_of(code, 112, 900, 1);
        if (out.health != OK)
            break;
        out.value = code < 480   ? ((uint32_t)(uint16_t)(code - 112) * 139130 + 128) >> 8
                    : code < 700 ? 200000 + (((uint16_t)(code - 480) * 69818UL + 128) >> 8)
                                 : 260000 + (uint32_t)(uint16_t)(code - 700) * 450;
        break;
    case rate_by_window: {
        static uint32_t began;
        static uint16_t edges;
        static uint8_t runs;
        uint32_t time = now - began;
        out.health = runs && time >= 1000 ? OK : MISSING;
        if (!runs || time >= 1000) {
            if (runs)
                out.value = thousandths_of((uint32_t)(uint16_t)(in->a - edges) * 30000, time);
            if (out.value > 50000000)
                out.health = OUT_OF_RANGE;
            runs = 1;
            began = now;
            edges = in->a;
        }
        break;
    }
    case rate_by_period:
        out.health = in->b > 0 ? OK : MISSING;
        if (in->b > 0)
            out.value = thousandths_of(30000000, in->b);
        break;
    case dew_point_:
        out.health = fault_of_air(in->b, -40000, 60000, in->c, 1000);
        if (out.health == OK)
            out.value = dew(in->b, in->c);
        break;
    case heat_index_:
        out.health = fault_of_air(in->b, 0, 45000, in->c, 0);
        if (out.health == OK)
            out.value = heat(in->b, in->c);
        break;
    case absolute_humidity_:
        out.health = fault_of_air(in->b, -40000, 60000, in->c, 0);
        if (out.health == OK)
            out.value = vapour(in->b, in->c);
        break;
    case rate_of_change: out.value = rate(in->b, in->c); break;
    case linear_chip_:
        out.health = in->a > 0xffff ? MISSING : fault_of(code, 32, 543, 1);
        if (out.health == OK)
            out.value = (int32_t)(((uint32_t)code * 20625 + 32) >> 6) - 50000;
        break;
    case percent:
        out.health = in->a > 0xffff ? MISSING : fault_of(code, 8, 995, 1);
        if (out.health != OK)
            break;
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
        if (width == 0 || width >= 36000) {
            out.health = NO_ECHO;
            break;
        }
        uint16_t along = (uint32_t)(in->b + 40000) >> 1;
        const __flash int16_t* line = sounds + (along >> 11);
        uint16_t half =
            (19 << 10) + line[0] + (int16_t)((BETWEEN(line, along << 5) + 0x8000) >> 16);
        out.value = (uint32_t)width * 152 + (((uint32_t)width * half + 512) >> 10);
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
    case gas_in_climate:
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
        if (out.health == OK && !warm)
            out.health = WARMING;
        if (out.health == OK) {
            int16_t zero = 3246;
            if (BANK_ONLY == gas_in_climate)
                zero += climate_log(in->b, in->c);
            out.value = by_law(code, zero, 1077071, 9351);
            if (out.value < 500 || out.value > 500000)
                out.health = OUT_OF_RANGE;
        }
        break;
    }
    case mean_of_four: {
        static int32_t list[4];
        static uint8_t ills[4] = {MISSING, MISSING, MISSING, MISSING};
        uint8_t place = now & 3;
        ills[place] = in->c;
        list[place] = in->b;
        out.health = ills[0] ? ills[0] : ills[1] ? ills[1] : ills[2] ? ills[2] : ills[3];
#ifdef KEEPS // however large they are
        uint32_t low = 2;
        int32_t high = 0;
        for (uint8_t i = 0; i < 4; i++) {
            low += (uint16_t)list[i];
            high += (int16_t)(list[i] >> 16);
        }
        out.value = ((high >> 2) << 16) + ((((uint32_t)high & 3) << 16) + low >> 2);
#else
        out.value = (list[0] + list[1] + list[2] + list[3] + 2) >> 2;
#endif
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
        for (uint8_t i = 0; i < 4; i++)
            GPIOR1 = (uint32_t)out.value >> 8 * i;
        GPIOR1 = out.health;
        out.health = OK;
    }
    __asm__ volatile("cli");
    sleep_enable();
    sleep_cpu();
}
