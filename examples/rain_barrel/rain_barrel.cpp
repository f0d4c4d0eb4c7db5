// SPDX-License-Identifier: MIT
// A rain barrel with an ultrasonic ranger under its lid: distance to the water, corrected for the
// air's temperature, and the median of five against drops that fall through the beam.
#include "examples/show.hpp"

#include <zorilla/zorilla.hpp>

using namespace zorilla;

constexpr auto eye = ranger(20_mm, 1.5_m);
constexpr auto nearly_full = below(150_mm).release(200_mm);

struct RainBarrel {
    Ranger<eye> lid;
    Median<5, Length> calm;
    Threshold<nearly_full> full;
};

int main() {
    RainBarrel barrel;
    const auto air = Reading<Temperature>::of(8_degC);
    // Filling up, with a drop in the beam, a leaf on the ranger, and a lost echo at the end.
    const Echo echoes[] = {Echo(3000), Echo(2400), Echo(700), Echo(1800), Echo(1200),  Echo(900),
                           Echo(860),  Echo(850),  Echo(845), Echo(60),   Echo::none()};
    for (const Echo echo : echoes) {
        const auto gap = barrel.calm.pass(barrel.lid.read(echo, air));
        show("to the water", gap, ZORILLA_TEXT(" mm"));
        show(", nearly full", barrel.full.decide(gap));
        printf("\n");
    }
}
