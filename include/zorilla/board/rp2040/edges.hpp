// SPDX-License-Identifier: MIT
/// \file
/// Edges on pins of an RP2040: a log with their microseconds, filled by an interrupt and read
/// outside it, for echoes and frames; and pulses, counted in the interrupt. Data sheet,
/// chapter 2.19.3.
#pragma once

#include "zorilla/board/edge_roles.hpp"
#include "zorilla/board/rp2040/clock.hpp"
#include "zorilla/board/rp2040/roles.hpp"
#include "zorilla/sense/pulses.hpp"

namespace zorilla {

namespace rp2040 {

/// What the levels of all pins were after an edge, and when.
struct LoggedEdge {
    uint32_t us, levels;
};

/// The last edges that nobody has looked at yet: room for a frame and an echo at once. What finds
/// no room is lost.
class EdgeLog {
  public:
    static bool any() { return first_ != free_; }
    static void forget() { first_ = free_; }
    static LoggedEdge take() {
        const LoggedEdge out = edges_[first_ % size];
        __asm__ volatile("" ::: "memory"); // read before its place is given back
        first_ = static_cast<uint8_t>(first_ + 1);
        return out;
    }
    /// From the interrupt.
    static void add(const LoggedEdge& edge) {
        if (static_cast<uint8_t>(free_ - first_) == size)
            return;
        edges_[free_ % size] = edge;
        __asm__ volatile("" ::: "memory");
        free_ = static_cast<uint8_t>(free_ + 1);
    }

  private:
    static constexpr uint8_t size = 128;
    static inline LoggedEdge edges_[size] = {};
    static inline volatile uint8_t first_ = 0, free_ = 0;
};

/// Of eight pins by four bits: those that tell of both edges.
constexpr uint32_t edge_bits(uint32_t of, uint8_t group) {
    uint32_t out = 0;
    for (uint8_t i = 0; i < 8; ++i)
        if ((of >> (8 * group + i) & 1) != 0)
            out |= 0xcU << 4 * i;
    return out;
}

} // namespace rp2040

template <uint8_t PN, uint8_t N>
struct Does<Rp2040, EchoTime<RpPin<PN>, RpPin<N>>>
    : detail::PingsBy<rp2040::OutputRole, EchoTime<RpPin<PN>, RpPin<N>>, RpPin<PN>, rp2040::Clock> {
    using typename Does::PingsBy::Ear;
    using Pin = RpPin<N>;
    static constexpr Needs needs{RpPin<PN>::id | Pin::id};
    static constexpr uint32_t logged = Pin::mask;
    static void begin() {
        RpPin<PN>::begin(Level::low);
        Pin::hold(false);
    }
    static bool is_busy() { return Ear::is_busy(); }
    static void disturb() { Ear::disturb(); }
    static void edge(uint32_t changed, uint32_t levels, uint16_t us) {
        if ((changed & Pin::mask) != 0)
            Ear::edge((levels & Pin::mask) != 0, us);
    }
};

template <uint8_t N> struct Does<Rp2040, FrameLine<RpPin<N>>> : rp2040::Role {
    using Pin = RpPin<N>;
    using Ear = detail::FrameEar<Does, Pin>;
    static constexpr Needs needs{Pin::id};
    static constexpr uint32_t logged = Pin::mask;
    static void begin() { Ear::begin(); }
    static void start(Instant now) { Ear::start(now); }
    static FrameSample read() { return Ear::read(); }
    template <uint8_t> static void step(Instant now) { Ear::step(now); }
    static bool is_busy() { return Ear::is_busy(); }
    static void disturb() { Ear::disturb(); }
    static void edge(uint32_t changed, uint32_t levels, uint16_t us) {
        if ((changed & Pin::mask) != 0)
            Ear::edge((levels & Pin::mask) != 0, us);
    }
};

template <uint8_t N, uint32_t Shortest>
struct Does<Rp2040, Pulses<RpPin<N>, Shortest>> : rp2040::Role {
    using Pin = RpPin<N>;
    static constexpr Needs needs{Pin::id};
    static constexpr uint32_t counted = Pin::mask;
    static void begin() { Pin::hold(true); } // as open collectors need it
    static PulseSample read() {
        const rp2040::Quiet quiet;
        return counter_.sample();
    }
    /// From the interrupt.
    static void count(uint32_t changed, uint32_t levels, uint32_t us) {
        if ((changed & ~levels & Pin::mask) != 0)
            counter_.edge(us, Shortest);
    }

  private:
    static inline PulseCounter counter_;
};

} // namespace zorilla
