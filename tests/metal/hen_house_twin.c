// SPDX-License-Identifier: MIT
// The hen house by hand, with all the care that integer C takes: only what the outputs need is
// kept, thresholds of the roost are codes, the speed of sound is worked out once a frame, no 64-bit
// number, no division. It sets the same outputs, bit for bit, as examples/hen_house does; so where
// a value goes into a duty, its arithmetic is that of the library, and only that.
#include "tests/metal/hen_house_feed.h"
#include "tests/metal/numbers.h"

enum { NO, UNKNOWN, YES };
#define OR_UNKNOWN(known, truth) ((known) ? (truth) ? YES : NO : UNKNOWN)
#define LASTED(since, time) ((int32_t)(now - (since)) >= (int32_t)(time))

static uint8_t runs; // past its first pass

// --- Parts

struct button {
    uint32_t since;
    uint8_t truth, level, moving;
};
static struct button air_button = {0, UNKNOWN, 2, 0}, hush_button = {0, UNKNOWN, 2, 0};

/// Pressed is low. A level that was not read is 2 or more.
static uint8_t __attribute__((noinline)) pressed(struct button* b, uint8_t level) {
    if (level > 1) {
        b->moving = 1;
        b->level = 2;
        return b->truth = UNKNOWN;
    }
    if (level != b->level) {
        b->level = level;
        b->since = now;
        b->moving = 1;
    }
    if (b->moving && LASTED(b->since, 20)) {
        b->moving = 0;
        b->truth = level ? NO : YES;
    }
    return b->truth;
}

struct relay {
    uint32_t since;
    uint8_t on, served;
};
static struct relay lamp, valve;

/// \param wish  0: off, 1: on, 2: off at once
static inline void __attribute__((always_inline))
drive(struct relay* r, uint8_t wish, uint8_t blocked, uint32_t min_on, uint32_t min_off,
      uint32_t longest) {
    uint32_t held = now - r->since;
    if (!r->served)
        r->served = held >= (r->on ? min_on : min_off);
    if (r->on) {
        if (wish == 1 ? held < longest : !r->served && wish != 2)
            return;
        r->on = 0;
    } else {
        if (wish != 1 || blocked || !r->served)
            return;
        r->on = 1;
    }
    r->since = now;
    r->served = 0;
}

struct fade {
    uint32_t stepped;
    uint8_t value;
};

/// \param each, rest  the time of a whole swing, divided by 255
static void __attribute__((noinline))
fade_to(struct fade* f, uint8_t want, uint32_t swing, uint16_t each, uint8_t rest) {
    uint8_t have = f->value;
    uint8_t gap = have < want ? want - have : have - want;
    if (gap) {
        uint32_t spent = now - f->stepped;
        uint8_t steps = spent >= swing ? 255 : quotient(spent * 255, swing);
        if (gap > steps) {
            if (steps) {
                f->value = have < want ? have + steps : have - steps;
                uint16_t up = steps * rest + 254;
                f->stepped += (uint32_t)each * steps + ((uint16_t)(up + 1 + (up >> 8)) >> 8);
            }
            return;
        }
    }
    f->value = want;
    f->stepped = now;
}

struct rounds {
    uint32_t begun;
    uint8_t second, runs;
};

/// Two steps over and over: whether it is the second. Only while it runs.
static uint8_t __attribute__((noinline))
round_of(struct rounds* r, uint16_t first, uint16_t other) {
    if (!r->runs) {
        r->runs = 1;
        r->begun = now;
        r->second = 0;
    }
    uint32_t total = (uint32_t)first + other;
    while (now - r->begun >= total)
        r->begun += total;
    for (;;) {
        uint16_t step = r->second ? other : first;
        if (now - r->begun < step)
            return r->second;
        r->begun += step;
        r->second ^= 1;
    }
}

// --- The device

static uint8_t cold, low, damp, foul, dusk, night;
static uint32_t started, frame_at, good_at;
static uint8_t warm, good, held;
static uint16_t half_sound; // beyond 152 um/us, in 2^-10
static uint16_t humidity;
static uint8_t air, air_settled, glow, glow_settled;
static uint32_t trouble_since;
static uint8_t trouble, trouble_waits;
static uint8_t state;
static uint32_t state_since;
static uint32_t hand_since;
static uint8_t hand, air_was = 1, hush_was = 1;
static struct fade dusk_lamp, fan;
static uint32_t fan_since;
static uint8_t fan_drives, fan_kicks;
static struct rounds beeps, flashes;
static uint16_t tone;
static uint8_t red, green = 255, blue;

static void take_frame(const struct inputs* in) {
    if (in->frame <= 1) {
        frame_at = now;
        const uint8_t* b = in->bytes;
        uint16_t wet = (uint16_t)b[0] << 8 | b[1], size = (uint16_t)(b[2] & 0x7f) << 8 | b[3];
        uint8_t below = b[2] & 0x80;
        if (in->frame == 1 && b[0] | b[1] | b[2] | b[3] &&
            b[4] == (uint8_t)(b[0] + b[1] + b[2] + b[3]) && wet <= 1000 &&
            size <= (below ? 400 : 800)) {
            good = 1;
            held = 0;
            good_at = now;
            humidity = wet;
            uint16_t at = 20000 + (below ? -(int16_t)size : (int16_t)size) * 50;
            const __flash int16_t* line = sounds + (at >> 11);
            half_sound = (19 << 10) + line[0] + (int16_t)((BETWEEN(line, at << 5) + 0x8000) >> 16);
        } else {
            if (good)
                held = 1;
            good = 0;
        }
    } else if ((int32_t)(now - frame_at) > 70000) {
        good = held = 0;
    }
    if (held && (int32_t)(now - good_at) > 30000)
        held = 0;
}

static void __attribute__((noinline)) pass(void) {
    const struct inputs* in = &fed;
    if (!runs) {
        runs = 1;
        started = frame_at = state_since = lamp.since = valve.since = dusk_lamp.stepped = now;
    }

    uint8_t roost_is_good = in->roost >= 116 && in->roost <= 975;
    if (roost_is_good) {
        if (in->roost >= 750)
            cold = 1;
        else if (in->roost <= 728)
            cold = 0;
    }
    uint8_t too_cold = OR_UNKNOWN(roost_is_good, cold);

    uint8_t light_is_good = in->yard >= 40 && in->yard <= 1005;
    if (light_is_good) {
        uint32_t lux = by_law(in->yard, 0, 870824, 5851);
        if (dusk ? lux <= 700 || lux >= 40000 : lux >= 1000 && lux <= 30000)
            dusk ^= 1;
        night = night ? lux < 3000 : lux < 1000;
        uint8_t want, end = 1;
        if (lux <= 1000) {
            want = 13;
        } else if (lux >= 30000) {
            want = 179;
        } else {
            want = 13 + quotient((lux - 1000) * 166 + 14500, 29000);
            end = 0;
        }
        uint8_t gap = want < glow ? glow - want : want - glow;
        if (!glow_settled || end || gap >= 5)
            glow = want;
    }
    glow_settled = light_is_good;

    take_frame(in);
    uint8_t bed_is_good = good | held;
    if (bed_is_good)
        damp = damp ? humidity > 600 : humidity > 800;
    uint8_t too_damp = OR_UNKNOWN(bed_is_good, damp);

    uint8_t gap_is_good = 0;
    if (bed_is_good && in->echo == 1 && in->width < 36000) {
        uint16_t width = in->width;
        uint32_t um = (uint32_t)width * 152 + (((uint32_t)width * half_sound + 512) >> 10);
        if (um >= 20000 && um <= 4000000) {
            gap_is_good = 1;
            low = low ? um > 300000 : um > 600000;
        }
    }

    if (!warm && LASTED(started, 300000))
        warm = 1;
    uint8_t gas_is_good = 0;
    if (in->gas >= 4 && in->gas <= 1019 && warm) {
        uint32_t ppm = by_law(in->gas, 3246, 1077071, 9351);
        if (ppm >= 500 && ppm <= 300000) {
            gas_is_good = 1;
            ppm = smoothed(ppm);
            foul = foul ? ppm > 8000 : ppm > 20000;
            uint8_t want, end = 1;
            if (ppm <= 5000) {
                want = 51;
            } else if (ppm >= 40000) {
                want = 255;
            } else {
                end = 0;
                want = ppm < 20000 ? 51 + quotient((ppm - 5000) * 102 + 7500, 15000)
                                   : 153 + quotient((ppm - 20000) * 102 + 10000, 20000);
            }
            if (want < 64)
                want = 64;
            uint8_t gap = want < air ? air - want : want - air;
            if (!air_settled || end || gap >= 10)
                air = want;
        }
    }
    if (!gas_is_good)
        smooth_runs = 0;
    air_settled = gas_is_good;

    uint8_t wants_air = pressed(&air_button, in->air), hushes = 0;
    uint8_t truth = pressed(&hush_button, in->hush);
    if (truth != UNKNOWN) {
        hushes = truth == YES && !hush_was;
        hush_was = truth == YES;
    }

    uint8_t broken = !(roost_is_good && gap_is_good && bed_is_good && gas_is_good);
    if (broken == trouble) {
        trouble_waits = 0;
    } else if (!broken) {
        trouble = trouble_waits = 0;
    } else {
        if (!trouble_waits) {
            trouble_waits = 1;
            trouble_since = now;
        }
        if (LASTED(trouble_since, 360000)) {
            trouble = 1;
            trouble_waits = 0;
        }
    }
    uint8_t next = state;
    switch (state) {
    case 0:
        if (trouble)
            next = 1;
        break;
    case 1:
        if (!trouble)
            next = 0;
        else if (LASTED(state_since, 600000))
            next = 2;
        break;
    case 2:
        if (hushes)
            next = 3;
        break;
    default:
        if (!trouble)
            next = 0;
    }
    if (next != state) {
        state = next;
        state_since = now;
    }

    uint8_t dries = low && gap_is_good && roost_is_good;
    drive(&lamp,
          dries                 ? 0
          : too_cold == YES     ? 1
          : too_cold == UNKNOWN ? 2
                                : 0,
          valve.on, 120000, 300000, 21600000);
    drive(&valve, !gap_is_good ? 2 : low, lamp.on, 0, 60000, 1200000);

    fade_to(&dusk_lamp, light_is_good && dusk ? glow : 0, 30000, 117, 165);

    uint8_t took = 0;
    if (wants_air != UNKNOWN) {
        took = wants_air == YES && !air_was;
        air_was = wants_air == YES;
    }
    if (hand && LASTED(hand_since, 900000)) {
        hand = 0;
    } else if (took) {
        hand ^= 1;
        hand_since = now;
    }
    uint8_t wish;
    if (hand)
        wish = 255;
    else if (!gas_is_good)
        wish = 128;
    else if (foul)
        wish = air;
    else if (too_damp == NO || too_cold == YES)
        wish = 0;
    else if (too_damp == UNKNOWN || too_cold == UNKNOWN)
        wish = 128;
    else
        wish = 102;
    if (!wish) {
        fan_drives = fan.value = 0;
    } else {
        if (!fan_drives) {
            fan_drives = fan_kicks = 1;
            fan_since = now;
        }
        if (fan_kicks && !LASTED(fan_since, 500)) {
            fan.value = 255;
            fan.stepped = now;
        } else {
            if (fan_kicks && fan.value == 0)
                fan.stepped = now;
            fan_kicks = 0;
            fade_to(&fan, wish, 8000, 31, 95);
        }
    }

    tone = red = green = blue = 0;
    if (state == 2) {
        if (!round_of(&beeps, 10000, 20000) && light_is_good && !night)
            tone = 880;
        if (!round_of(&flashes, 5000, 5000))
            red = 255;
    } else {
        beeps.runs = flashes.runs = 0;
        if (state == 3)
            red = 255;
        else if (state == 1)
            red = blue = 255;
        else if (hand)
            blue = 255;
        else
            green = 255;
    }
}

#ifndef WITH_PINS
static void report(void) {
    GPIOR1 = state;
    GPIOR1 = lamp.on;
    GPIOR1 = valve.on;
    GPIOR1 = dusk_lamp.value;
    GPIOR1 = fan.value;
    GPIOR1 = tone;
    GPIOR1 = tone >> 8;
    GPIOR1 = red;
    GPIOR1 = green;
    GPIOR1 = blue;
}

int main(void) { FEED_HOUSE(pass, report); }
#endif
