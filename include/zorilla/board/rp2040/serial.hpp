// SPDX-License-Identifier: MIT
/// \file
/// The serial lines of an RP2040, both ways. Data sheet, chapter 4.2.
#pragma once

#include "zorilla/board/line.hpp"
#include "zorilla/board/rp2040/roles.hpp"

namespace zorilla {

namespace rp2040 {

/// One that is not wired.
struct NoLine {
    static constexpr uint32_t parts = 0;
    static void begin() {}
    static bool send(char) { return false; }
    static void step(Instant) {}
    static bool is_busy() { return false; }
    static void on_character() {}
    static void on_usb() {}
    static bool opened() { return false; }
    static const char* line() { return nullptr; }
    static void line_done() {}
    static uint8_t lost() { return 0; }
};

/// \tparam Listens  whether lines are taken too
template <uint32_t Baud, uint8_t Number, bool Listens> class Serial : public NoLine {
    static_assert(Number < 2, "the chip has two serial lines: 0 and 1");
    static constexpr uint32_t base = serials[Number];
    /// 64 times what divides the clock to sixteen times the rate.
    static constexpr uint32_t divisor = (4 * chips::Rp2040::facts.hertz + Baud / 2) / Baud;
    static_assert(divisor >= 64 && divisor < 64 * 65'536, "this clock cannot make that baud rate");
    using Sends = RpPin<(Number == 0 ? 0 : 4)>;
    using Hears = RpPin<(Number == 0 ? 1 : 5)>;

  public:
    static constexpr uint32_t parts = Number == 0 ? part_serial0 : part_serial1;
    static void begin() {
        at(base + 0x24) = divisor >> 6;
        at(base + 0x28) = divisor & 63;
        at(base + 0x2c) = 3U << 5 | 1U << 4; // 8 bits, and room for 32 characters
        at(base + 0x30) = 1U | 1U << 8 | (Listens ? 1U << 9 : 0);
        Sends::begin(Level::high);
        Sends::connect(Sends::serial);
        if constexpr (Listens) {
            Hears::hold(true);
            Hears::connect(Hears::serial);
            at(base + 0x38) = 1U << 4 | 1U << 6;
            listen_to(Number == 0 ? on_serial0 : on_serial1);
        }
    }
    static bool send(char c) {
        if ((at(base + 0x18) & 1U << 5) != 0)
            return false;
        at(base) = static_cast<uint8_t>(c);
        return true;
    }
    static void on_character() {
        if constexpr (Listens) {
            at(base + 0x44) = 1U << 4 | 1U << 6;
            while ((at(base + 0x18) & 1U << 4) == 0) {
                const uint32_t came = at(base);
                in_.take(static_cast<char>(came), (came & 0xf00) != 0);
            }
        }
    }
    static const char* line() { return in_.line(); }
    static void line_done() { in_.done(); }
    static uint8_t lost() { return in_.lost(); }

  private:
    static inline LineIn in_;
};

} // namespace rp2040

template <uint32_t Baud, uint8_t Number>
struct Does<Rp2040, SerialOut<Baud, Number>> : rp2040::Role {
    static constexpr Needs needs{RpPin<(Number == 0 ? 0 : 4)>::id | rp2040::line_bit(0)};
};
template <uint32_t Baud, uint8_t Number>
struct Does<Rp2040, SerialLine<Baud, Number>> : rp2040::Role {
    static constexpr Needs needs{RpPin<(Number == 0 ? 0 : 4)>::id |
                                 RpPin<(Number == 0 ? 1 : 5)>::id | rp2040::line_bit(0)};
};

} // namespace zorilla
