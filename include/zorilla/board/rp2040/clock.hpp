// SPDX-License-Identifier: MIT
/// \file
/// Time on an RP2040: a crystal of 12 MHz, all else at 48 MHz from it, and the timer that counts
/// microseconds. Data sheet, chapters 2.15 to 2.18, 4.6, 4.7.
#pragma once

#include "zorilla/board/rp2040/registers.hpp"
#include "zorilla/units/time.hpp"

namespace zorilla::rp2040 {

class Clock {
  public:
    /// Takes some 2 ms; outputs stand already.
    static void begin() {
        at(crystal + 0x0c) = 47; // 1 ms to start, in 256 of its cycles
        at(crystal) = 0xfabU << 12 | 0xaa0;
        while ((at(crystal + 4) & 1U << 31) == 0) {
        }
        at(clocks + 0x30) = 2; // the reference from the crystal
        while ((at(clocks + 0x38) & 1U << 2) == 0) {
        }
        // 12 MHz times 120, by 6 and by 5: 48 MHz.
        release(part_usb_pll);
        at(usb_pll) = 1;
        at(usb_pll + 8) = 120;
        clear_bits(usb_pll + 4, 1U << 0 | 1U << 5);
        while ((at(usb_pll) & 1U << 31) == 0) {
        }
        at(usb_pll + 0x0c) = 6U << 16 | 5U << 12;
        clear_bits(usb_pll + 4, 1U << 3);
        at(clocks + 0x3c) = 1U << 5; // which one, before it is switched over
        at(clocks + 0x3c) = 1U << 5 | 1;
        while ((at(clocks + 0x44) & 1U << 1) == 0) {
        }
        at(clocks + 0x48) = 1U << 11;       // lines, from that
        at(clocks + 0x54) = 1U << 11;       // USB
        at(clocks + 0x60) = 1U << 11;       // the converter
        at(watchdog + 0x2c) = 1U << 9 | 12; // a tick each microsecond
        release(part_timer);
        since_ = us();
        at(timer + 0x38) = 1;
        listen_to(on_timer);
    }
    /// Microseconds, which wrap after 71 min.
    [[gnu::always_inline]] static uint32_t us() { return at(timer + 0x28); }
    /// The last 16 bits of them.
    [[gnu::always_inline]] static uint16_t short_us_now() { return static_cast<uint16_t>(us()); }
    /// From the main program alone, at least each hour.
    static Instant now() {
        const uint32_t whole = (us() - since_) / 1000;
        since_ += 1000 * whole;
        milliseconds_ = milliseconds_ + whole;
        return Instant(milliseconds_);
    }
    /// Sleeps until something happens, or so many milliseconds from the last `now` have gone by.
    /// \param busy  whether something has happened already; asked while nothing can come between
    template <class Busy> static void sleep(uint32_t milliseconds, Busy busy) {
        const uint32_t until = since_ + 1000 * milliseconds;
        const Quiet quiet;
        at(timer + 0x10) = until;
        if (static_cast<int32_t>(until - us()) > 0 && !busy())
            __asm__ volatile("wfi" : : : "memory");
        at(timer + 0x20) = 1; // no alarm is wanted now
        at(timer + 0x34) = 1;
    }
    /// The interrupt of the alarm.
    static void on_alarm() { at(timer + 0x34) = 1; }

  private:
    static inline volatile uint32_t milliseconds_ = 0;
    static inline uint32_t since_ = 0; ///< when the last whole millisecond was over
};

} // namespace zorilla::rp2040
