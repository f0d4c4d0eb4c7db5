// SPDX-License-Identifier: MIT
// The heat lamp on an ATmega328P: probe on ADC0, relay module on PB0, a report line every second.
#include "heat_lamp.hpp"

#include <zorilla/board/atmega328p.hpp>
#include <zorilla/board/report.hpp>

using namespace zorilla;
using Board = Atmega328p;
using ProbePin = Analogue<Board::adc0>;
using LampPin = Switched<Board::pb0, active_low>;
using Wires = Wiring<Board, ProbePin, LampPin, SerialOut<38'400>, Watchdog>;
ZORILLA_INTERRUPTS(Wires)

namespace {

// Not on the stack: there the compiler needs more code to reach them.
heat_lamp::Device device;
Report<56> report;

void write_report(Instant now, const heat_lamp::Pass& pass) {
    report.clear();
    report.put(ZORILLA_TEXT("t="));
    report.put_number(now.milliseconds());
    report.put(ZORILLA_TEXT(" ms roost="));
    report.put_reading(pass.roost, ZORILLA_TEXT(" degC"));
    report.put(pass.lamp.value == on ? ZORILLA_TEXT(" lamp=on\n") : ZORILLA_TEXT(" lamp=off\n"));
}

} // namespace

int main() {
    Wires::begin();
    uint8_t until_report = 1;
    for (;;) {
        if (Wires::due(100_ms)) {
            const Instant now = Wires::now();
            const heat_lamp::Pass pass = device.pass(now, Wires::read<ProbePin>());
            Wires::write<LampPin>(device.lamp.value());
            Wires::fed();
            if (--until_report == 0) {
                until_report = 10;
                write_report(now, pass);
            }
        }
        report.send<Wires>();
        Wires::idle();
    }
}
