// SPDX-License-Identifier: MIT
/// \file
/// Edges on pins of an AVR: a log with their microseconds, filled by the pin-change interrupts and
/// read outside them, for echoes and frames; and pulses, counted in the interrupt.
/// Data sheet, chapter 13.
#pragma once

#include "zorilla/board/avr/clock.hpp"
#include "zorilla/board/avr/roles.hpp"
#include "zorilla/board/edge_roles.hpp"
#include "zorilla/sense/pulses.hpp"

namespace zorilla {

namespace avr {

// The levels of a group into r24; of a port that lies far away it takes a cycle more.
#define ZORILLA_LEVELS                                                                             \
    ".if %[levels] < 0x60\n\t"                                                                     \
    "in r24, %[levels] - 0x20\n\t"                                                                 \
    ".else\n\t"                                                                                    \
    "lds r24, %[levels]\n\t"                                                                       \
    ".endif\n\t"

/// What the levels of a group of pins were after an edge, and when.
struct LoggedEdge {
    uint8_t count; ///< of timer 0
    uint8_t ticks; ///< the last eight bits, with an overflow whose interrupt still waits
    uint8_t levels;
};
/// The same where it is to say of which group.
struct LoggedEdgeOfGroup : LoggedEdge {
    uint8_t group;
};

/// The last edges that nobody has looked at yet. Where one finds no room, its group of pins is not
/// listened to until the next pass: a wire that storms must not take all of the chip's time. What
/// waits for more than 254 ticks (32 ms at 16 MHz) has another time. \tparam Size  of all roles
/// together: with passes of 1 ms there is room for each of them at once  \tparam Edge  one of both
template <uint8_t Size, class Edge> class EdgeLog {
    static constexpr uint8_t says_group = sizeof(Edge) > sizeof(LoggedEdge) ? 1 : 0;

  public:
    /// Those that nobody has looked at are given up.
    [[gnu::always_inline]] static void forget() { first_ = free_; }
    /// \return  whether there was one
    [[gnu::always_inline]] static bool take(Edge& out) {
        Edge* const at = first_;
        if (at == free_)
            return false;
        out = *at;
        __asm__ volatile("" ::: "memory"); // read before its place is given back
        first_ = at + 1 == edges_ + Size ? edges_ : at + 1;
        return true;
    }

    /// The interrupt of a group of which pins are logged, and none counted. The time is taken
    /// first, and after at most 53 cycles and its call an edge elsewhere need not wait any longer.
    /// It changes no flags, so that none need be kept; places are told apart by the lower half of
    /// their address.
    template <uint8_t Group, uint32_t Hertz> struct Interrupt {
        [[gnu::naked, gnu::used]] static void run() {
            __asm__ volatile(
                "push r24\n\t"
                "in r24, %[counter]\n\t"
                "push r26\n\t"
                "push r27\n\t"
                "lds r26, %[free]\n\t"
                "lds r27, %[free]+1\n\t"
                "st X+, r24\n\t"
                // Whether it has overflowed, and the interrupt still waits.
                "sbrc r24, 7\n\t"
                "rjmp 1f\n\t"
                "in r24, %[flags]\n\t"
                "sbrs r24, %[overflow]\n\t"
                "rjmp 1f\n\t"
                "lds r24, %[next]\n\t"
                "rjmp 2f\n"
                "1:\tlds r24, %[ticks]\n"
                "2:\tst X+, r24\n\t" ZORILLA_LEVELS "st X+, r24\n\t"
                ".if %[says_group]\n\t"
                "ldi r24, %[group]\n\t"
                "st X+, r24\n\t"
                ".endif\n\t"
                // From the end to the beginning.
                "ldi r24, lo8(%[edges]+%[bytes])\n\t"
                "cpse r26, r24\n\t"
                "rjmp 1f\n\t"
                "ldi r26, lo8(%[edges])\n\t"
                "ldi r27, hi8(%[edges])\n"
                "1:\tlds r24, %[first]\n\t"
                "cpse r26, r24\n\t"
                "rjmp 2f\n\t"
                "ldi r24, 0\n\t"
                "sts %[mask], r24\n\t"
                "rjmp 3f\n"
                "2:\tsts %[free], r26\n\t"
                "sts %[free]+1, r27\n"
                "3:\tpop r27\n\t"
                "pop r26\n\t"
                "pop r24\n\t"
                "reti"
                :
                : [counter] "I"(_SFR_IO_ADDR(TCNT0)), [flags] "I"(overflow_flags - 0x20),
                  [overflow] "I"(TOV0), [levels] "i"(levels_of(Group)), [group] "M"(Group),
                  [says_group] "M"(says_group), [ticks] "i"(&Clock<Hertz>::low_),
                  [next] "i"(&Clock<Hertz>::next_), [free] "i"(&free_), [first] "i"(&first_),
                  [edges] "i"(&edges_), [bytes] "i"(sizeof edges_),
                  [mask] "i"(edge_mask_of(Group)));
        }
    };
    /// The same for a group of which pins are counted too, from its interrupt.
    [[gnu::always_inline]] static void add(const Edge& edge) {
        Edge* const at = free_;
        Edge* const next = at + 1 == edges_ + Size ? edges_ : at + 1;
        *at = edge;
        if (next != first_)
            free_ = next;
    }

  private:
    static inline Edge edges_[Size] = {};
    static_assert(sizeof edges_ < 256);
    static inline Edge* volatile first_ = edges_;
    static inline Edge* volatile free_ = edges_;
};

} // namespace avr

template <uint32_t H, char PP, uint8_t PB, char P, uint8_t Bit>
struct Does<AvrBoard<H>, EchoTime<AvrPin<PP, PB>, AvrPin<P, Bit>>>
    : detail::PingsBy<avr::OutputRole, EchoTime<AvrPin<PP, PB>, AvrPin<P, Bit>>, AvrPin<PP, PB>,
                      avr::Clock<H>> {
    using Ping = AvrPin<PP, PB>;
    using Pin = AvrPin<P, Bit>;
    using typename Does::PingsBy::Ear;
    static constexpr Needs needs{Ping::id | Pin::id};
    static constexpr avr::EdgePins logged = avr::edge_pin<Pin>();
    static constexpr uint8_t log_size = 6;

    static void begin() { Ping::begin(Level::low); }
    static void disturb(uint8_t group) {
        if (group == Pin::facts.edges)
            Ear::disturb();
    }
    static void edge(uint8_t group, uint8_t changed, uint8_t levels, uint16_t us) {
        if (group == Pin::facts.edges && (changed & Pin::mask) != 0)
            Ear::edge((levels & Pin::mask) != 0, us);
    }
};

template <uint32_t H, char P, uint8_t Bit>
struct Does<AvrBoard<H>, FrameLine<AvrPin<P, Bit>>> : avr::Role {
    using Pin = AvrPin<P, Bit>;
    using Ear = detail::FrameEar<Does, Pin>;
    static constexpr Needs needs{Pin::id};
    static constexpr avr::EdgePins logged = avr::edge_pin<Pin>();
    static constexpr uint8_t log_size = 26;

    static void begin() { Ear::begin(); }
    static void disturb(uint8_t group) {
        if (group == Pin::facts.edges)
            Ear::disturb();
    }
    static void start(Instant now) { Ear::start(now); }
    static FrameSample read() { return Ear::read(); }
    template <uint8_t> static void step(Instant now) { Ear::step(now); }
    static void edge(uint8_t group, uint8_t changed, uint8_t levels, uint16_t us) {
        if (group == Pin::facts.edges && (changed & Pin::mask) != 0)
            Ear::edge((levels & Pin::mask) != 0, us);
    }
};

template <uint32_t H, char P, uint8_t Bit, uint32_t Shortest>
struct Does<AvrBoard<H>, Pulses<AvrPin<P, Bit>, Shortest>> : avr::Role {
    using Pin = AvrPin<P, Bit>;
    static constexpr Needs needs{Pin::id};
    static constexpr avr::EdgePins counted = avr::edge_pin<Pin>();
    static void begin() { Pin::set(Level::high); } // held up, as open collectors need it
    static PulseSample read() { return counter_.sample(); }
    /// From the interrupt.
    [[gnu::always_inline]] static void count(uint8_t group, uint8_t changed, uint8_t levels,
                                             uint32_t us) {
        if (group == Pin::facts.edges && (changed & ~levels & Pin::mask) != 0)
            counter_.edge(us, Shortest);
    }

  private:
    static inline PulseCounter counter_;
};

} // namespace zorilla
