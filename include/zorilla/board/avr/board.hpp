// SPDX-License-Identifier: MIT
/// \file
/// An AVR: how it does each role (roles.hpp), whichever of the family it is. Register names and
/// values: data sheet ATmega48A/PA/88A/PA/168A/PA/328/P; what differs: chip.hpp.
#pragma once

#include "zorilla/board/avr/clock.hpp"
#include "zorilla/board/avr/converter.hpp"
#include "zorilla/board/avr/edges.hpp"
#include "zorilla/board/avr/eeprom.hpp"
#include "zorilla/board/avr/pins.hpp"
#include "zorilla/board/avr/serial.hpp"
#include "zorilla/board/avr/timers.hpp"

#include <avr/io.h>
#include <avr/sleep.h>
#include <stdint.h>

namespace zorilla {

namespace avr {
/// The clock, as a role: it shares timer 0 with duties alone.
struct ClockRole {};

/// Of an ATtiny85, which begins at an eighth of its clock unless a fuse says otherwise (6.5.1).
[[gnu::always_inline]] inline void set_clock() {
#if defined(__AVR_ATtiny85__)
    CLKPR = 1 << CLKPCE;
    CLKPR = 0;
#endif
}
} // namespace avr

/// \tparam Hertz  of its clock
template <uint32_t Hertz> struct AvrBoard : avr::Pins {
    static constexpr uint32_t clock_hertz = Hertz;
    using Eeprom = avr::Eeprom;
    using Clock = avr::ClockRole;

    static Instant now() { return avr::Clock<Hertz>::now(); }

    /// What a wiring of roles does, and what its interrupts do.
    template <class... Roles> class Hub {
        template <class Role> using Of = Does<AvrBoard, Role>;
        static constexpr Reference references_[] = {Of<Roles>::reference...};
        using Converter =
            avr::Converter<Hertz, avr::common(references_, sizeof...(Roles)),
                           avr::ExtraBits<Of<Roles>::extra...>, Of<Roles>::channel...>;
        using Serial = typename avr::SerialAmong<Hertz, Roles...>::Type;
        static constexpr bool guarded = (detail::is_same<Watchdog, Roles> || ...);
        static constexpr uint8_t logged(uint8_t group) {
            return (Of<Roles>::logged.of[group] | ... | 0);
        }
        static constexpr uint8_t counted(uint8_t group) {
            return (Of<Roles>::counted.of[group] | ... | 0);
        }
        static constexpr uint8_t rangers = (Of<Roles>::pings + ... + 0);
        static constexpr uint16_t log_sizes = (Of<Roles>::log_size + ... + 1);
        static constexpr uint8_t logging_groups =
            (logged(0) != 0) + (logged(1) != 0) + (logged(2) != 0);
        static constexpr uint8_t first_logged = logged(0) != 0 ? 0 : logged(1) != 0 ? 1 : 2;
        using Edge = detail::Either<(logging_groups > 1), avr::LoggedEdgeOfGroup, avr::LoggedEdge>;
        using EdgeLog = avr::EdgeLog<(log_sizes < 50 ? log_sizes : 50), Edge>;
        static constexpr bool logs = logging_groups > 0;
        static constexpr bool counts = (counted(0) | counted(1) | counted(2)) != 0;
        static constexpr uint8_t us_bits = counts ? 32 : logs ? 16 : 0;

      public:
        static void begin() {
            // First of all: a watchdog that has reset the chip goes on with 16 ms (10.9.2).
            const uint8_t flags = MCUSR;
            MCUSR = 0;
            set_watchdog(0);
            flags_ = flags;
            avr::set_clock();
            ((Of<Roles>::is_output ? Of<Roles>::begin() : void()), ...);
            ((Of<Roles>::is_output ? void() : Of<Roles>::begin()), ...);
            avr::Clock<Hertz>::template begin<us_bits>();
            if constexpr (Converter::count > 0)
                Converter::begin();
            Serial::begin();
            if constexpr (logs || counts)
                listen();
            avr::at(avr::sleep_register) = avr::sleep_bits; // idle: timers and the line go on
            if constexpr (guarded)
                set_watchdog(1 << WDE | 1 << WDP2); // 0.25 s
            __asm__ volatile("sei" ::: "memory");
            (ping<Roles>(), ...);
        }
        /// The first echo is asked for.
        template <class Role> static void ping() {
            if constexpr (Of<Role>::pings)
                static_cast<void>(read<Role>());
        }
        template <class Role> [[gnu::always_inline]] static auto read() {
            if constexpr (Of<Role>::channel >= 0)
                return Converter::template take<Of<Role>::channel>();
            else if constexpr (Of<Role>::pings)
                return Of<Role>::template read<rangers>(now());
            else if constexpr (counts_in(Of<Role>::counted))
                return (stormed_ & groups_of(Of<Role>::counted)) != 0 ? PulseSample()
                                                                      : Of<Role>::read();
            else
                return Of<Role>::read();
        }
        /// Returns once another millisecond has begun; with a serial line also before, so that
        /// characters can follow each other.
        template <class> static void idle() {
            do {
                sleep_cpu();
                if constexpr (logs)
                    look_at_edges();
            } while (!Serial::sends && avr::Clock<Hertz>::short_now() == stepped_);
            if (const uint8_t ms = avr::Clock<Hertz>::short_now(); ms != stepped_) {
                stepped_ = ms;
                if constexpr (counts)
                    left_ = most_edges;
                if constexpr (Converter::count > 0)
                    Converter::step();
                if constexpr (logs) {
                    const Instant t = now();
                    (Of<Roles>::template step<rangers>(t), ...);
                }
            }
        }

        static bool send(char c) { return Serial::send(c); }
        static bool opened() { return false; }
        static const char* line() { return Serial::line(); }
        static void line_done() { Serial::line_done(); }
        static uint8_t lost() { return Serial::lost(); }
        /// A pass begins, and is over: told in GPIOR2, where who watches the chip can see it.
        [[gnu::always_inline]] static void begins() {
            if constexpr (logs || counts) {
                if constexpr (counts)
                    stormed_ = 0;
                after_storm<0>();
                if constexpr (avr::group_count > 1)
                    after_storm<1>();
                if constexpr (avr::group_count > 2)
                    after_storm<2>();
            }
            GPIOR2 = 1;
        }
        /// How long the first pass waits, in milliseconds, so that all that can be read has been
        /// read: until the converter has come round, and echoes are back.
        static constexpr uint16_t settles =
            Converter::count == 0 && rangers == 0
                ? uint16_t{0}
                : static_cast<uint16_t>(2 + (Converter::round > detail::ping_lasts * rangers
                                                 ? Converter::round
                                                 : uint16_t{detail::ping_lasts * rangers}));
        [[gnu::always_inline]] static void fed() {
            __asm__ volatile("" ::: "memory"); // all that the pass has changed is there to be seen
            GPIOR2 = 2;
            if constexpr (guarded)
                __asm__ volatile("wdr");
        }
        [[gnu::always_inline]] static void waits() {
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
        /// Of a group with pins that are counted: it notes the time, and after some 45 cycles lets
        /// the others in; the counting comes after that.
        template <uint8_t Group> struct Counting {
            [[gnu::naked, gnu::used]] static void run() {
                __asm__ volatile(
                    "push r24\n\t"
                    "in r24, %[counter]\n\t"
                    "push r25\n\t"
                    "in r25, __SREG__\n\t"
                    "push r25\n\t"
                    "sts %[noted], r24\n\t"
                    "in r24, %[flags]\n\t"
                    "sts %[noted]+1, r24\n\t" ZORILLA_LEVELS "sts %[noted]+2, r24\n\t"
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
                    "pop r24\n\t" ZORILLA_CALL "%[count]\n\t"
                    // Lets the group in again at the very end, so that it never
                    // interrupts itself.
                    "cli\n\t"
                    "push r24\n\t"
                    "in r24, __SREG__\n\t"
                    "push r24\n\t"
                    "lds r24, %[enable]\n\t"
                    "ori r24, %[group]\n\t"
                    "sts %[enable], r24\n\t"
                    "pop r24\n\t"
                    "out __SREG__, r24\n\t"
                    "pop r24\n\t"
                    "reti"
                    :
                    : [counter] "I"(_SFR_IO_ADDR(TCNT0)), [flags] "I"(avr::overflow_flags - 0x20),
                      [levels] "i"(avr::levels_of(Group)), [ticks] "i"(&avr::Clock<Hertz>::low_),
                      [noted] "i"(noted_), [enable] "i"(avr::edges_register),
                      [others] "M"(0xff & ~(1U << (avr::edges_first + Group))),
                      [group] "M"(1U << (avr::edges_first + Group)), [count] "i"(&count));
            }
            /// Ends as an interrupt does, which lets others in.
            [[gnu::signal, gnu::used]] static void count() {
                const uint8_t counter = noted_[0], flags = noted_[1], levels = noted_[2];
                const auto low = static_cast<uint16_t>(noted_[4] << 8 | noted_[3]);
                if constexpr (logged(Group) != 0) {
                    const avr::Quiet quiet;
                    const auto ticks =
                        static_cast<uint8_t>(low + avr::Clock<Hertz>::missed(counter, flags));
                    const avr::LoggedEdge edge{counter, ticks, levels};
                    if constexpr (logging_groups > 1)
                        EdgeLog::add({edge, Group});
                    else
                        EdgeLog::add(edge);
                }
                // A wire that storms is not listened to until the next pass.
                const auto left = static_cast<uint8_t>(left_ - 1);
                left_ = left;
                if (left == 0)
                    avr::set_edge_mask(Group, 0);
                const auto changed = static_cast<uint8_t>(levels ^ counted_[Group]);
                counted_[Group] = levels;
                const uint32_t us =
                    avr::Clock<Hertz>::long_us(avr::Clock<Hertz>::ticks(low), counter, flags);
                (Of<Roles>::count(Group, changed, levels, us), ...);
            }
            static inline volatile uint8_t noted_[5] = {};
        };
        struct Nothing {
            [[gnu::naked, gnu::used]] static void run() { __asm__ volatile("reti"); }
        };
        struct Receiving {
            [[gnu::signal, gnu::used]] static void run() { Serial::receive(); }
        };
        template <uint8_t Number>
        using OnCharacter =
            detail::Either<(Serial::receives && Serial::number == Number), Receiving, Nothing>;
        template <uint8_t Group>
        using OnPins = detail::Either<
            counted(Group) != 0, Counting<Group>,
            detail::Either<logged(Group) != 0, typename EdgeLog::template Interrupt<Group, Hertz>,
                           Nothing>>;
        /// Once a bit, where a timer sends them.
        [[gnu::always_inline]] static void on_bit() { Serial::bit_is_over(); }

      private:
        static void look_at_edges() {
            // A line that never rests must not hold up the passes.
            Edge edge;
            for (uint8_t left = 32; left > 0 && EdgeLog::take(edge); --left) {
                const uint8_t group = group_of(edge);
                const auto changed = static_cast<uint8_t>(edge.levels ^ seen_[group]);
                seen_[group] = edge.levels;
                const uint16_t us = avr::Clock<Hertz>::short_us(
                    avr::Clock<Hertz>::short_ticks(edge.ticks), edge.count);
                (Of<Roles>::edge(group, changed, edge.levels, us), ...);
            }
        }
        static uint8_t group_of(const avr::LoggedEdge&) { return first_logged; }
        static uint8_t group_of(const avr::LoggedEdgeOfGroup& edge) { return edge.group; }
        static void set_watchdog(uint8_t to) {
            __asm__ volatile("wdr");
            // The second must follow the first within four cycles.
            avr::at(avr::watchdog_register) = 1 << WDCE | 1 << WDE;
            avr::at(avr::watchdog_register) = to;
        }
        template <uint8_t Group> static void listen_to() {
            if constexpr (logged(Group) != 0)
                seen_[Group] = avr::at(avr::levels_of(Group));
            if constexpr (counted(Group) != 0)
                counted_[Group] = avr::at(avr::levels_of(Group));
            if constexpr ((logged(Group) | counted(Group)) != 0)
                avr::set_edge_mask(Group, logged(Group) | counted(Group));
        }
        /// A group that has stormed is listened to again; what it has told is given up.
        template <uint8_t Group> [[gnu::always_inline]] static void after_storm() {
            if constexpr ((logged(Group) | counted(Group)) != 0)
                if (avr::at(avr::edge_mask_of(Group)) == 0)
                    listen_again<Group>();
        }
        template <uint8_t Group> [[gnu::noinline]] static void listen_again() {
            if constexpr (logs)
                EdgeLog::forget();
            (Of<Roles>::disturb(Group), ...);
            if constexpr (counts) {
                stormed_ = static_cast<uint8_t>(stormed_ | 1 << Group);
                left_ = most_edges;
            }
            listen_to<Group>();
        }
        static constexpr uint8_t groups_of(avr::EdgePins pins) {
            return static_cast<uint8_t>((pins.of[0] != 0 ? 1 : 0) | (pins.of[1] != 0 ? 2 : 0) |
                                        (pins.of[2] != 0 ? 4 : 0));
        }
        static constexpr bool counts_in(avr::EdgePins pins) { return groups_of(pins) != 0; }
        /// Of pins that are counted, in a millisecond or a pass: more are a storm.
        static constexpr uint8_t most_edges = 250;
        static inline volatile uint8_t left_ = most_edges;
        static inline uint8_t stormed_ = 0; ///< a bit for each group, before this pass
        static void listen() {
            constexpr auto wanted = [](uint8_t group) {
                return group < avr::group_count && (logged(group) | counted(group)) != 0
                           ? 1U << (avr::edges_first + group)
                           : 0U;
            };
            listen_to<0>();
            if constexpr (avr::group_count > 1)
                listen_to<1>();
            if constexpr (avr::group_count > 2)
                listen_to<2>();
            avr::at(avr::edges_register) = static_cast<uint8_t>(wanted(0) | wanted(1) | wanted(2));
        }
        static inline uint8_t flags_ = 0, stepped_ = 0;
        static inline uint8_t seen_[avr::group_count] = {}, counted_[avr::group_count] = {};
    };
};

template <uint32_t H> struct Does<AvrBoard<H>, avr::ClockRole> : avr::Role {
    static constexpr Needs needs{{}, avr::timer_bit(0), avr::duties};
};
template <uint32_t H> struct Does<AvrBoard<H>, Watchdog> : avr::Role {
    static constexpr Needs needs{avr::watchdog_bit};
};

} // namespace zorilla

#define ZORILLA_JUMP(vector, ...)                                                                  \
    extern "C" __attribute__((naked, used)) void vector() {                                        \
        __asm__ volatile(ZORILLA_GOTO "%0" : : "i"(&__VA_ARGS__));                                 \
    }
