// SPDX-License-Identifier: MIT
/// \file
/// Edges on pins of an AVR: a log with their microseconds, filled by the pin-change interrupts and
/// read outside them, for echoes and frames; and pulses, counted in the interrupt.
/// Data sheet, chapter 13.
#pragma once

#include "zorilla/board/avr/clock.hpp"
#include "zorilla/board/avr/roles.hpp"
#include "zorilla/sense/humidity_frame.hpp"
#include "zorilla/sense/pulses.hpp"
#include "zorilla/sense/ranger.hpp"

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
    uint8_t flags; ///< whether it has overflowed, and the interrupt still waits
    uint8_t ticks; ///< the last eight bits
    uint8_t levels;
    uint8_t group;
};

/// The last edges that nobody has looked at yet. With a pass of 1 ms there is room for a frame
/// and an echo at once; what finds no room is lost, and what waits for more than 256 ticks (32 ms
/// at 16 MHz) has another time.
class EdgeLog {
  public:
    [[gnu::always_inline]] static bool any() { return first_ != free_; }
    [[gnu::always_inline]] static LoggedEdge take() {
        const LoggedEdge out = *first_;
        __asm__ volatile("" ::: "memory"); // read before its place is given back
        LoggedEdge* next = first_ + 1;
        first_ = next == edges_ + size ? edges_ : next;
        return out;
    }

    /// The interrupt of a group of which pins are logged, and none counted. The time is taken
    /// first, and after 49 cycles and its call an edge elsewhere need not wait any longer. It
    /// changes no flags, so that none need be kept; places are told apart by the lower half of
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
                "in r24, %[flags]\n\t"
                "st X+, r24\n\t"
                "lds r24, %[ticks]\n\t"
                "st X+, r24\n\t" ZORILLA_LEVELS "st X+, r24\n\t"
                "ldi r24, %[group]\n\t"
                "st X+, r24\n\t"
                // From the end to the beginning.
                "ldi r24, lo8(%[edges]+%[bytes])\n\t"
                "cpse r26, r24\n\t"
                "rjmp 1f\n\t"
                "ldi r26, lo8(%[edges])\n\t"
                "ldi r27, hi8(%[edges])\n"
                "1:\tlds r24, %[first]\n\t"
                "cpse r26, r24\n\t"
                "rjmp 2f\n\t"
                "rjmp 3f\n"
                "2:\tsts %[free], r26\n\t"
                "sts %[free]+1, r27\n"
                "3:\tpop r27\n\t"
                "pop r26\n\t"
                "pop r24\n\t"
                "reti"
                :
                : [counter] "I"(_SFR_IO_ADDR(TCNT0)), [flags] "I"(overflow_flags - 0x20),
                  [levels] "i"(levels_of(Group)), [group] "M"(Group),
                  [ticks] "i"(&Clock<Hertz>::low_), [free] "i"(&free_), [first] "i"(&first_),
                  [edges] "i"(&edges_), [bytes] "i"(sizeof edges_));
        }
    };
    /// The same for a group of which pins are counted too, from its interrupt.
    [[gnu::always_inline]] static void add(const LoggedEdge& edge) {
        LoggedEdge* const at = free_;
        LoggedEdge* const next = at + 1 == edges_ + size ? edges_ : at + 1;
        *at = edge;
        if (next != first_)
            free_ = next;
    }

  private:
    static constexpr uint8_t size = 32;
    static inline LoggedEdge edges_[size] = {};
    static_assert(sizeof edges_ < 256);
    static inline LoggedEdge* volatile first_ = edges_;
    static inline LoggedEdge* volatile free_ = edges_;
};

} // namespace avr

/// The ping is high for at least 12 us, and at most about 1 ms. An echo that has not ended after 60
/// ms is none.
template <uint32_t H, char PP, uint8_t PB, char P, uint8_t Bit>
struct Does<AvrBoard<H>, EchoTime<AvrPin<PP, PB>, AvrPin<P, Bit>>> : avr::OutputRole {
    static constexpr bool timed = true;
    using Ping = AvrPin<PP, PB>;
    using Pin = AvrPin<P, Bit>;
    static constexpr Needs needs{Ping::id | Pin::id};
    static constexpr avr::EdgePins logged = avr::edge_pin<Pin>();
    static constexpr Duration longest = 60_ms;

    static void begin() { Ping::begin(Level::low); }
    static Echo read(Instant now) {
        Echo out;
        if (state_ == State::heard)
            out = Echo(width_);
        else if (state_ != State::idle && now - since_ >= longest)
            out = Echo::none();
        else if (state_ != State::idle)
            return out;
        if (state_ == State::idle && begun_ && now - since_ < longest)
            return out;
        begun_ = true;
        since_ = now;
        state_ = State::pinging;
        {
            const avr::Quiet quiet;
            rose_ = avr::Clock<H>::short_us();
        }
        Ping::set(Level::high);
        return out;
    }
    static void step(Instant) {
        if (state_ != State::pinging)
            return;
        const avr::Quiet quiet;
        if (static_cast<uint16_t>(avr::Clock<H>::short_us() - rose_) >= 12) {
            Ping::set(Level::low);
            state_ = State::waiting;
        }
    }
    static void edge(uint8_t group, uint8_t changed, uint8_t levels, uint16_t us) {
        if (group != Pin::facts.edges || (changed & Pin::mask) == 0)
            return;
        if ((levels & Pin::mask) != 0 && state_ == State::waiting) {
            rose_ = us;
            state_ = State::rings;
        } else if ((levels & Pin::mask) == 0 && state_ == State::rings) {
            width_ = static_cast<uint16_t>(us - rose_);
            state_ = State::heard;
        }
    }

  private:
    enum class State : uint8_t { idle, pinging, waiting, rings, heard };
    static inline State state_ = State::idle;
    static inline bool begun_ = false;
    static inline Instant since_{};
    static inline uint16_t rose_ = 0, width_ = 0;
};

template <uint32_t H, char P, uint8_t Bit>
struct Does<AvrBoard<H>, FrameLine<AvrPin<P, Bit>>> : avr::Role {
    using Pin = AvrPin<P, Bit>;
    static constexpr Needs needs{Pin::id};
    static constexpr avr::EdgePins logged = avr::edge_pin<Pin>();

    static void begin() { Pin::set(Level::high); } // held up
    /// Pulls the line down, unless it is being read already.
    static void start(Instant now) {
        if (state_ != State::idle)
            return;
        since_ = now;
        state_ = State::asking;
        Pin::set(Level::low);
        Pin::drive();
    }
    static FrameSample read() {
        if (state_ != State::done)
            return FrameSample();
        state_ = State::idle;
        return capture_.result();
    }
    static void step(Instant now) {
        // A millisecond more, since the first one may be over at once.
        if (state_ == State::asking && now - since_ >= FrameCapture::start_time + 1_ms) {
            capture_ = FrameCapture();
            since_ = now;
            state_ = State::listening;
            Pin::release();
            Pin::set(Level::high);
        } else if (state_ == State::listening && now - since_ >= longest) {
            state_ = State::done;
        }
    }
    static void edge(uint8_t group, uint8_t changed, uint8_t levels, uint16_t us) {
        if (group != Pin::facts.edges || (changed & Pin::mask) == 0)
            return;
        if (state_ == State::listening)
            capture_.pulse((levels & Pin::mask) != 0 ? Level::low : Level::high,
                           static_cast<uint16_t>(us - last_));
        last_ = us;
    }

  private:
    static constexpr Duration longest = 8_ms; // an answer takes at most 6 ms
    enum class State : uint8_t { idle, asking, listening, done };
    static inline State state_ = State::idle;
    static inline Instant since_{};
    static inline uint16_t last_ = 0;
    static inline FrameCapture capture_{};
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
