// SPDX-License-Identifier: MIT
// A boat's bilge pump: two bare wires as an analogue level, with a grey zone so that splashes do
// not make it chatter, and a contact at the hatch that stops it while somebody works there.
#include "examples/show.hpp"

#include <zorilla/zorilla.hpp>

using namespace zorilla;

constexpr auto wires = analogue_level(1.2_V, 2.8_V).reference(5_V);
constexpr auto contact = digital_input(active_low).debounce(20_ms);
constexpr auto pump_wiring = relay(active_high).safe(off);

struct BilgePump {
    AnalogueLevel<wires> water;
    DigitalInput<contact> hatch;
    Relay<pump_wiring> pump;

    void pass(Instant now, Sample level, LevelSample hatch_level) {
        const Truth wet = water.read(level);
        const Truth open = hatch.read(now, hatch_level);
        pump.drive(now, off_when(open), on_when(wet));
    }
};

int main() {
    BilgePump boat;
    const LevelSample open(Level::low), shut(Level::high);
    const struct {
        int raw;
        LevelSample hatch;
        const char* what;
    } steps[] = {{100, shut, "dry"},        {450, shut, "a splash"},   {650, shut, "wet"},
                 {450, shut, "in between"}, {650, open, "hatch open"}, {650, open, "still open"},
                 {650, shut, "shut again"}, {200, shut, "pumped dry"}};
    uint32_t ms = 0;
    for (const auto& step : steps) {
        for (int i = 0; i < 5; ++i, ms += 10)
            boat.pass(Instant(ms), Sample(static_cast<uint16_t>(step.raw)), step.hatch);
        printf("%-11s pump %s\n", step.what, boat.pump.value() == on ? "on" : "off");
    }
}
