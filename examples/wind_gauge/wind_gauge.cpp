// SPDX-License-Identifier: MIT
// A wind gauge: cups on a shaft close a contact twice a turn. An interrupt counts the edges and
// passes over the contact's bounces; by period the speed is quick in light air, by window steady in
// a gale.
#include "examples/show.hpp"

#include <zorilla/zorilla.hpp>

using namespace zorilla;

constexpr auto quick = turning_speed(2).by_period().still_after(3_s).fastest(3000_rpm);
constexpr auto steady = turning_speed(2).by_window(5_s).fastest(3000_rpm);

int main() {
    PulseCounter cups;
    PulseRate<quick> by_period;
    PulseRate<steady> by_window;
    uint32_t next_edge = 0;
    for (uint32_t ms = 0; ms <= 30'000; ms += 100) {
        // Made up: light air, a gale from 10 s on, calm from 20 s on.
        const uint32_t period = ms < 10'000 ? 400'000 : 50'000; // microseconds between two edges
        while (next_edge < ms * 1000 && ms < 20'000) {
            cups.edge(next_edge, 2000);
            cups.edge(next_edge + 300, 2000); // a bounce
            next_edge += period;
        }
        const PulseSample sample = cups.sample();
        const auto now_speed = by_period.read(Instant(ms), sample);
        const auto mean_speed = by_window.read(Instant(ms), sample);
        if (ms % 5000 == 4900) {
            printf("%4.1f s: ", ms / 1000.0);
            show("now", now_speed, ZORILLA_TEXT(" rpm"));
            show(", over 5 s", mean_speed, ZORILLA_TEXT(" rpm"));
            printf("\n");
        }
    }
}
