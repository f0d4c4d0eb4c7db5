// SPDX-License-Identifier: MIT
// A bin of compost worms, which must be neither dry nor wet: a moisture probe that is powered only
// while it is read, so that it lasts.
#include "examples/show.hpp"

#include <zorilla/zorilla.hpp>

using namespace zorilla;

constexpr auto probe = moisture_probe(620, 210).every(10_s).settle(200_ms);
constexpr auto dry = below(40_percent).release(55_percent);

int main() {
    MoistureProbe<probe> bedding;
    Threshold<dry> is_dry;
    int powered = 0;
    for (uint32_t ms = 0; ms <= 40'000; ms += 100) {
        // Made up: drying out, and at last a wire that is off. Without power the pin reads 0.
        const int raw = ms < 10'000 ? 300 : ms < 20'000 ? 400 : ms < 30'000 ? 500 : 1023;
        const auto moisture = bedding.read(
            Instant(ms), Sample(bedding.powered() ? static_cast<uint16_t>(raw) : uint16_t{0}));
        powered += bedding.powered();
        if (ms % 10'000 == 5000) {
            show("moisture", moisture, ZORILLA_TEXT(" %"));
            show(", dry", is_dry.decide(moisture));
            printf("\n");
        }
    }
    printf("powered for %d of 401 passes\n", powered);
}
