// SPDX-License-Identifier: MIT
// A device that keeps its trim in the EEPROM. It tells what it found at power-up and what it makes
// of 20 degC, then trims itself anew, one step a pass; before each byte it writes, it sets a mark.
#include <zorilla/board/atmega328p.hpp>
#include <zorilla/board/stored.hpp>
#include <zorilla/sense/trim.hpp>
#include <zorilla/units/units.hpp>

#include <avr/interrupt.h>
#include <avr/sleep.h>

using namespace zorilla;

namespace {

struct MarkedEeprom : Atmega328p::Eeprom {
    static void write(uint16_t address, uint8_t byte) {
        GPIOR2 = static_cast<uint8_t>(address);
        Atmega328p::Eeprom::write(address, byte);
    }
};

void tell(int32_t number) {
    for (uint8_t i = 0; i < 4; ++i)
        GPIOR1 = static_cast<uint8_t>(static_cast<uint32_t>(number) >> (8 * i));
}

} // namespace

int main() {
    Trim<Temperature> trim;
    Stored<Trim<Temperature>, MarkedEeprom, 16> kept;
    GPIOR1 = static_cast<uint8_t>(kept.load(trim));
    const auto twenty = Reading<Temperature>::of(20_degC);
    tell(trim.pass(twenty).value_or(0_degC).thousandths());

    // What it read at 0 and at 100 degC is told from outside, in tenths.
    const auto in = []() {
        return Reading<Temperature>::of(Temperature::from_thousandths(int32_t{100} * GPIOR0));
    };
    const auto low = in();
    const auto high = in();
    GPIOR1 = static_cast<uint8_t>(trim.two_point(low, 0_degC, high, 25_degC));
    tell(trim.pass(twenty).value_or(0_degC).thousandths());
    kept.save(trim);
    uint16_t passes = 0;
    while (kept.step())
        ++passes;
    GPIOR1 = passes > 18 ? 1 : 0;
    cli();
    sleep_mode();
}
