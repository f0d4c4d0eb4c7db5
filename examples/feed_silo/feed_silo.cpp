// SPDX-License-Identifier: MIT
// A silo for chicken feed with a home-made arm on a potentiometer: any raw code against any value,
// by a table of what was measured with a ruler; and how fast the feed goes down.
#include "examples/show.hpp"

#include <zorilla/zorilla.hpp>

using namespace zorilla;

constexpr auto arm = value_table(at(112, 0_cm), at(480, 20_cm), at(700, 26_cm), at(900, 35_cm));

int main() {
    const ValueTable<arm> level;
    RateOfChange<Length> change(8_min);
    for (uint32_t minute = 0; minute <= 20; ++minute) {
        const auto raw = static_cast<uint16_t>(minute < 18 ? 860 - 12 * minute : 1020);
        const auto feed = level.read(Sample(raw));
        const auto rate = change.pass(Instant(minute * 60'000), feed);
        if (minute % 4 == 0) {
            show("feed", feed, ZORILLA_TEXT(" mm"));
            show(", going", rate, ZORILLA_TEXT(" mm/min"));
            printf("\n");
        }
    }
}
