// SPDX-License-Identifier: MIT
// The conversions as they are usually written by hand: the formula, in floating point. Inputs come
// as in bank_atmega328p.cpp, with temperature and humidity already in floating point; the marks on
// GPIOR2 are seen by the emulator only. With BANK_ONLY defined, only that conversion is compiled
// in.
#include <avr/io.h>
#include <avr/sleep.h>
#include <math.h>
#include <stdint.h>

enum {
#define COSTED(name) name,
#define BANKED(name) name,
#include "tests/chips/bank_list.h"
};

#ifdef BANK_ONLY
#define HAS(which) (BANK_ONLY == (which))
#else
#define HAS(which) 1
#endif
#define ONE(which, result)                                                                         \
    if (HAS(which) && in->which_ == (which))                                                       \
    return (result)

struct input {
    uint8_t which_;
    uint32_t now, a;
    float b, c;
    uint8_t bytes[5];
};

static volatile float sink, sink2;

static float ratio(uint16_t code) { return code / (1024.0 - code); }

static float steinhart_hart(float ohms, float a, float b, float c) {
    float l = log(ohms);
    return 1.0 / (a + b * l + c * l * l * l) - 273.15;
}

static float by_lines(float ohms) {
    static const float t[] = {-40, 0, 25, 60, 100}, r[] = {567, 815, 1000, 1299, 1696};
    uint8_t i = 0;
    while (i < 3 && ohms > r[i + 1])
        i++;
    float from = 1.0 / (t[i] + 273.15), to = 1.0 / (t[i + 1] + 273.15);
    return 1.0 / (from + (to - from) * log(ohms / r[i]) / log(r[i + 1] / r[i])) - 273.15;
}

static float ppm(uint16_t code, float factor) {
    float rs = 10000.0 / ratio(code) / factor;
    return 10.0 * pow(rs / 30000.0 / 2.6, log(200.0 / 10.0) / log(0.7 / 2.6));
}

static float climate(float t, float h) {
    static const float factors[3][2] = {{1.7, 1.5}, {1.0, 0.9}, {0.8, 0.7}};
    uint8_t i = t < 20;
    i = 1 - i;
    float along = (t - (i ? 20.0 : -10.0)) / 30.0, across = (h - 33.0) / 52.0;
    float low = factors[i][0] + (factors[i][1] - factors[i][0]) * across;
    float high = factors[i + 1][0] + (factors[i + 1][1] - factors[i + 1][0]) * across;
    return low + (high - low) * along;
}

static float by_points(uint16_t code) {
    static const float c[] = {112, 480, 700, 900}, v[] = {0, 200, 260, 350};
    uint8_t i = 0;
    while (i < 2 && code > c[i + 1])
        i++;
    return v[i] + (code - c[i]) * (v[i + 1] - v[i]) / (c[i + 1] - c[i]);
}

static float dew(float t, float h) {
    float g = log(h / 100.0) + 17.62 * t / (243.12 + t);
    return 243.12 * g / (17.62 - g);
}

static float heat(float celsius, float r) {
    float t = celsius * 1.8 + 32.0;
    float simple = 0.5 * (t + 61.0 + (t - 68.0) * 1.2 + r * 0.094);
    float out = (simple + t) / 2;
    if (out >= 80.0) {
        out = -42.379 + 2.04901523 * t + 10.14333127 * r - 0.22475541 * t * r - 0.00683783 * t * t -
              0.05481717 * r * r + 0.00122874 * t * t * r + 0.00085282 * t * r * r -
              0.00000199 * t * t * r * r;
        if (r < 13.0 && t >= 80.0 && t <= 112.0)
            out -= (13.0 - r) / 4.0 * sqrt((17.0 - fabs(t - 95.0)) / 17.0);
        else if (r > 85.0 && t >= 80.0 && t <= 87.0)
            out += (r - 85.0) / 10.0 * ((87.0 - t) / 5.0);
    }
    return (out - 32.0) / 1.8;
}

static float vapour(float t, float h) {
    return 216.68 * (h / 100.0 * 6.112 * exp(17.62 * t / (243.12 + t))) / (273.15 + t);
}

static float frame(const uint8_t* b, uint8_t whole) {
    if ((uint8_t)(b[0] + b[1] + b[2] + b[3]) != b[4])
        return -1000.0;
    if (whole) {
        sink2 = b[0] + b[1] * 0.1;
        float t = b[2] + (b[3] & 0x7f) * 0.1;
        return b[3] & 0x80 ? -t : t;
    }
    sink2 = ((uint16_t)b[0] << 8 | b[1]) * 0.1;
    float t = ((uint16_t)(b[2] & 0x7f) << 8 | b[3]) * 0.1;
    return b[2] & 0x80 ? -t : t;
}

static float rate(float now_value, uint32_t now) {
    static float values[8];
    static uint32_t times[8];
    static uint8_t next;
    if (now - times[(next + 7) & 7] >= 37500) {
        values[next] = now_value;
        times[next] = now;
        next = (next + 1) & 7;
    }
    return (now_value - values[next]) * 60000.0 / (now - times[next]);
}

static float smooth(float value, uint32_t now) {
    static float y;
    static uint32_t before;
    y += (value - y) * (1.0 - exp(-(float)(now - before) / 30000.0));
    before = now;
    return y;
}

static uint32_t last_edges, last_time;

static float __attribute__((noinline)) convert(const struct input* in) {
    uint16_t code = in->a;
    ONE(thermistor_beta, 1.0 / (1.0 / 298.15 + log(ratio(code)) / 3950.0) - 273.15);
    ONE(thermistor_points,
        steinhart_hart(10000.0 / ratio(code), 1.130313e-03, 2.339804e-04, 8.788265e-08));
    ONE(thermistor_coefficients, steinhart_hart(10000.0 * code / (1024.0 * 3.3 / 5.0 - code),
                                                1.129148e-3, 2.34125e-4, 8.76741e-8));
    ONE(thermistor_lines, by_lines(1000.0 * ratio(code)));
    ONE(linear_chip_, (code * 3.3 / 1024.0 - 0.5) / 0.01);
    ONE(photoresistor_, 10.0 * pow(10000.0 / ratio(code) / 10000.0, -1.0 / 0.7));
    ONE(phototransistor_, code * 5.0 / 1024.0 / (500e-9 * 10000.0));
    ONE(percent, (code - 60.0) * 100.0 / (910.0 - 60.0));
    ONE(humidity_chip_, (code * 5.0 / 1024.0 - 0.8) / 0.031 / (1.0 - 0.00216 * (in->b - 25.0)));
    ONE(ranger_, in->a * 331.3 * sqrt(1.0 + in->b / 273.15) / 2000.0);
    ONE(frame_tenths, frame(in->bytes, 0));
    ONE(frame_whole, frame(in->bytes, 1));
    ONE(gas, ppm(code, 1.0));
    ONE(gas_in_climate, ppm(code, climate(in->b, in->c)));
    ONE(moisture, (620.0 - code) * 100.0 / (620.0 - 210.0));
    if (HAS(rate_by_window) && in->which_ == rate_by_window) {
        float out = -1.0;
        if (in->now - last_time >= 1000) {
            out = (uint16_t)(in->a - last_edges) * 60000.0 / 2.0 / (in->now - last_time);
            last_edges = in->a;
            last_time = in->now;
        }
        return out;
    }
    ONE(rate_by_period, 60e6 / (2.0 * in->b * 1000.0));
    ONE(value_table_, by_points(code));
    ONE(smoothing, smooth(in->b, in->now));
    ONE(dew_point_, dew(in->b, in->c));
    ONE(heat_index_, heat(in->b, in->c));
    ONE(absolute_humidity_, vapour(in->b, in->c));
    ONE(difference_, in->b - in->c);
    ONE(rate_of_change, rate(in->b, in->now));
    if (HAS(mean_of_four) && in->which_ == mean_of_four) {
        static float list[4];
        list[in->now & 3] = in->b;
        return (list[0] + list[1] + list[2] + list[3]) / 4.0;
    }
    ONE(handing_over, in->b);
    ONE(air_heat_, in->a * 0.33648 * in->b);
    return 0;
}

static uint32_t get_long(void) {
    uint32_t out = 0;
    for (uint8_t i = 0; i < 4; i++)
        out |= (uint32_t)GPIOR0 << 8 * i;
    return out;
}

int main(void) {
    while (GPIOR0 != 0) {
        struct input in;
        in.which_ = GPIOR0;
        in.now = get_long();
        in.a = get_long();
        int32_t b = get_long(), c = get_long();
        in.b = b / 1000.0;
        in.c = c / 1000.0;
        for (uint8_t i = 0; i < 4; i++)
            in.bytes[i] = in.a >> (24 - 8 * i);
        in.bytes[4] = b;
        GPIOR2 = 1;
        sink = convert(&in);
        GPIOR2 = 2;
    }
    __asm__ volatile("cli");
    sleep_enable();
    sleep_cpu();
    return 0;
}
