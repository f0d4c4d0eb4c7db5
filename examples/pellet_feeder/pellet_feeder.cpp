// SPDX-License-Identifier: MIT
// The pellet feeder on the desk: it feeds, jams, frees itself, jams for good, and is reset.
#include "examples/pellet_feeder/pellet_feeder.hpp"

#include <stdio.h>

using namespace zorilla;

int main() {
    pellet_feeder::Device device;
    const char* const states[] = {"idle", "feeding", "jammed"};
    uint8_t before = 0xff;
    bool was_forward = false, was_back = false;
    for (uint32_t ms = 0; ms < 90'000; ms += 100) {
        const uint32_t second = ms / 1000;
        const bool pressed = second == 2 || second == 30 || second == 80;
        const bool stands = (second >= 8 && second < 12) || (second >= 34 && second < 70);
        device.pass(Instant(ms), {Sample(300), LevelSample(pressed ? Level::low : Level::high),
                                  LevelSample(stands ? Level::low : Level::high)});
        const auto state = static_cast<uint8_t>(device.feeder.state());
        const bool forward = device.forward.value() == on, back = device.back.value() == on;
        if (state == before && forward == was_forward && back == was_back)
            continue;
        printf("%2d.%d s: %-8s%s\n", static_cast<int>(second), static_cast<int>(ms / 100 % 10),
               states[state],
               forward ? "forward"
               : back  ? "back"
                       : "still");
        before = state;
        was_forward = forward;
        was_back = back;
    }
}
