// SPDX-License-Identifier: MIT
// The heat lamp's device on an ATmega328P at full speed, without the board: passes come in and go
// out byte by byte through two registers that the emulator watches. GPIOR2 marks where the time of
// a conversion (1 to 2) and of a whole pass (3 to 4) begins and ends.
#include "tests/chips/feed.hpp"

#include <avr/io.h>
#include <avr/sleep.h>

namespace {

heat_lamp::Device device;

[[gnu::noinline]] zorilla::Reading<zorilla::Temperature> convert(zorilla::Sample sample) {
    return device.roost.read(sample);
}

[[gnu::noinline]] heat_lamp::Pass pass(zorilla::Instant now, zorilla::Sample sample) {
    return device.pass(now, sample);
}

/// Keeps the compiler from moving work past a mark.
template <class T> void pin_down(T& value) { __asm__ volatile("" : : "r"(&value) : "memory"); }

} // namespace

int main() {
    while (GPIOR0 != 0) {
        uint8_t in[feed::pass_in_size];
        for (uint8_t& byte : in)
            byte = GPIOR0;
        zorilla::Instant now = feed::time_of(in);
        zorilla::Sample sample = feed::sample_of(in);
        pin_down(now);
        pin_down(sample);

        GPIOR2 = 1;
        auto reading = convert(sample);
        pin_down(reading);
        GPIOR2 = 2;
        pin_down(sample);
        GPIOR2 = 3;
        auto result = pass(now, sample);
        pin_down(result);
        GPIOR2 = 4;

        uint8_t out[feed::pass_out_size];
        feed::pack_out(out, result.roost, result.cold, result.lamp, device.lamp.level());
        for (const uint8_t byte : out)
            GPIOR1 = byte;
    }
    __asm__ volatile("cli");
    sleep_enable();
    sleep_cpu();
}
