// SPDX-License-Identifier: MIT
// A cellar in which cheese ripens: an analogue humidity chip, compensated by a linear temperature
// chip; the water in the air, and the heat that the ventilation carries out.
#include "examples/show.hpp"

#include <zorilla/zorilla.hpp>

using namespace zorilla;

constexpr auto damp_part =
    humidity_chip(31_mV_per_percent, 800_mV).loses(0.216_percent_per_K).reference(5_V);
constexpr auto warm_part = linear_chip(10_mV_per_K, 500_mV).reference(5_V).range(-10_degC, 50_degC);

int main() {
    const HumidityChip<damp_part> humidity;
    const LinearChip<warm_part> inside, outside;
    const auto flow = Reading<AirFlow>::of(60_m3_per_h);
    for (const int raw : {600, 700, 760, 0}) {
        const auto air = inside.read(Sample(128));
        const auto damp = humidity.read(Sample(static_cast<uint16_t>(raw)), air);
        show("air", air, ZORILLA_TEXT(" degC"));
        show(", humidity", damp, ZORILLA_TEXT(" %RH"));
        show(", water", absolute_humidity(air, damp), ZORILLA_TEXT(" g/m3"));
        show(", heat carried out", air_heat(flow, difference(air, outside.read(Sample(110)))),
             ZORILLA_TEXT(" W"));
        printf("\n");
    }
}
