// SPDX-License-Identifier: MIT
// Every role of the board at once: what each pass reads goes out by GPIOR1, what it writes comes in
// by GPIOR0. With SERVO, a servo stands in for the tone, which wants the same timer.
#include <zorilla/board/atmega328p.hpp>
#include <zorilla/zorilla.hpp>

using namespace zorilla;
using Board = Atmega328p;

namespace pins {
using First = Analogue<Board::adc0>;
using Second = Analogue<Board::adc1>;
using Last = Analogue<Board::adc7>;
using Button = Digital<Board::pd7, Pull::up>;
using Barrel = EchoTime<Board::pb0, Board::pb4>;
using Litter = FrameLine<Board::pd2>;
using Vane = Pulses<Board::pc5, 300>;
using Lamp = Switched<Board::pc2, active_low>;
using Glow = Dimmed<Board::pd6, active_low>;
using Blower = Dimmed<Board::pd3>;
#ifdef SERVO
using Moving = Servo<Board::pb1>;
#else
using Moving = Sounding<Board::pb1>;
#endif
using Row = Bar<Lights::all, active_high, Board::pc3, Board::pc4, Board::pb5>;
using Status = Coloured<Switched<Board::pb2>, Switched<Board::pb3>, Dimmed<Board::pd5>>;
using Line = SerialLine<38'400>;
} // namespace pins
using namespace pins;
using Wires = Wiring<Board, First, Second, Last, Button, Barrel, Litter, Vane, Lamp, Glow, Blower,
                     Moving, Row, Status, Line, Watchdog>;
ZORILLA_INTERRUPTS(Wires)

namespace {

void tell(uint16_t number) {
    GPIOR1 = static_cast<uint8_t>(number);
    GPIOR1 = static_cast<uint8_t>(number >> 8);
}
uint8_t asked() { return GPIOR0; }

void tell_inputs() {
    const Sample samples[] = {Wires::read<First>(), Wires::read<Second>(), Wires::read<Last>()};
    for (const Sample sample : samples)
        tell(sample.taken() ? sample.code() : 0xffff);
    GPIOR1 = Wires::read<Button>().level() == Level::high ? 1 : 0;
    const Echo echo = Wires::read<Barrel>();
    GPIOR1 = !echo.taken() ? 2 : echo.heard() ? 1 : 0;
    tell(echo.microseconds());
    const FrameSample frame = Wires::read<Litter>();
    GPIOR1 = !frame.tried() ? 3 : frame.has_frame() ? 1 : frame.answered() ? 2 : 0;
    for (const uint8_t byte : frame.frame().bytes)
        GPIOR1 = byte;
    const PulseSample pulses = Wires::read<Vane>();
    tell(pulses.edges);
    tell(static_cast<uint16_t>(pulses.period));
    GPIOR1 = Wires::lost();
    GPIOR1 = static_cast<uint8_t>(Wires::reset_cause());
}

} // namespace

int main() {
    Wires::begin();
    uint8_t passes = 0;
    const char* line = nullptr;
    for (;;) {
        Wires::idle();
        // What came in goes out again.
        if (line == nullptr)
            line = Wires::line();
        if (line != nullptr) {
            if (*line != '\0' ? Wires::send(*line) : Wires::send('\n'))
                line = *line != '\0' ? line + 1 : nullptr;
            if (line == nullptr)
                Wires::line_done();
        }
        if (!Wires::due(100_ms))
            continue;
        if (++passes % 25 == 0)
            Wires::start<Litter>();
        GPIOR2 = 1;
        tell_inputs();
        const auto on_off = static_cast<OnOff>(asked() & 1);
        const auto duty = Duty::from_255ths(asked());
        const auto stage = Stage(asked() & 3);
        const auto hertz = static_cast<uint16_t>(asked() | asked() << 8);
        Wires::write<Lamp>(on_off);
        Wires::write<Glow>(duty);
        Wires::write<Blower>(duty);
        Wires::write<Row>(stage);
        Wires::write<Status>(Colour{duty, Duty(), duty});
#ifdef SERVO
        Wires::write<Moving>(Duty::from_255ths(static_cast<uint8_t>(hertz)));
#else
        Wires::write<Moving>(tone(hertz));
#endif
        GPIOR2 = 2;
        if (hertz == 0xdead) // a pass that hangs
            for (;;) {
            }
        Wires::fed();
    }
}
