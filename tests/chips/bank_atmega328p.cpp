// SPDX-License-Identifier: MIT
// Every conversion on an ATmega328P: inputs come in and results go out byte by byte through two
// registers that the emulator watches; GPIOR2 marks where a conversion begins (1) and ends (2).
#include "tests/chips/bank.hpp"
#include "tests/chips/ram_claims.hpp"

#include <avr/io.h>
#include <avr/sleep.h>

namespace {

bank::State state;

/// Keeps the compiler from moving work past a mark.
template <class T> void pin_down(T& value) { __asm__ volatile("" : : "r"(&value) : "memory"); }

struct Marked {
    template <class F>
    void operator()(F* convert, bank::State& s, const bank::In& in, bank::Out& out) const {
        pin_down(out);
        pin_down(s);
        GPIOR2 = 1;
        convert(s, in, out);
        GPIOR2 = 2;
        pin_down(out);
    }
};

} // namespace

int main() {
    while (GPIOR0 != 0) {
        uint8_t packed[bank::in_size];
        for (uint8_t& byte : packed)
            byte = GPIOR0;
        bank::In in = bank::unpack(packed);
        pin_down(in);
        const bank::Out out = bank::dispatch(state, in, Marked());
        uint8_t result[bank::out_size];
        bank::pack(result, out);
        for (const uint8_t byte : result)
            GPIOR1 = byte;
    }
    __asm__ volatile("cli");
    sleep_enable();
    sleep_cpu();
}
