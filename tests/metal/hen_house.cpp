// SPDX-License-Identifier: MIT
// The hen house of the examples as it is, fed as its hand-written twin is.
#include "examples/hen_house/hen_house.hpp"

#include "tests/metal/hen_house_feed.h"

namespace {

using namespace zorilla;

hen_house::Device device;

Sample code(uint16_t fed) { return fed == 0xffff ? Sample() : Sample(fed); }
LevelSample level(uint8_t fed) {
    return fed > 1 ? LevelSample() : LevelSample(fed == 1 ? Level::high : Level::low);
}
FrameSample frame() {
    if (fed.frame != 1)
        return fed.frame == 0 ? FrameSample::silent() : FrameSample();
    Frame out;
    for (uint8_t i = 0; i < 5; ++i)
        out.bytes[i] = fed.bytes[i];
    return FrameSample(out);
}
Echo echo() { return fed.echo == 1 ? Echo(fed.width) : fed.echo == 0 ? Echo::none() : Echo(); }

[[gnu::noinline]] void pass() {
    device.pass(Instant(now), {code(fed.roost), code(fed.yard), frame(), echo(), code(fed.gas),
                               level(fed.air), level(fed.hush)});
}

void report() {
    GPIOR1 = static_cast<uint8_t>(device.watch.state());
    GPIOR1 = static_cast<uint8_t>(device.heat_lamp.value());
    GPIOR1 = static_cast<uint8_t>(device.water_valve.value());
    GPIOR1 = device.dusk_lamp.value().of_255();
    GPIOR1 = device.ventilator.value().of_255();
    const uint16_t hertz = device.buzzer.value().hertz;
    GPIOR1 = static_cast<uint8_t>(hertz);
    GPIOR1 = static_cast<uint8_t>(hertz >> 8);
    const Colour colour = device.status.value();
    GPIOR1 = colour.red.of_255();
    GPIOR1 = colour.green.of_255();
    GPIOR1 = colour.blue.of_255();
}

} // namespace

int main() { FEED_HOUSE(pass, report); }
