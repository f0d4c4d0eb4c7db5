// SPDX-License-Identifier: MIT
/// \file
/// The serial line of an AVR, both ways. Data sheet, chapter 20.
#pragma once

#include "zorilla/board/avr/roles.hpp"

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
        const bool ends = c == '\n' || c == '\r';
        uint8_t length = length_;
        if ((status & (1 << FE0 | 1 << DOR0)) != 0 || done_ || (!ends && length >= size)) {
            if (lost_ < 255)
                lost_ = static_cast<uint8_t>(lost_ + 1);
            skips_ = true; // the rest of that line means nothing
        }
        if (ends && skips_) {
            skips_ = false;
            if (!done_)
                length_ = 0;
            return;
        }
        if (skips_ || (ends && length == 0))
            return;
        text_[length] = ends ? '\0' : c;
        if (ends)
            done_ = true;
        else
            length_ = static_cast<uint8_t>(length + 1);
    }
    static const char* line() { return done_ ? text_ : nullptr; }
    static void line_done() {
        length_ = 0;
        __asm__ volatile("" ::: "memory");
        done_ = false;
    }
    static uint8_t lost() { return lost_; }

  private:
    static constexpr uint8_t size = 64;
    static inline char text_[size + 1] = {};
    static inline volatile uint8_t length_ = 0, lost_ = 0;
    static inline volatile bool done_ = false, skips_ = false;
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
