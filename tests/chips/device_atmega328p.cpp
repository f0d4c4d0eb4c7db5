// SPDX-License-Identifier: MIT
// One example device (DEVICE) on an ATmega328P at full speed, without the board: passes come in and
// go out byte by byte through two registers that the emulator watches. GPIOR2 marks where a pass
// begins (1) and ends (2).
#include "tests/chips/devices.hpp"

#include <avr/io.h>
#include <avr/sleep.h>

namespace {

using Device = devices::DEVICE;
Device device;

} // namespace

int main() {
    while (GPIOR0 != 0) {
        uint8_t from[Device::in_size];
        for (uint8_t& byte : from)
            byte = GPIOR0;
        devices::In in(from);
        const zorilla::Instant now = in.time();
        auto inputs = Device::inputs(in);
        __asm__ volatile("" : : "r"(&inputs) : "memory");
        GPIOR2 = 1;
        device.device.pass(now, inputs);
        __asm__ volatile("" : : "r"(&device) : "memory");
        GPIOR2 = 2;
        uint8_t to[Device::out_size];
        device.report(devices::Out(to));
        for (const uint8_t byte : to)
            GPIOR1 = byte;
    }
    __asm__ volatile("cli");
    sleep_enable();
    sleep_cpu();
}
