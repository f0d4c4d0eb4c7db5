// SPDX-License-Identifier: MIT
/// \file
/// The ATmega328P at 16 MHz: clock on timer 0, converter, pins, serial line.
/// Include it in one source file of a firmware only: it holds the clock's interrupt.
/// Register names and values: ATmega48A/PA/88A/PA/168A/PA/328/P data sheet, chapters 8, 14,
/// 15, 20, 24.
#pragma once

#if !defined(__AVR_ATmega328P__)
#error "zorilla/board/atmega328p.hpp is for the ATmega328P: compile with -mmcu=atmega328p"
#endif

#include "zorilla/board/avr_pin.hpp"
#include "zorilla/board/board.hpp"

#include <avr/io.h>
#include <avr/sleep.h>
#include <stdint.h>

namespace zorilla {

namespace detail {
inline volatile uint32_t milliseconds = 0;
} // namespace detail

/// The board; all functions are static, and none but `begin` waits.
struct Atmega328p {
    static constexpr uint32_t clock_hertz = 16'000'000;
    static constexpr uint32_t baud = 38'400; // 0.2 % off at 16 MHz

    /// Starts the clock (1 ms), the converter (reference: the supply, 125 kHz, so that a conversion
    /// takes 0.1 ms) and the serial line (38,400 baud, 8 bits, no parity, one stop bit). Takes
    /// 0.2 ms, for a first conversion that is thrown away as the data sheet advises (24.5.2).
    /// \param analogue_input  0 to 7 for the pins ADC0 to ADC7
    static void begin(uint8_t analogue_input) {
        TCCR0A = 1 << WGM01;
        OCR0A = clock_hertz / 64 / 1000 - 1;
        TCCR0B = 1 << CS01 | 1 << CS00;
        TIMSK0 = 1 << OCIE0A;
        UBRR0L = clock_hertz / 16 / baud - 1;
        UCSR0B = 1 << TXEN0;
        ADMUX = static_cast<uint8_t>(1 << REFS0 | analogue_input);
        ADCSRA = 1 << ADEN | 1 << ADSC | 1 << ADPS2 | 1 << ADPS1 | 1 << ADPS0;
        while (ADCSRA & 1 << ADSC) {
        }
        ADCSRA |= 1 << ADSC;
        set_sleep_mode(SLEEP_MODE_IDLE);
        sleep_enable();
        __asm__ volatile("sei" ::: "memory");
    }

    /// Milliseconds since `begin`. About 20 cycles.
    static Instant now() {
        const uint8_t status = SREG;
        __asm__ volatile("cli" ::: "memory");
        const uint32_t copy = detail::milliseconds;
        SREG = status;
        return Instant(copy);
    }

    /// The code of the last conversion, if it is over; starts the next one.
    static Sample sample() {
        if (ADCSRA & 1 << ADSC)
            return Sample();
        const Sample out(ADC);
        ADCSRA |= 1 << ADSC;
        return out;
    }

    static bool send(char c) {
        if (!(UCSR0A & 1 << UDRE0))
            return false;
        UDR0 = static_cast<uint8_t>(c);
        return true;
    }

    static void idle() { sleep_cpu(); }

    /// The 1,024 bytes that outlive a loss of power, for `Stored`. A byte takes 3.4 ms to write and
    /// bears about 100,000 writes (data sheet, chapter 8.4 and table 8-1); only `read` and `write`
    /// wait, and only while an earlier byte is still being written.
    struct Eeprom {
        static constexpr uint16_t size = 1024;

        static bool ready() { return !(EECR & 1 << EEPE); }
        static uint8_t read(uint16_t address) {
            while (!ready()) {
            }
            EEAR = address;
            EECR |= 1 << EERE;
            return EEDR;
        }
        static void write(uint16_t address, uint8_t byte) {
            while (!ready()) {
            }
            EEAR = address;
            EEDR = byte;
            // The second must follow the first within four cycles.
            const uint8_t status = SREG;
            __asm__ volatile("cli" ::: "memory");
            EECR |= 1 << EEMPE;
            EECR |= 1 << EEPE;
            SREG = status;
        }
    };

    using Port = AvrPort;
    /// One output pin, such as `Atmega328p::Output<Atmega328p::Port::b, 0>`.
    template <Port P, uint8_t Bit> using Output = AvrPin<P, Bit>;
};

static_assert(BoardCheck<Atmega328p>::passed);

} // namespace zorilla

/// The clock's tick (timer 0 compare match A).
extern "C" __attribute__((signal, used)) void __vector_14() {
    zorilla::detail::milliseconds = zorilla::detail::milliseconds + 1;
}
