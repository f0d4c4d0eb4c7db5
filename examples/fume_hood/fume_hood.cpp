// SPDX-License-Identifier: MIT
// A solder-fume hood: a gas sensor that is calibrated in clean air first, warms up, and is
// corrected for the room's temperature and humidity.
#include "examples/show.hpp"

#include <zorilla/zorilla.hpp>

using namespace zorilla;

constexpr auto nose = gas_sensor(gas_point(10_ppm, 2.6_times), gas_point(200_ppm, 0.7_times))
                          .pull_down(10_kohm)
                          .clean_air(3.6_times)
                          .warm_up(3_min)
                          .range(0.5_ppm, 300_ppm);
constexpr ClimateTable<3, 2> climate{
    {-10_degC, 20_degC, 50_degC},
    {33_percent_RH, 85_percent_RH},
    {1.7_times, 1.5_times, 1_times, 0.9_times, 0.8_times, 0.7_times}};
constexpr auto smoky = above(25_ppm).release(12_ppm);

int main() {
    // In clean air: the first try drifts, since the sensor is still warming; the second is steady.
    for (const bool steady : {false, true}) {
        CleanAir<nose> step(30_s);
        for (uint32_t s = 0; s <= 30; ++s)
            step.add(Instant(s * 1000), Sample(static_cast<uint16_t>(steady ? 87 : 60 + s)));
        if (step.state() == CleanAirState::done)
            show("R0", Reading<Resistance>::of(step.zero()), ZORILLA_TEXT(" kohm"));
        else
            printf("not steady yet: wait, and begin again");
        printf("\n");
    }
    GasSensor<nose> sensor(30_kohm);
    Threshold<smoky> smoke;
    const AirReading room{Reading<RelativeHumidity>::of(45_percent_RH),
                          Reading<Temperature>::of(26_degC)};
    uint32_t s = 0;
    for (const int raw : {110, 110, 200, 320, 190, 100}) {
        const auto gas =
            sensor.read<climate>(Instant(s * 1000), Sample(static_cast<uint16_t>(raw)), room);
        printf("%3u s: ", static_cast<unsigned>(s));
        show("fumes", gas, ZORILLA_TEXT(" ppm"));
        show(", fan", smoke.decide(gas));
        printf("\n");
        s += 200;
    }
}
