// SPDX-License-Identifier: MIT
/// \file
/// A device's pins, wired: the same on every board.
///
///     using Board = Atmega328p;
///     using Roost = Analogue<Board::adc0>;
///     using Lamp = Switched<Board::pb0, active_low>;
///     using Wires = Wiring<Board, Roost, Lamp, SerialLine<38'400>, Watchdog>;
///     ZORILLA_INTERRUPTS(Wires) // in one source file
///
///     int main() {
///         Wires::begin(); // outputs first, each at the level at which its part is off
///         for (;;) {
///             Wires::idle();
///             if (Wires::due(100_ms)) {
///                 const auto pass = device.pass(Wires::now(), Wires::read<Roost>());
///                 Wires::write<Lamp>(pass.lamp.value);
///                 Wires::fed();
///             }
///         }
///     }
#pragma once

#include "zorilla/board/needs.hpp"
#include "zorilla/board/roles.hpp"
#include "zorilla/units/compiler.hpp"
#include "zorilla/units/one_sentence.hpp"
#include "zorilla/units/time.hpp"

namespace zorilla {

/// How a board does a role: a board specialises it for each that it offers.
template <class Board, class Role> struct Does {
    static_assert(sizeof(Role) == 0, "this board cannot do that role, or not on that pin");
};

namespace detail {

/// The compiler names both where this does not hold.
template <class Board, class First, class Second> struct GoTogether {
    static constexpr bool passed =
        go_together(Does<Board, First>::needs, Does<Board, Second>::needs);
    static_assert(passed, "these two roles want the same pin, timer, line or converter's reference "
                          "of the chip, each in its own way: give one of them another pin");
};

template <class Board, class... Roles> struct AllGoTogether {
    static constexpr bool passed = true;
};
template <class Board, class First, class... Others> struct AllGoTogether<Board, First, Others...> {
    static constexpr bool passed = (GoTogether<Board, First, Others>::passed && ... && true) &&
                                   AllGoTogether<Board, Others...>::passed;
};

} // namespace detail

/// Roles on a board, checked at compile time: no two want the same thing differently.
template <class Board, class... Roles> class Wiring {
    static_assert(detail::AllGoTogether<Board, typename Board::Clock, Roles...>::passed);
    using Hub = typename Board::template Hub<Roles...>;
    template <class Role> static constexpr bool has = (detail::is_same<Role, Roles> || ...);

  public:
    /// Starts everything: outputs first, each off; then inputs, the clock, the converter.
    static void begin() { Hub::begin(); }
    /// Milliseconds since `begin`.
    static Instant now() { return Board::now(); }
    /// Sleeps for at most about a millisecond, and goes on with what is under way: the converter,
    /// pings, frames, the serial line.
    static void idle() { Hub::template idle<Next>(); }
    /// Whether the next pass is due; passes keep in step, and those that were missed are left out.
    /// The first is due once what can be read has been read: the converter has come round, and
    /// echoes are back.
    /// \param every  1 ms to 30 s: counted in 16 bits, at half the cost of 32
    [[gnu::always_inline]] static bool due(Duration every) {
        const auto t = static_cast<uint16_t>(now().milliseconds());
        const auto step = static_cast<uint16_t>(every.thousandths());
        if (static_cast<int16_t>(t - next_) < 0) {
            // For longer than the watchdog would, perhaps; but only while time goes on.
            if (waited_ != t) {
                waited_ = t;
                Hub::waits();
            }
            return false;
        }
        next_ = static_cast<uint16_t>(next_ + step);
        if (static_cast<int16_t>(t - next_) >= 0)
            next_ = static_cast<uint16_t>(t + step);
        Hub::begins();
        return true;
    }

    /// The next pass is due now, and each from there on: of a device that was busy with something
    /// else.
    [[gnu::always_inline]] static void restarts() {
        next_ = static_cast<uint16_t>(now().milliseconds());
    }

    template <class Role> [[gnu::always_inline]] static auto read() {
        static_assert(has<Role>, "this role is not among those of the Wiring");
        return Hub::template read<Role>();
    }
    template <class Role, class Value> [[gnu::always_inline]] static void write(Value value) {
        static_assert(has<Role>, "this role is not among those of the Wiring");
        Does<Board, Role>::write(value);
    }
    /// Asks a one-wire sensor, unless it is being asked already.
    template <class Role> static void start() { Does<Board, Role>::start(now()); }

    /// Hands a character to the serial line; false while it is busy.
    static bool send(char c) { return Hub::send(c); }
    /// Whether somebody has begun to listen since this was asked last, as a plug tells it; a serial
    /// line never does.
    static bool opened() { return Hub::opened(); }
    /// A line that came in, without its end; null while there is none. The next may come once
    /// `line_done` was called.
    static const char* line() { return Hub::line(); }
    static void line_done() { Hub::line_done(); }
    /// How many characters were lost, since lines came too fast or were too long; up to 255.
    static uint8_t lost() { return Hub::lost(); }

    /// The pass is over and its outputs are written: the watchdog may wait again. While `due` finds
    /// that it is not yet time for the next, it waits too.
    static void fed() { Hub::fed(); }
    /// What the chip was last reset by, from `begin` on.
    static ResetCause reset_cause() { return Hub::reset_cause(); }

    /// The interrupts, for `ZORILLA_INTERRUPTS` alone.
    using Interrupts = Hub;

  private:
    static inline uint16_t next_ = Hub::settles; ///< when the next pass is due
    static inline uint16_t waited_ = 0;          ///< when the watchdog was last told to wait
    struct Next {
        static uint16_t time() { return next_; }
    };
};

} // namespace zorilla
