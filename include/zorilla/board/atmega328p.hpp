// SPDX-License-Identifier: MIT
/// \file
/// The ATmega328P at 16 MHz, or at 8 MHz: its pins, and how it does each role (roles.hpp). Wire
/// them by `Wiring` (wiring.hpp); ZORILLA_INTERRUPTS(Wires) belongs into one source file.
/// Register names and values: ATmega48A/PA/88A/PA/168A/PA/328/P data sheet.
#pragma once

#if !defined(__AVR_ATmega328P__)
#error "zorilla/board/atmega328p.hpp is for the ATmega328P: compile with -mmcu=atmega328p"
#endif

#include "zorilla/board/avr/clock.hpp"
#include "zorilla/board/avr/converter.hpp"
#include "zorilla/board/avr/edges.hpp"
#include "zorilla/board/avr/eeprom.hpp"
#include "zorilla/board/avr/serial.hpp"
#include "zorilla/board/avr/timers.hpp"

#include <avr/io.h>
#include <avr/sleep.h>
#include <stdint.h>

namespace zorilla {

/// The board. PC6 is the reset, PB6 and PB7 carry the crystal.
template <uint32_t Hertz> struct Atmega328pAt {
    static constexpr uint32_t clock_hertz = Hertz;
    template <uint8_t Bit> using B = AvrPin<AvrPort::b, Bit>;
    template <uint8_t Bit> using C = AvrPin<AvrPort::c, Bit>;
    template <uint8_t Bit> using D = AvrPin<AvrPort::d, Bit>;
    using pb0 = B<0>;
    using pb1 = B<1>;
    using pb2 = B<2>;
    using pb3 = B<3>;
    using pb4 = B<4>;
    using pb5 = B<5>;
    using pc0 = C<0>;
    using pc1 = C<1>;
    using pc2 = C<2>;
    using pc3 = C<3>;
    using pc4 = C<4>;
    using pc5 = C<5>;
    using pd0 = D<0>;
    using pd1 = D<1>;
    using pd2 = D<2>;
    using pd3 = D<3>;
    using pd4 = D<4>;
    using pd5 = D<5>;
    using pd6 = D<6>;
    using pd7 = D<7>;
    using adc0 = pc0;
    using adc1 = pc1;
    using adc2 = pc2;
    using adc3 = pc3;
    using adc4 = pc4;
    using adc5 = pc5;
    using adc6 = AvrConverterPin<6>;
    using adc7 = AvrConverterPin<7>;

    using Eeprom = avr::Eeprom;
    /// The clock, as a role: it shares timer 0 with duties alone.
    struct Clock {};

    static Instant now() { return avr::Clock<Hertz>::now(); }

    /// What a wiring of roles does, and what its interrupts do.
    template <class... Roles> class Hub {
        template <class Role> using Of = Does<Atmega328pAt, Role>;
        static constexpr Reference references_[] = {Of<Roles>::reference...};
        using Converter = avr::Converter<Hertz, avr::common(references_, sizeof...(Roles)),
                                         Of<Roles>::channel...>;
        using Serial = typename avr::SerialAmong<Hertz, Roles...>::Type;
        static constexpr bool guarded = (detail::is_same<Watchdog, Roles> || ...);
        static constexpr uint8_t logged(uint8_t port) {
            return (Of<Roles>::logged[port] | ... | 0);
        }
        static constexpr uint8_t counted(uint8_t port) {
            return (Of<Roles>::counted[port] | ... | 0);
        }
        static constexpr bool logs = (logged(0) | logged(1) | logged(2)) != 0;
        static constexpr bool counts = (counted(0) | counted(1) | counted(2)) != 0;
        static constexpr uint8_t us_bits = counts ? 32 : logs ? 16 : 0;

      public:
        static void begin() {
            // First of all: a watchdog that has reset the chip goes on with 16 ms (10.9.2).
            const uint8_t flags = MCUSR;
            MCUSR = 0;
            set_watchdog(0);
            flags_ = flags;
            ((Of<Roles>::is_output ? Of<Roles>::begin() : void()), ...);
            ((Of<Roles>::is_output ? void() : Of<Roles>::begin()), ...);
            avr::Clock<Hertz>::template begin<us_bits>();
            if constexpr (Converter::count > 0)
                Converter::begin();
            Serial::begin();
            if constexpr (logs || counts)
                listen();
            SMCR = 1 << SE; // idle: timers and the serial line go on
            if constexpr (guarded)
                set_watchdog(1 << WDE | 1 << WDP2); // 0.25 s
            __asm__ volatile("sei" ::: "memory");
        }
        template <class Role> [[gnu::always_inline]] static auto read() {
            if constexpr (Of<Role>::channel >= 0)
                return Converter::template take<Of<Role>::channel>();
            else if constexpr (Of<Role>::timed)
                return Of<Role>::read(now());
            else
                return Of<Role>::read();
        }
        /// Returns once another millisecond has begun; with a serial line also before, so that
        /// characters can follow each other.
        static void idle() {
            do {
                sleep_cpu();
                if constexpr (logs)
                    look_at_edges();
            } while (!Serial::sends && avr::Clock<Hertz>::short_now() == stepped_);
            if (const uint8_t ms = avr::Clock<Hertz>::short_now(); ms != stepped_) {
                stepped_ = ms;
                if constexpr (Converter::count > 0)
                    Converter::step();
                if constexpr (logs) {
                    const Instant t = now();
                    (Of<Roles>::step(t), ...);
                }
            }
        }

        static bool send(char c) { return Serial::send(c); }
        static const char* line() { return Serial::line(); }
        static void line_done() { Serial::line_done(); }
        static uint8_t lost() { return Serial::lost(); }
        /// A pass begins, and is over: told in GPIOR2, where who watches the chip can see it.
        [[gnu::always_inline]] static void begins() { GPIOR2 = 1; }
        [[gnu::always_inline]] static void fed() {
            __asm__ volatile("" ::: "memory"); // all that the pass has changed is there to be seen
            GPIOR2 = 2;
            if constexpr (guarded)
                __asm__ volatile("wdr");
        }
        static ResetCause reset_cause() {
            return (flags_ & 1 << WDRF) != 0   ? ResetCause::watchdog
                   : (flags_ & 1 << PORF) != 0 ? ResetCause::power
                   : (flags_ & 1 << BORF) != 0 ? ResetCause::low_voltage
                                               : ResetCause::button;
        }

        // The interrupts.
        [[gnu::always_inline]] static void on_tick() {
            avr::Clock<Hertz>::template tick<us_bits>();
        }
        /// Of a port with pins that are counted: it notes the time, and after some 45 cycles lets
        /// the others in; the counting comes after that.
        template <uint8_t Port> struct Counting {
            [[gnu::naked, gnu::used]] static void run() {
                __asm__ volatile(
                    "push r24\n\t"
                    "in r24, %[counter]\n\t"
                    "push r25\n\t"
                    "in r25, __SREG__\n\t"
                    "push r25\n\t"
                    "sts %[noted], r24\n\t"
                    "in r24, %[flags]\n\t"
                    "sts %[noted]+1, r24\n\t"
                    "in r25, %[levels]\n\t"
                    "sts %[noted]+2, r25\n\t"
                    "lds r24, %[ticks]\n\t"
                    "lds r25, %[ticks]+1\n\t"
                    "sts %[noted]+3, r24\n\t"
                    "sts %[noted]+4, r25\n\t"
                    "lds r24, %[enable]\n\t"
                    "andi r24, %[others]\n\t"
                    "sts %[enable], r24\n\t"
                    "pop r25\n\t"
                    "out __SREG__, r25\n\t"
                    "sei\n\t"
                    "pop r25\n\t"
                    "pop r24\n\t"
                    "call %[count]\n\t"
                    // Lets the port in again at the very end, so that it never
                    // interrupts itself.
                    "cli\n\t"
                    "push r24\n\t"
                    "in r24, __SREG__\n\t"
                    "push r24\n\t"
                    "lds r24, %[enable]\n\t"
                    "ori r24, %[port]\n\t"
                    "sts %[enable], r24\n\t"
                    "pop r24\n\t"
                    "out __SREG__, r24\n\t"
                    "pop r24\n\t"
                    "reti"
                    :
                    : [counter] "I"(_SFR_IO_ADDR(TCNT0)), [flags] "I"(_SFR_IO_ADDR(TIFR0)),
                      [levels] "I"(3 + 3 * Port), [ticks] "i"(&avr::Clock<Hertz>::low_),
                      [noted] "i"(noted_), [enable] "i"(_SFR_MEM_ADDR(PCICR)),
                      [others] "M"(0xff & ~(1U << Port)), [port] "M"(1U << Port),
                      [count] "i"(&count));
            }
            /// Ends as an interrupt does, which lets others in.
            [[gnu::signal, gnu::used]] static void count() {
                const uint8_t counter = noted_[0], flags = noted_[1], levels = noted_[2];
                const auto low = static_cast<uint16_t>(noted_[4] << 8 | noted_[3]);
                if constexpr (logged(Port) != 0) {
                    const avr::Quiet quiet;
                    avr::EdgeLog::add({counter, flags, static_cast<uint8_t>(low), levels, Port});
                }
                const auto changed = static_cast<uint8_t>(levels ^ counted_[Port]);
                counted_[Port] = levels;
                const uint32_t us =
                    avr::Clock<Hertz>::long_us(avr::Clock<Hertz>::ticks(low), counter, flags);
                (Of<Roles>::count(Port, changed, levels, us), ...);
            }
            static inline volatile uint8_t noted_[5] = {};
        };
        struct Nothing {
            [[gnu::naked, gnu::used]] static void run() { __asm__ volatile("reti"); }
        };
        struct Receiving {
            [[gnu::signal, gnu::used]] static void run() { Serial::receive(); }
        };
        using OnCharacter = detail::Either<Serial::receives, Receiving, Nothing>;
        template <uint8_t Port>
        using OnPins = detail::Either<
            counted(Port) != 0, Counting<Port>,
            detail::Either<logged(Port) != 0, avr::EdgeLog::Interrupt<Port, Hertz>, Nothing>>;

      private:
        static void look_at_edges() {
            // A line that never rests must not hold up the passes.
            for (uint8_t left = 32; left > 0 && avr::EdgeLog::any(); --left) {
                const avr::LoggedEdge edge = avr::EdgeLog::take();
                const auto changed = static_cast<uint8_t>(edge.levels ^ seen_[edge.port]);
                seen_[edge.port] = edge.levels;
                const uint16_t us = avr::Clock<Hertz>::short_us(
                    avr::Clock<Hertz>::short_ticks(edge.ticks), edge.count, edge.flags);
                (Of<Roles>::edge(edge.port, changed, edge.levels, us), ...);
            }
        }
        static void set_watchdog(uint8_t to) {
            __asm__ volatile("wdr");
            // The second must follow the first within four cycles.
            WDTCSR = 1 << WDCE | 1 << WDE;
            WDTCSR = to;
        }
        static void listen() {
            seen_[0] = counted_[0] = PINB;
            seen_[1] = counted_[1] = PINC;
            seen_[2] = counted_[2] = PIND;
            PCMSK0 = logged(0) | counted(0);
            PCMSK1 = logged(1) | counted(1);
            PCMSK2 = logged(2) | counted(2);
            PCICR = (PCMSK0 != 0 ? 1 : 0) | (PCMSK1 != 0 ? 2 : 0) | (PCMSK2 != 0 ? 4 : 0);
        }
        static inline uint8_t flags_ = 0, stepped_ = 0;
        static inline uint8_t seen_[3] = {}, counted_[3] = {};
    };
};

using Atmega328p = Atmega328pAt<16'000'000>;
using Atmega328p8MHz = Atmega328pAt<8'000'000>;

template <> struct Does<Atmega328p, Atmega328p::Clock> : avr::Role {
    static constexpr Needs needs{0, avr::timer_bit(0), avr::duties};
};
template <> struct Does<Atmega328p8MHz, Atmega328p8MHz::Clock> : avr::Role {
    static constexpr Needs needs{0, avr::timer_bit(0), avr::duties};
};
template <uint32_t H> struct Does<Atmega328pAt<H>, Watchdog> : avr::Role {
    static constexpr Needs needs{avr::watchdog_bit};
};

} // namespace zorilla

/// The chip's interrupts, for the wiring of the whole device: the clock (timer 0 overflow), edges
/// on pins, characters that come.
#define ZORILLA_INTERRUPTS(Wires)                                                                  \
    extern "C" __attribute__((signal, used)) void __vector_16() { Wires::Interrupts::on_tick(); }  \
    ZORILLA_JUMP(__vector_3, Wires::Interrupts::OnPins<0>::run)                                    \
    ZORILLA_JUMP(__vector_4, Wires::Interrupts::OnPins<1>::run)                                    \
    ZORILLA_JUMP(__vector_5, Wires::Interrupts::OnPins<2>::run)                                    \
    ZORILLA_JUMP(__vector_18, Wires::Interrupts::OnCharacter::run)
#define ZORILLA_JUMP(vector, ...)                                                                  \
    extern "C" __attribute__((naked, used)) void vector() {                                        \
        __asm__ volatile("jmp %0" : : "i"(&__VA_ARGS__));                                          \
    }
