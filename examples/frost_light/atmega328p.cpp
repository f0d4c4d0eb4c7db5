// SPDX-License-Identifier: MIT
// The smallest device: a lamp at the tap that lights when the pipe may freeze, and when the sensor
// cannot tell. A probe on ADC0, a lamp on PB0, an ATmega328P.
#include <zorilla/board/atmega328p.hpp>
#include <zorilla/decide/by_code.hpp>
#include <zorilla/drive/output.hpp>
#include <zorilla/sense/thermistor.hpp>

using namespace zorilla;
using Board = Atmega328p;
using ProbePin = Analogue<Board::adc0>;
using LampPin = Switched<Board::pb0>;
using Wires = Wiring<Board, ProbePin, LampPin>;
ZORILLA_INTERRUPTS(Wires)

namespace {

constexpr auto probe = thermistor(10_kohm, 3950_K).pull_up(10_kohm).range(-30_degC, 60_degC);
constexpr auto frost = below(3_degC).release(5_degC);
constexpr auto lamp_part = output<OnOff>().safe(on);

CodeThreshold<probe, frost> cold;
Output<lamp_part> lamp;

} // namespace

int main() {
    Wires::begin();
    for (;;) {
        if (const Sample sample = Wires::read<ProbePin>(); sample.taken())
            Wires::write<LampPin>(lamp.drive(on_when(cold.decide(sample))).value);
        Wires::idle();
    }
}
