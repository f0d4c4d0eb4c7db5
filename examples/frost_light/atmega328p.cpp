// SPDX-License-Identifier: MIT
// The smallest device: a lamp at the tap that lights when the pipe may freeze, and when the sensor
// cannot tell. A probe on ADC0, a lamp on PB0, an ATmega328P.
#include <zorilla/board/atmega328p.hpp>
#include <zorilla/decide/by_code.hpp>
#include <zorilla/drive/output.hpp>
#include <zorilla/sense/thermistor.hpp>

using namespace zorilla;
using Board = Atmega328p;
using LampPin = Board::Output<Board::Port::b, 0>;

namespace {

constexpr auto probe = thermistor(10_kohm, 3950_K).pull_up(10_kohm).range(-30_degC, 60_degC);
constexpr auto frost = below(3_degC).release(5_degC);
constexpr auto lamp_part = output<OnOff>().safe(on);

CodeThreshold<probe, frost> cold;
Output<lamp_part> lamp;

} // namespace

int main() {
    LampPin::begin(Level::low);
    Board::begin(0);
    for (;;) {
        if (const Sample sample = Board::sample(); sample.taken())
            LampPin::set(lamp.drive(on_when(cold.decide(sample))).value == on ? Level::high
                                                                              : Level::low);
        Board::idle();
    }
}
