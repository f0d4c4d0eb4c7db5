// SPDX-License-Identifier: MIT
// What both hand-written twins of the heat lamp share: the same pins, times, report line and guards
// as examples/heat_lamp. They are what ./dev metal compares the library with. The marks on GPIOR2
// are seen by the emulator only and cost one cycle each.
// A twin says first what `degrees`, THRESHOLD and RELEASE are, and then how it converts.
#define F_CPU 16000000UL
#include <avr/interrupt.h>
#include <avr/io.h>
#include <avr/pgmspace.h>
#include <avr/sleep.h>
#include <stdint.h>
#include <stdlib.h>

#define MARK(what) (GPIOR2 = (what))

static volatile uint32_t ticks;
ISR(TIMER0_COMPA_vect) { ticks++; }

enum { OK, MISSING, OPEN_CIRCUIT, SHORT_CIRCUIT, OUT_OF_RANGE };

static uint8_t health = MISSING;
static degrees temperature;
static uint8_t cold;
static uint8_t lamp;
static uint8_t started;
static uint8_t served;
static uint32_t since;

static char line[56];
static uint8_t length, sent;

static uint32_t now_ms(void) {
    uint8_t status = SREG;
    cli();
    uint32_t copy = ticks;
    SREG = status;
    return copy;
}

static degrees convert(uint16_t code);
static uint8_t in_range(uint16_t code);
static void put_temperature(void);

static void __attribute__((noinline)) read_roost(uint16_t code) {
    if (code >= 1016) {
        health = OPEN_CIRCUIT;
    } else if (code < 8) {
        health = SHORT_CIRCUIT;
    } else {
        temperature = convert(code);
        health = in_range(code) ? OK : OUT_OF_RANGE;
    }
}

static void __attribute__((noinline)) drive_lamp(uint32_t now) {
    if (!started) {
        started = 1;
        since = now;
    }
    uint32_t held = now - since;
    if (!served)
        served = held >= (lamp ? 120000UL : 300000UL);
    uint8_t want = health == OK && cold;
    if (lamp) {
        if (want) {
            if (held >= 21600000UL)
                want = 0;
        } else if (!served && health == OK) {
            want = 1;
        }
    } else if (!served) {
        want = 0;
    }
    if (want != lamp) {
        lamp = want;
        since = now;
        served = 0;
    }
}

static void put(const char* text) {
    while (pgm_read_byte(text) && length < sizeof line)
        line[length++] = pgm_read_byte(text++);
}

static void put_ram(const char* text) {
    while (*text && length < sizeof line)
        line[length++] = *text++;
}

static void report(uint32_t now) {
    char number[11];
    length = sent = 0;
    put(PSTR("t="));
    put_ram(ultoa(now, number, 10));
    put(PSTR(" ms roost="));
    switch (health) {
    case OK:
        put_temperature();
        put(PSTR(" degC"));
        break;
    case MISSING: put(PSTR("missing")); break;
    case OPEN_CIRCUIT: put(PSTR("open circuit")); break;
    case SHORT_CIRCUIT: put(PSTR("short circuit")); break;
    default: put(PSTR("out of range")); break;
    }
    put(lamp ? PSTR(" lamp=on\n") : PSTR(" lamp=off\n"));
}

int main(void) {
    PORTB |= 1 << PB0;
    DDRB |= 1 << PB0;
    TCCR0A = 1 << WGM01;
    OCR0A = 249;
    TCCR0B = 1 << CS01 | 1 << CS00;
    TIMSK0 = 1 << OCIE0A;
    UBRR0L = 25;
    UCSR0B = 1 << TXEN0;
    ADMUX = 1 << REFS0;
    ADCSRA = 1 << ADEN | 1 << ADSC | 1 << ADPS2 | 1 << ADPS1 | 1 << ADPS0;
    set_sleep_mode(SLEEP_MODE_IDLE);
    sleep_enable();
    sei();
    uint32_t next = now_ms();
    uint8_t until_report = 1;
    for (;;) {
        uint32_t now = now_ms();
        if ((int32_t)(now - next) >= 0) {
            next += 100;
            health = MISSING;
            if (!(ADCSRA & 1 << ADSC)) {
                uint16_t code = ADC;
                ADCSRA |= 1 << ADSC;
                MARK(1);
                read_roost(code);
                MARK(2);
            }
            if (health == OK)
                cold = temperature < (cold ? RELEASE : THRESHOLD);
            drive_lamp(now);
            MARK(4);
            if (lamp)
                PORTB &= ~(1 << PB0);
            else
                PORTB |= 1 << PB0;
            if (--until_report == 0) {
                until_report = 10;
                report(now);
            }
        }
        if (sent != length && UCSR0A & 1 << UDRE0)
            UDR0 = line[sent++];
        sleep_cpu();
    }
}
