// SPDX-License-Identifier: MIT
/// \file
/// The serial line of an AVR, both ways. Data sheet, chapter 20.
#pragma once

#include "zorilla/board/avr/roles.hpp"
#include "zorilla/board/line.hpp"

#include <avr/io.h>

namespace zorilla {

namespace avr {

/// One that is not wired.
struct NoSerial {
    static constexpr bool receives = false, sends = false;
    static void begin() {}
    static bool send(char) { return false; }
    static void receive() {}
    static const char* line() { return nullptr; }
    static void line_done() {}
    static uint8_t lost() { return 0; }
};

/// Sends what it is handed.
template <uint32_t Hertz, uint32_t Baud> struct Sending : NoSerial {
    static constexpr bool sends = true;
    static constexpr uint32_t divisor = (Hertz / 8 + Baud / 2) / Baud; // at double speed
    static_assert(divisor >= 1 && divisor <= 4096, "this clock cannot make that baud rate");
    static constexpr uint32_t made = Hertz / 8 / divisor;
    static_assert(made * 50 >= Baud * 49 && made * 50 <= Baud * 51,
                  "at this clock that baud rate would be more than 2 % off: take 38,400 or 9,600");

    static void begin() {
        UBRR0 = divisor - 1;
        UCSR0A = 1 << U2X0;
        UCSR0B = 1 << TXEN0;
    }
    static bool send(char c) {
        if (!(UCSR0A & 1 << UDRE0))
            return false;
        UDR0 = static_cast<uint8_t>(c);
        return true;
    }
};

/// Collects a line of at most 64 characters besides.
template <uint32_t Hertz, uint32_t Baud> class Serial : public Sending<Hertz, Baud> {
  public:
    static constexpr bool receives = true;
    static void begin() {
        Sending<Hertz, Baud>::begin();
        UCSR0B = 1 << TXEN0 | 1 << RXEN0 | 1 << RXCIE0;
    }
    /// The interrupt: a character has come.
    [[gnu::always_inline]] static void receive() {
        const uint8_t status = UCSR0A;
        const auto c = static_cast<char>(UDR0);
        __asm__ volatile("sei" ::: "memory"); // an edge may not wait, and the next is far
        in_.take(c, (status & (1 << FE0 | 1 << DOR0)) != 0);
    }
    static const char* line() { return in_.line(); }
    static void line_done() { in_.done(); }
    static uint8_t lost() { return in_.lost(); }

  private:
    static inline LineIn in_;
};

/// The serial line among roles, if there is one.
template <uint32_t Hertz, class... Roles> struct SerialAmong { using Type = NoSerial; };
template <uint32_t Hertz, class First, class... Others>
struct SerialAmong<Hertz, First, Others...> {
    using Type = typename SerialAmong<Hertz, Others...>::Type;
};
template <uint32_t Hertz, uint32_t Baud, class... Others>
struct SerialAmong<Hertz, SerialLine<Baud>, Others...> {
    using Type = Serial<Hertz, Baud>;
};
template <uint32_t Hertz, uint32_t Baud, class... Others>
struct SerialAmong<Hertz, SerialOut<Baud>, Others...> {
    using Type = Sending<Hertz, Baud>;
};

} // namespace avr

template <uint32_t H, uint32_t Baud> struct Does<Atmega328pAt<H>, SerialOut<Baud>> : avr::Role {
    static constexpr Needs needs{AvrPin<AvrPort::d, 1>::id | avr::serial_bit};
};

template <uint32_t H, uint32_t Baud> struct Does<Atmega328pAt<H>, SerialLine<Baud>> : avr::Role {
    static constexpr Needs needs{AvrPin<AvrPort::d, 0>::id | AvrPin<AvrPort::d, 1>::id |
                                 avr::serial_bit};
};

} // namespace zorilla
