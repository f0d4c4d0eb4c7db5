// SPDX-License-Identifier: MIT
// The heat lamp written by hand with care for a small chip: a 16-bit table in program memory with
// linear interpolation, no floating point.
#include <stdint.h>
typedef int16_t degrees; // hundredths
#define THRESHOLD 400
#define RELEASE 600
#include "twin.h"

static const int16_t table[65] PROGMEM = {
    17502, 16067, 12932, 11274, 10160, 9326,  8661,  8107,  7633,  7218,  6849,  6515,  6211,
    5930,  5669,  5425,  5196,  4979,  4772,  4575,  4387,  4205,  4030,  3860,  3696,  3536,
    3379,  3226,  3077,  2929,  2784,  2641,  2500,  2360,  2221,  2083,  1945,  1807,  1670,
    1532,  1393,  1253,  1113,  970,   825,   678,   528,   375,   217,   54,    -114,  -288,
    -471,  -663,  -867,  -1084, -1318, -1575, -1859, -2182, -2560, -3023, -3637, -4603, -4977,
};

static degrees convert(uint16_t code) {
    const int16_t* at = table + (code >> 4);
    int16_t begin = pgm_read_word(at);
    int16_t end = pgm_read_word(at + 1);
    return begin + (((end - begin) * (int16_t)(code & 15)) >> 4);
}

static uint8_t in_range(uint16_t code) { return code >= 110 && code <= 975; }

static void put_temperature(void) {
    char number[7];
    degrees value = temperature;
    if (value < 0) {
        value = -value;
        line[length++] = '-';
    }
    put_ram(itoa(value / 100, number, 10));
    uint8_t rest = value % 100;
    line[length++] = '.';
    line[length++] = '0' + rest / 10;
    line[length++] = '0' + rest % 10;
}
