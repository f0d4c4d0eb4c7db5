// SPDX-License-Identifier: MIT
// The device of bay.toml by hand, pins included: a millisecond clock whose counts of 4 us time the
// echo, 16-bit arithmetic on those counts, registers written as they are. What ./dev metal compares
// the library with. The marks on GPIOR2 are seen by the emulator only and cost one cycle each.
#define F_CPU 16000000UL
#include <avr/interrupt.h>
#include <avr/io.h>
#include <avr/sleep.h>
#include <avr/wdt.h>
#include <stdint.h>
#include <util/delay.h>

#define MARK(what) (GPIOR2 = (what))

// Counts of 4 us there and back, at 343.2 m/s.
#define COUNTS_OF_MM(mm) ((uint16_t)((mm) / 0.68642 + 0.5))
#define SAFE 77    // 30 %
#define SLOPE 5338 // 178 of 255 over 1.5 m, for each count, times 65536

static volatile uint16_t milliseconds;
ISR(TIMER0_COMPA_vect) { milliseconds++; }

#define MILLISECONDS milliseconds
#include "tests/metal/echo_twin.h"

static uint8_t near, pressed, seen;

static void pass(void) {
    uint8_t was_heard;
    uint16_t counts;
    cli();
    was_heard = heard;
    counts = width;
    heard = 0;
    sei();
    PORTD |= 1 << PD7;
    _delay_us(10);
    PORTD &= ~(1 << PD7);

    uint8_t is = SAFE, sounds = 0;
    if (was_heard && counts >= COUNTS_OF_MM(20) && counts <= COUNTS_OF_MM(4000)) {
        near = counts < (near ? COUNTS_OF_MM(450) : COUNTS_OF_MM(400));
        sounds = near;
        if (counts <= COUNTS_OF_MM(500))
            is = 255;
        else if (counts < COUNTS_OF_MM(2000))
            is = 255 - (uint8_t)(((uint32_t)(uint16_t)(counts - COUNTS_OF_MM(500)) * SLOPE) >> 16);
    }
    // A contact bounces: two passes have to agree.
    uint8_t level = PINC & 1 << PC3;
    if (level == seen)
        pressed = !level;
    seen = level;
    if (pressed)
        is = 255;
    OCR1A = is;
    TCCR2A = sounds ? 1 << COM2B0 | 1 << WGM21 : 1 << WGM21;
}

int main(void) {
    wdt_reset();
    MCUSR = 0;
    DDRB = 1 << PB1;
    DDRD = 1 << PD3 | 1 << PD7;
    PORTC = 1 << PC3;
    wdt_enable(WDTO_250MS);
    TCCR0A = 1 << WGM01;
    OCR0A = 249;
    TCCR0B = 1 << CS01 | 1 << CS00;
    TIMSK0 = 1 << OCIE0A;
    TCCR1A = 1 << COM1A1 | 1 << WGM10;
    TCCR1B = 1 << WGM12 | 1 << CS11;
    OCR2A = OCR2B = 141; // 880.3 Hz
    TCCR2A = 1 << WGM21;
    TCCR2B = 1 << CS22;
    EICRA = 1 << ISC00;
    EIMSK = 1 << INT0;
    set_sleep_mode(SLEEP_MODE_IDLE);
    sleep_enable();
    sei();
    uint16_t next = 0;
    for (;;) {
        cli();
        uint16_t now = milliseconds;
        sei();
        if ((int16_t)(now - next) >= 0) {
            next += 100;
            MARK(1);
            pass();
            MARK(2);
            wdt_reset();
        }
        sleep_cpu();
    }
}
