// SPDX-License-Identifier: MIT
// A box in which bread dough rises: a thermistor by three points of its data sheet in the air, a
// linear chip on the tray, and a heating mat that follows the mean of both, as long as both are
// healthy.
#include "examples/show.hpp"

#include <zorilla/zorilla.hpp>

using namespace zorilla;

constexpr auto bead =
    thermistor(point(0_degC, 32.65_kohm), point(25_degC, 10_kohm), point(60_degC, 2.488_kohm))
        .pull_up(10_kohm)
        .range(0_degC, 60_degC);
constexpr auto chip = linear_chip(10_mV_per_K, 500_mV).reference(3.3_V).range(0_degC, 60_degC);
constexpr auto cool = below(27_degC).release(28_degC);
constexpr auto mat_wiring = relay(active_high).safe(off).min_off(30_s);
static_assert(can_judge(bead, cool));

struct ProofingBox {
    Thermistor<bead> air;
    LinearChip<chip> tray;
    Threshold<cool> is_cool;
    Relay<mat_wiring> mat;

    Reading<Temperature> pass(Instant now, Sample air_raw, Sample tray_raw) {
        const Reading<Temperature> both[] = {air.read(air_raw), tray.read(tray_raw)};
        const auto dough = mean(both);
        mat.drive(now, on_when(is_cool.decide(dough)));
        return dough;
    }
};

int main() {
    ProofingBox box;
    // After a minute: cool, still cool enough, warm, and then the chip's wire is off.
    const int raws[][2] = {{520, 230}, {505, 236}, {484, 245}, {520, 1023}};
    uint32_t now = 0;
    box.pass(Instant(now), Sample(520), Sample(230));
    for (const auto& raw : raws) {
        const auto dough = box.pass(Instant(now += 60'000), Sample(static_cast<uint16_t>(raw[0])),
                                    Sample(static_cast<uint16_t>(raw[1])));
        show("dough", dough, ZORILLA_TEXT(" degC"));
        printf(", mat %s\n", box.mat.value() == on ? "on" : "off");
    }
}
