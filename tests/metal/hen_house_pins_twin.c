// SPDX-License-Identifier: MIT
// The whole hen house by hand, pins included: its converter goes round by interrupts, edges are
// timed by the counts of the millisecond clock, registers are written as they are. With KEEPS edges
// are kept in a log and looked at between passes, so that no edge waits for another to be decoded.
// With TELLS it leaves what it has read where a rehearsal looks for it; measured is without.
#define F_CPU 16000000UL
#define WITH_PINS
#include "tests/metal/hen_house_twin.c"

#include <avr/interrupt.h>
#include <util/delay.h>

#define MARK(what) (GPIOR2 = (what))
#define CALM_WATCHDOG() __asm__ volatile("wdr")

static volatile uint32_t Clock_milliseconds_;
static volatile uint8_t pulls; // milliseconds until the frame's line is let go
ISR(TIMER0_COMPA_vect) {
    Clock_milliseconds_++;
    if (pulls && !--pulls) {
        DDRD &= ~(1 << PD4);
#ifndef KEEPS
        PCIFR = 1 << PCIF2;
        PCICR = 1 << PCIE2;
#endif
    }
}

static volatile uint16_t codes[3] = {0xffff, 0xffff, 0xffff};
ISR(ADC_vect) {
    static uint8_t channel;
    codes[channel] = ADC;
    if (++channel == 3)
        channel = 0;
    ADMUX = 1 << REFS0 | channel;
    ADCSRA |= 1 << ADSC;
}

/// The line falls once or twice before the first bit, and after each: a long high is a one, and the
/// last forty count.
static volatile uint8_t falls, bits[5];
static void fell(uint8_t high) {
    for (uint8_t i = 0; i < 4; i++)
        bits[i] = bits[i] << 1 | bits[i + 1] >> 7;
    bits[4] = bits[4] << 1 | (high > 12);
    falls++;
}

#ifdef KEEPS
static volatile uint16_t width;
static volatile uint8_t heard;
/// Room for what a frame and an echo bring within a millisecond.
static struct edge {
    uint16_t at; // in 4 us
    uint8_t levels;
} edges[33];
static struct edge* volatile first_edge = edges;
static struct edge* volatile free_edge = edges;
ISR(PCINT2_vect) {
    uint8_t count = TCNT0;
    uint16_t at = Clock_milliseconds_;
    if ((TIFR0 & 1 << OCF0A) && count < 250 / 2)
        at++;
    struct edge* here = free_edge;
    here->at = at * 250 + count;
    here->levels = PIND;
    struct edge* next = here + 1 == edges + 33 ? edges : here + 1;
    if (next != first_edge)
        free_edge = next;
}
static void take_edges(void) {
    static uint8_t were;
    static uint16_t rose, risen;
    while (first_edge != free_edge) {
        const struct edge is = *first_edge;
        first_edge = first_edge + 1 == edges + 33 ? edges : first_edge + 1;
        uint8_t changed = is.levels ^ were;
        were = is.levels;
        if (changed & 1 << PD2) {
            if (is.levels & 1 << PD2) {
                rose = is.at;
            } else {
                width = is.at - rose;
                heard = 1;
            }
        }
        if (changed & 1 << PD4) {
            if (is.levels & 1 << PD4)
                risen = is.at;
            else
                fell(is.at - risen);
        }
    }
}
#else
#define MILLISECONDS Clock_milliseconds_
#include "tests/metal/echo_twin.h"

ISR(PCINT2_vect) {
    static uint8_t risen;
    uint8_t count = TCNT0;
    if (PIND & 1 << PD4) {
        risen = count;
        return;
    }
    uint8_t high = count - risen;
    if (count < risen)
        high += 250;
    fell(high);
}
#endif

#ifdef TELLS
static struct {
    struct {
        uint16_t code;
        uint8_t taken;
    } roost, yard;
    uint8_t frame[5], frame_state;
    uint16_t width;
    uint8_t echo;
    struct {
        uint16_t code;
        uint8_t taken;
    } gas;
    uint8_t air, air_taken, hush, hush_taken;
} in __attribute__((used));
static void tell(void) {
    in.roost.code = fed.roost;
    in.yard.code = fed.yard;
    in.gas.code = fed.gas;
    in.roost.taken = fed.roost != 0xffff;
    in.yard.taken = fed.yard != 0xffff;
    in.gas.taken = fed.gas != 0xffff;
    for (uint8_t i = 0; i < 5; i++)
        in.frame[i] = fed.bytes[i];
    in.frame_state = fed.frame == 1 ? 3 : fed.frame == 0 ? 1 : 0;
    in.width = fed.width;
    in.echo = fed.echo == 1 ? 2 : fed.echo == 0 ? 1 : 0;
    in.air = fed.air;
    in.hush = fed.hush;
    in.air_taken = in.hush_taken = 1;
}
#else
static volatile uint8_t in; // where a rehearsal would look; nothing here
#endif

static void read_all(void) {
    static uint8_t pinged, asked;
    static uint32_t attempted;
    cli();
    now = Clock_milliseconds_;
    fed.roost = codes[0];
    fed.yard = codes[1];
    fed.gas = codes[2];
    fed.echo = pinged ? heard : 2;
    fed.width = width * 4;
    heard = 0;
    sei();
    pinged = 1;
    PORTD |= 1 << PD7;
    _delay_us(10);
    PORTD &= ~(1 << PD7);

    fed.frame = 2;
    if (asked) {
#ifndef KEEPS
        PCICR = 0;
#endif
        fed.frame = falls > 40;
        for (uint8_t i = 0; i < 5; i++)
            fed.bytes[i] = bits[i];
        asked = 0;
        attempted = now;
    } else if (now - attempted >= 10000) {
        asked = 1;
        falls = 0;
        DDRD |= 1 << PD4;
        pulls = 3;
    }
    fed.air = PINC >> PC3 & 1;
    fed.hush = PINC >> PC4 & 1;
}

/// As bright to the eye: CIE 1976.
static uint8_t even(uint8_t b) {
    if (b <= 20)
        return (b >= 5) + (b >= 14);
    uint16_t x = ((uint32_t)b * 56634 >> 8) + 9038;
    uint16_t square = (uint32_t)x * x >> 16;
    return (uint16_t)(((uint32_t)square * x >> 16) + 126) >> 8;
}

static void set_bit(volatile uint8_t* port, uint8_t bit, uint8_t on) {
    if (on)
        *port |= bit;
    else
        *port &= ~bit;
}

static void write_all(void) {
    static uint8_t glows, is_even;
    set_bit(&PORTB, 1 << PB0, !lamp.on);
    set_bit(&PORTB, 1 << PB4, !valve.on);
    if (dusk_lamp.value != glows) {
        glows = dusk_lamp.value;
        is_even = even(glows);
    }
    // High for one count more than they say, of 256; nothing is when they have let go.
    OCR1A = is_even - (is_even < 128);
    OCR1B = fan.value - (fan.value < 128);
    TCCR1A = 1 << WGM10 | (is_even ? 1 << COM1A1 : 0) | (fan.value ? 1 << COM1B1 : 0);
    TCCR2A = tone ? 1 << COM2B0 | 1 << WGM21 : 1 << WGM21;
    set_bit(&PORTD, 1 << PD5, red);
    set_bit(&PORTD, 1 << PD6, green);
    set_bit(&PORTB, 1 << PB3, blue);
}

int main(void) {
    CALM_WATCHDOG();
    MCUSR = 0;
#ifndef TELLS
    in = 0;
#endif
    PORTB = 1 << PB0 | 1 << PB4;
    DDRB = 1 << PB0 | 1 << PB1 | 1 << PB2 | 1 << PB3 | 1 << PB4;
    DDRD = 1 << PD3 | 1 << PD5 | 1 << PD6 | 1 << PD7;
    PORTC = 1 << PC3 | 1 << PC4;
    WDTCSR = 1 << WDCE | 1 << WDE;
    WDTCSR = 1 << WDE | 1 << WDP2; // 250 ms
    TCCR0A = 1 << WGM01;
    OCR0A = 249;
    TCCR0B = 1 << CS01 | 1 << CS00;
    TIMSK0 = 1 << OCIE0A;
    TCCR1B = 1 << WGM12 | 1 << CS11;
    OCR2A = OCR2B = 141; // 880.3 Hz
    TCCR2B = 1 << CS22;
#ifdef KEEPS
    PCMSK2 = 1 << PCINT18 | 1 << PCINT20;
    PCICR = 1 << PCIE2;
#else
    EICRA = 1 << ISC00;
    EIMSK = 1 << INT0;
    PCMSK2 = 1 << PCINT20;
#endif
    ADMUX = 1 << REFS0;
    ADCSRA = 1 << ADEN | 1 << ADIE | 1 << ADSC | 7;
    set_sleep_mode(SLEEP_MODE_IDLE);
    sleep_enable();
    sei();
    uint16_t next = 0;
    for (;;) {
#ifdef KEEPS
        take_edges();
#endif
        cli();
        uint16_t at = Clock_milliseconds_;
        sei();
        if ((int16_t)(at - next) >= 0) {
            next += 100;
            MARK(1);
            read_all();
            pass();
            write_all();
#ifdef TELLS
            tell();
#endif
            MARK(2);
            CALM_WATCHDOG();
        }
        sleep_cpu();
    }
}
