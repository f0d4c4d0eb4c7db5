// SPDX-License-Identifier: MIT
// The heat lamp as it is usually written by hand: in floating point, with a logarithm.
typedef float degrees;
#define THRESHOLD 4.0
#define RELEASE 6.0
#include "twin.h"

#include <math.h>

static degrees convert(uint16_t code) {
    float resistance = 10000.0 * code / (1024.0 - code);
    return 1.0 / (1.0 / 298.15 + log(resistance / 10000.0) / 3950.0) - 273.15;
}

static uint8_t in_range(uint16_t code) {
    (void)code;
    return temperature >= -30.0 && temperature <= 80.0;
}

static void put_temperature(void) {
    char number[14];
    put_ram(dtostrf(temperature, 1, 3, number));
}
