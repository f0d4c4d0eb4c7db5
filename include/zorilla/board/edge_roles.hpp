// SPDX-License-Identifier: MIT
/// \file
/// What a board does with edges on pins and their microseconds, whatever the chip: echoes after
/// pings, and the answers of one-wire sensors. For boards alone.
#pragma once

#include "zorilla/sense/humidity_frame.hpp"
#include "zorilla/sense/ranger.hpp"
#include "zorilla/units/time.hpp"

namespace zorilla::detail {

/// For how long a ping may be heard, in milliseconds. By a clock of 16 bits: who reads once in a
/// minute may wait for one read more.
inline constexpr uint16_t ping_lasts = 60;

/// When any of several rangers last pinged. \tparam Clock  a board has one
template <class Clock> struct LastPing {
    static inline uint16_t at = static_cast<uint16_t>(0U - ping_lasts);
};

/// The ping is high for at least 12 us, and at most about 1 ms. An echo that has not ended after 60
/// ms is none. Several rangers take turns, so that none hears another's ping: each waits for 60 ms
/// of quiet, and pings at most every 60 ms times their number, which leaves the others their turns.
/// \tparam Role  each has its own  \tparam Clock  `short_us_now()`, 16 bits that wrap
template <class Role, class Ping, class Clock> class EchoEar {
  public:
    /// \tparam Rangers  how many there are on the board
    template <uint8_t Rangers> static Echo read(Instant now) {
        static_assert(Rangers <= 250);
        const auto ms = static_cast<uint16_t>(now.milliseconds());
        if (state_ == State::heard)
            last_ = Last::echo;
        if ((Rangers == 1 || state_ != State::waits_for_turn) &&
            (last_ == Last::never || static_cast<uint16_t>(ms - since_) >= ping_lasts * Rangers)) {
            if (state_ != State::heard)
                last_ = state_ == State::idle ? Last::unknown : Last::none;
            if constexpr (Rangers == 1)
                ping(ms);
            else
                state_ = State::waits_for_turn;
        }
        return last_ == Last::echo ? Echo(width_) : last_ == Last::none ? Echo::none() : Echo();
    }
    /// Pings, if it waits for that and no other may still be heard.
    static void take_turn(Instant now) {
        const auto ms = static_cast<uint16_t>(now.milliseconds());
        if (state_ != State::waits_for_turn ||
            static_cast<uint16_t>(ms - LastPing<Clock>::at) < ping_lasts)
            return;
        LastPing<Clock>::at = ms;
        ping(ms);
    }
    static void step() {
        if (state_ == State::pinging && static_cast<uint16_t>(us_now() - rose_) >= 12) {
            Ping::set(Level::low);
            state_ = State::waiting;
        }
    }
    static void edge(bool high, uint16_t us) {
        if (high && state_ == State::waiting) {
            rose_ = us;
            state_ = State::rings;
        } else if (!high && state_ == State::rings) {
            width_ = static_cast<uint16_t>(us - rose_);
            state_ = State::heard;
        }
    }
    /// Edges may have come without their time: what is under way is given up.
    static void disturb() {
        if (state_ == State::waiting || state_ == State::rings)
            state_ = State::idle;
    }
    /// Whether something is to be done within a millisecond.
    static bool is_busy() { return state_ >= State::pinging; }

  private:
    [[gnu::noinline]] static uint16_t us_now() { return Clock::short_us_now(); }
    [[gnu::always_inline]] static void ping(uint16_t ms) {
        since_ = ms;
        state_ = State::pinging;
        rose_ = us_now();
        Ping::set(Level::high);
    }

    // From pinging on there is something to do.
    enum class State : uint8_t { idle, waiting, rings, heard, pinging, waits_for_turn };
    enum class Last : uint8_t { never, unknown, none, echo };
    static inline State state_ = State::idle;
    static inline Last last_ = Last::never; ///< what came of the last ping that is over
    static inline uint16_t since_ = 0, rose_ = 0, width_ = 0;
};

/// What the role of a ranger does on any chip. \tparam Base  of that chip
template <class Base, class Role, class Ping, class Clock> struct PingsBy : Base {
    using Ear = EchoEar<Role, Ping, Clock>;
    static constexpr bool pings = true;
    template <uint8_t Rangers> static Echo read(Instant now) {
        return Ear::template read<Rangers>(now);
    }
    template <uint8_t Rangers> static void step(Instant now) {
        if constexpr (Rangers > 1)
            Ear::take_turn(now);
        Ear::step();
    }
};

/// \tparam Role  each has its own
template <class Role, class Pin> class FrameEar {
  public:
    static void begin() { Pin::hold(true); }
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
            Pin::hold(true);
        } else if (state_ == State::listening && now - since_ >= longest) {
            state_ = State::done;
        }
    }
    static void edge(bool high, uint16_t us) {
        if (state_ == State::listening)
            capture_.pulse(high ? Level::low : Level::high, static_cast<uint16_t>(us - last_));
        last_ = us;
    }
    static void disturb() {
        if (state_ == State::listening)
            state_ = State::done; // with what has come so far: garbled
    }
    /// Whether something is to be done within a millisecond.
    static bool is_busy() { return state_ == State::asking || state_ == State::listening; }

  private:
    static constexpr Duration longest = 8_ms; // an answer takes at most 6 ms
    enum class State : uint8_t { idle, asking, listening, done };
    static inline State state_ = State::idle;
    static inline Instant since_{};
    static inline uint16_t last_ = 0;
    static inline FrameCapture capture_{};
};

} // namespace zorilla::detail
