// SPDX-License-Identifier: MIT
/// \file
/// The serial line of an AVR, both ways; of one without hardware for it, out only, by a timer.
/// Data sheet of the ATmega328P, chapter 20; of the ATmega2560, 22; of the ATtiny85, 12.
#pragma once

#include "zorilla/board/avr/roles.hpp"
#include "zorilla/board/line.hpp"

namespace zorilla {

namespace avr {

/// One that is not wired.
struct NoSerial {
    static constexpr bool receives = false, sends = false;
    static constexpr uint8_t number = 0;
    static void begin() {}
    static bool send(char) { return false; }
    static void receive() {}
    static void bit_is_over() {}
    static const char* line() { return nullptr; }
    static void line_done() {}
    static uint8_t lost() { return 0; }
};

template <uint32_t Hertz, uint32_t Baud, uint32_t Divisor> constexpr bool is_near_enough() {
    constexpr uint32_t made = Hertz / Divisor;
    static_assert(made * 50 >= Baud * 49 && made * 50 <= Baud * 51,
                  "at this clock that baud rate would be more than 2 % off: take 38,400 or 9,600");
    return true;
}

#if defined(__AVR_ATtiny85__)

/// Sends what it is handed, by timer 1: a bit each time it comes round. Each bit begins when its
/// interrupt does, some 30 cycles late, and later where others are busy: at 38,400 baud a bit has
/// 208. The chip's own clock is within 1 % once it is trimmed (6.5 of the data sheet), and only
/// then within what a receiver bears.
template <uint32_t Hertz, uint32_t Baud, uint8_t> class Sending : public NoSerial {
    static constexpr uint32_t counts = (Hertz + Baud / 2) / Baud;
    static_assert(counts <= 2048, "this clock cannot make that baud rate");
    static constexpr uint8_t step = counts <= 256 ? 1 : counts <= 512 ? 2 : counts <= 1024 ? 3 : 4;
    static constexpr uint32_t top = (counts + (1U << (step - 1)) / 2) >> (step - 1);
    static_assert(is_near_enough<Hertz, Baud, (top << (step - 1))>());

  public:
    using Pin = AvrPin<'B', 4>;
    static constexpr bool sends = true;
    static void begin() {
        Pin::begin(Level::high);
        OCR1C = OCR1A = static_cast<uint8_t>(top - 1);
        TCCR1 = 1 << CTC1 | step;
    }
    static bool send(char c) {
        if (left_ != 0)
            return false;
        bits_ = static_cast<uint8_t>(c);
        // A start bit, eight, a stop bit.
        __asm__ volatile("" ::: "memory");
        left_ = 10;
        TCNT1 = 0;
        TIFR = 1 << OCF1A;
        TIMSK |= 1 << OCIE1A; // until the stop bit has begun
        return true;
    }
    /// The interrupt, once a bit.
    [[gnu::always_inline]] static void bit_is_over() {
        const uint8_t left = left_;
        if (left == 10) {
            Pin::set(Level::low);
        } else {
            const uint8_t bits = bits_;
            Pin::set((bits & 1) != 0 ? Level::high : Level::low);
            bits_ = static_cast<uint8_t>(bits >> 1 | 0x80); // ones follow: the stop bit
        }
        left_ = static_cast<uint8_t>(left - 1);
        if (left == 1)
            TIMSK &= static_cast<uint8_t>(~(1 << OCIE1A));
    }

  private:
    static inline volatile uint8_t left_ = 0, bits_ = 0;
};

/// It has no receiver.
template <uint32_t Hertz, uint32_t Baud, uint8_t Number> struct Serial : NoSerial {
    static_assert(Hertz == 0, "this chip has no hardware to receive by: take SerialOut");
};

#else

#if defined(__AVR_ATmega2560__)
constexpr uint16_t line_at(uint8_t number) { return Chip::line_at[number]; }
#else
constexpr uint16_t line_at(uint8_t) { return 0xc0; }
#endif

/// Sends what it is handed.
template <uint32_t Hertz, uint32_t Baud, uint8_t Number> struct Sending : NoSerial {
    static constexpr bool sends = true;
    static constexpr uint8_t number = Number;
    static constexpr uint32_t divisor = (Hertz / 8 + Baud / 2) / Baud; // at double speed
    static_assert(divisor >= 1 && divisor <= 4096, "this clock cannot make that baud rate");
    static_assert(is_near_enough<Hertz, Baud, 8 * divisor>());
    // UCSRnA, UCSRnB, UCSRnC, a gap, UBRRn (16 bits), UDRn.
    static constexpr uint16_t base = line_at(Number), control = base + 1, data = base + 6;

    static void begin() {
        wide_at(base + 4) = divisor - 1;
        at(base) = 1 << U2X0;
        at(control) = 1 << TXEN0;
    }
    static bool send(char c) {
        if (!(at(base) & 1 << UDRE0))
            return false;
        at(data) = static_cast<uint8_t>(c);
        return true;
    }
};

/// Collects a line of at most 64 characters besides.
template <uint32_t Hertz, uint32_t Baud, uint8_t Number>
class Serial : public Sending<Hertz, Baud, Number> {
    using Base = Sending<Hertz, Baud, Number>;

  public:
    static constexpr bool receives = true;
    static void begin() {
        Base::begin();
        at(Base::control) = 1 << TXEN0 | 1 << RXEN0 | 1 << RXCIE0;
    }
    /// The interrupt: a character has come.
    [[gnu::always_inline]] static void receive() {
        const uint8_t status = at(Base::base);
        const auto c = static_cast<char>(at(Base::data));
        __asm__ volatile("sei" ::: "memory"); // an edge may not wait, and the next is far
        in_.take(c, (status & (1 << FE0 | 1 << DOR0)) != 0);
    }
    static const char* line() { return in_.line(); }
    static void line_done() { in_.done(); }
    static uint8_t lost() { return in_.lost(); }

  private:
    static inline LineIn in_;
};

#endif

/// The serial line among roles, if there is one.
template <uint32_t Hertz, class... Roles> struct SerialAmong { using Type = NoSerial; };
template <uint32_t Hertz, class First, class... Others>
struct SerialAmong<Hertz, First, Others...> {
    using Type = typename SerialAmong<Hertz, Others...>::Type;
};
template <uint32_t Hertz, uint32_t Baud, uint8_t Number, class... Others>
struct SerialAmong<Hertz, SerialLine<Baud, Number>, Others...> {
    using Type = Serial<Hertz, Baud, Number>;
};
template <uint32_t Hertz, uint32_t Baud, uint8_t Number, class... Others>
struct SerialAmong<Hertz, SerialOut<Baud, Number>, Others...> {
    using Type = Sending<Hertz, Baud, Number>;
};

/// The facts of line `Number`.
template <uint8_t Number> constexpr LineFacts line_facts() {
    LineFacts out{};
    for (const LineFacts& line : Chip::lines)
        if (line.number == Number && line.kind != LineKind::none)
            out = line;
    return out;
}
template <uint8_t Number> constexpr Bits needs_to_send() {
    constexpr LineFacts facts = line_facts<Number>();
    static_assert(facts.sends != nullptr, "this chip has no line of that number");
    constexpr int pin = pin_named(facts.sends);
    return Bits::one(pin) | line_bit(Number) |
           (facts.kind == LineKind::timer ? timer_bit(Chip::pins[pin].timer) : Bits{});
}

} // namespace avr

template <uint32_t H, uint32_t Baud, uint8_t Number>
struct Does<AvrBoard<H>, SerialOut<Baud, Number>> : avr::Role {
    static constexpr Needs needs{avr::needs_to_send<Number>()};
};

template <uint32_t H, uint32_t Baud, uint8_t Number>
struct Does<AvrBoard<H>, SerialLine<Baud, Number>> : avr::Role {
    static_assert(avr::line_facts<Number>().hears(),
                  "this chip has no hardware to receive by: take SerialOut");
    static constexpr Needs needs{avr::needs_to_send<Number>() |
                                 Bits::one(avr::pin_named(avr::line_facts<Number>().receives))};
};

} // namespace zorilla
