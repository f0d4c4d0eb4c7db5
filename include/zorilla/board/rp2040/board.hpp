// SPDX-License-Identifier: MIT
/// \file
/// An RP2040: how it does each role (roles.hpp).
#pragma once

#include "zorilla/board/rp2040/clock.hpp"
#include "zorilla/board/rp2040/converter.hpp"
#include "zorilla/board/rp2040/edges.hpp"
#include "zorilla/board/rp2040/flash.hpp"
#include "zorilla/board/rp2040/pins.hpp"
#include "zorilla/board/rp2040/serial.hpp"
#include "zorilla/board/rp2040/slices.hpp"
#include "zorilla/board/rp2040/start.hpp"
#include "zorilla/board/rp2040/usb.hpp"

namespace zorilla {

namespace rp2040 {

/// The clock, as a role: it has a timer to itself.
struct ClockRole {};

/// The line among roles, if there is one.
template <class... Roles> struct LineAmong { using Type = NoLine; };
template <class First, class... Others> struct LineAmong<First, Others...> {
    using Type = typename LineAmong<Others...>::Type;
};
template <uint32_t Baud, uint8_t Number, class... Others>
struct LineAmong<SerialLine<Baud, Number>, Others...> {
    using Type = Serial<Baud, Number, true>;
};
template <uint32_t Baud, uint8_t Number, class... Others>
struct LineAmong<SerialOut<Baud, Number>, Others...> {
    using Type = Serial<Baud, Number, false>;
};
template <class... Others> struct LineAmong<UsbLine, Others...> { using Type = Usb; };

} // namespace rp2040

struct Rp2040 : rp2040::Pins {
    static constexpr uint32_t clock_hertz = chips::Rp2040::facts.hertz;
    using Eeprom = rp2040::KeptBytes<>;
    using Clock = rp2040::ClockRole;

    static Instant now() { return rp2040::Clock::now(); }

    /// What a wiring of roles does, and what its interrupts do.
    template <class... Roles> class Hub {
        template <class Role> using Of = Does<Rp2040, Role>;
        using Line = typename rp2040::LineAmong<Roles...>::Type;
        static constexpr bool guarded = (detail::is_same<Watchdog, Roles> || ...);
        static constexpr bool converts = ((Of<Roles>::channel >= 0) || ...);
        static constexpr uint32_t logged = (Of<Roles>::logged | ... | 0U);
        static constexpr uint32_t counted = (Of<Roles>::counted | ... | 0U);
        static constexpr uint8_t rangers = (Of<Roles>::pings + ... + 0);
        static constexpr uint32_t parts = Line::parts | (Of<Roles>::parts | ... | 0U);

      public:
        static void begin() {
            using namespace rp2040;
            cause_ = found_cause();
            release(part_pins | (parts & part_slices));
            ((Of<Roles>::is_output ? Of<Roles>::begin() : void()), ...);
            rp2040::Clock::begin();
            release(parts); // of these some only now: they want their clock
            ((Of<Roles>::is_output ? void() : Of<Roles>::begin()), ...);
            if constexpr (converts)
                Converter::begin();
            Line::begin();
            if constexpr ((logged | counted) != 0)
                listen();
            if constexpr (guarded) {
                at(power_on + 8) = 0x1'fffc; // all but the oscillators begins anew with it
                fed();
                at(watchdog) = 1U << 30 | 7U << 24;
            }
            (ping<Roles>(), ...);
        }
        /// The first echo is asked for.
        template <class Role> static void ping() {
            if constexpr (Of<Role>::pings)
                static_cast<void>(read<Role>());
        }
        template <class Role> [[gnu::always_inline]] static auto read() {
            if constexpr (Of<Role>::channel >= 0)
                return rp2040::Converter::template take<Of<Role>::channel, Of<Role>::extra>();
            else if constexpr (Of<Role>::pings)
                return Of<Role>::template read<rangers>(now());
            else if constexpr (Of<Role>::counted != 0)
                return (stormed_ & Of<Role>::counted) != 0 ? PulseSample() : Of<Role>::read();
            else
                return Of<Role>::read();
        }
        /// Sleeps until the next pass, or the next millisecond where something is under way.
        /// \tparam Next  tells when that is
        template <class Next> static void idle() {
            const Instant before = now();
            if (!sent_) {
                const auto left = static_cast<int16_t>(
                    Next::time() - static_cast<uint16_t>(before.milliseconds()));
                const bool busy = Line::is_busy() || (Of<Roles>::is_busy() || ...);
                // Not for as long as the watchdog waits.
                const uint32_t longest = busy ? 1 : left < 200 ? static_cast<uint32_t>(left) : 200;
                if (left > 0)
                    rp2040::Clock::sleep(longest,
                                         [] { return logged != 0 && rp2040::EdgeLog::any(); });
            }
            sent_ = false;
            left_ = most_edges;
            if constexpr (logged != 0) {
                if (rp2040::missed_edges) {
                    rp2040::missed_edges = false;
                    (Of<Roles>::disturb(), ...); // before what is logged is looked at
                }
                look_at_edges();
            }
            const Instant t = now();
            (Of<Roles>::template step<rangers>(t), ...);
            Line::step(t);
        }

        static bool send(char c) {
            sent_ = Line::send(c); // the next may follow at once
            return sent_;
        }
        static bool opened() { return Line::opened(); }
        static const char* line() { return Line::line(); }
        static void line_done() { Line::line_done(); }
        static uint8_t lost() { return Line::lost(); }
        /// A pass begins, and is over: told in a register that nothing else uses, where who watches
        /// the chip can see it.
        [[gnu::always_inline]] static void begins() {
            if constexpr ((logged | counted) != 0)
                listen_again();
            rp2040::at(rp2040::watchdog + 0x0c) = 1;
        }
        /// How long the first pass waits, in milliseconds, so that echoes are back; a code is
        /// converted when it is asked for.
        static constexpr uint16_t settles =
            rangers == 0 ? uint16_t{0} : static_cast<uint16_t>(2 + detail::ping_lasts * rangers);
        [[gnu::always_inline]] static void fed() {
            __asm__ volatile("" ::: "memory"); // all that the pass has changed is there to be seen
            rp2040::at(rp2040::watchdog + 0x0c) = 2;
            sent_ = true; // there may be something to send now
            waits();
        }
        [[gnu::always_inline]] static void waits() {
            if constexpr (guarded)
                rp2040::at(rp2040::watchdog + 4) = 500'000; // 250 ms: it counts by twos (4.7.1)
        }
        static ResetCause reset_cause() { return cause_; }

        // The interrupts.
        static void on_pins() {
            using namespace rp2040;
            const uint32_t us = rp2040::Clock::us();
            // What comes after this interrupts again.
            for (uint8_t group = 0; group < 4; ++group)
                if (edge_bits(logged | counted, group) != 0)
                    at(pin_functions + 0xf0 + 4U * group) = edge_bits(logged | counted, group);
            // Levels tell what has changed; a bit may be set without an edge.
            const uint32_t levels = at(pins + 4);
            const uint32_t changed = (levels ^ counted_) & (logged | counted);
            counted_ = levels;
            // A wire that storms is not listened to until the next pass.
            if (--left_ <= 0) {
                left_ = most_edges;
                storms_ = storms_ | changed;
                set_edges(logged & ~storms_, counted & ~storms_);
            }
            if ((changed & logged) != 0)
                EdgeLog::add({us, levels});
            if constexpr (counted != 0)
                (Of<Roles>::count(changed, levels, us), ...);
        }
        static void on_character() { Line::on_character(); }
        static void on_usb() { Line::on_usb(); }

      private:
        static ResetCause found_cause() {
            using namespace rp2040;
            if ((at(watchdog + 8) & 3) != 0)
                return ResetCause::watchdog;
            return (at(chip_reset) & 1U << 16) != 0 ? ResetCause::button : ResetCause::power;
        }
        static void look_at_edges() {
            // A line that never rests must not hold up the passes.
            for (uint8_t left = 128; left > 0 && rp2040::EdgeLog::any(); --left) {
                const rp2040::LoggedEdge edge = rp2040::EdgeLog::take();
                const uint32_t changed = edge.levels ^ seen_;
                seen_ = edge.levels;
                (Of<Roles>::edge(changed, edge.levels, static_cast<uint16_t>(edge.us)), ...);
            }
        }
        static void set_edges(uint32_t of_log, uint32_t of_counts) {
            using namespace rp2040;
            for (uint8_t group = 0; group < 4; ++group)
                at(pin_functions + 0x100 + 4U * group) = edge_bits(of_log | of_counts, group);
        }
        static void listen() {
            seen_ = counted_ = rp2040::at(rp2040::pins + 4);
            set_edges(logged, counted);
            listen_to(rp2040::on_pins);
        }
        /// Pins that have stormed are listened to again; what they have told is given up.
        static void listen_again() {
            stormed_ = storms_;
            if (stormed_ == 0)
                return;
            const rp2040::Quiet quiet;
            storms_ = 0;
            rp2040::EdgeLog::forget();
            (Of<Roles>::disturb(), ...);
            seen_ = counted_ = rp2040::at(rp2040::pins + 4);
            set_edges(logged, counted);
        }
        /// Of all pins together, between two times that the program looks: more are a storm.
        static constexpr int16_t most_edges = 2000;
        static inline volatile int16_t left_ = most_edges;
        static inline volatile uint32_t storms_ = 0; ///< pins that are not listened to
        static inline uint32_t stormed_ = 0;         ///< those before this pass
        static inline ResetCause cause_ = ResetCause::power;
        static inline bool sent_ = false; ///< the next character may follow without a rest
        static inline uint32_t seen_ = 0;
        static inline volatile uint32_t counted_ = 0;
    };
};

template <> struct Does<Rp2040, rp2040::ClockRole> : rp2040::Role {
    static constexpr Needs needs{};
};
template <> struct Does<Rp2040, Watchdog> : rp2040::Role {
    static constexpr Needs needs{rp2040::watchdog_bit};
};

} // namespace zorilla
