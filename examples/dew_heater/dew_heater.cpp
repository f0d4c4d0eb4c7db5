// SPDX-License-Identifier: MIT
// A telescope's dew heater: a one-wire sensor gives the air's dew point, a thermistor the lens; the
// heater is on while the lens is less than 2 K above the dew point. The pulses of the frame are
// decoded here too.
#include "examples/show.hpp"

#include <zorilla/zorilla.hpp>

using namespace zorilla;

constexpr auto air_part = humidity_frame(FrameCoding::tenths).every(5_s).tries(3).hold(10_s);
constexpr auto lens_part = thermistor(10_kohm, 3950_K).pull_up(10_kohm).range(-25_degC, 50_degC);
constexpr auto close_to_dew = below(2_K).release(3_K);

struct DewHeater {
    HumidityFrame<air_part> air;
    Thermistor<lens_part> lens;
    Threshold<close_to_dew> close;

    Truth pass(Instant now, FrameSample frame, Sample lens_raw) {
        const AirReading outside = air.read(now, frame);
        dew = dew_point(outside.temperature, outside.humidity);
        margin = difference(lens.read(lens_raw), dew);
        return close.decide(margin);
    }
    Reading<Temperature> dew;
    Reading<TemperatureDifference> margin;
};

/// The pulses that a sensor sends for a frame, as a capture on the pin would give them.
FrameSample captured(const Frame& frame) {
    FrameCapture capture;
    capture.pulse(Level::low, 80);
    capture.pulse(Level::high, 80);
    for (const uint8_t byte : frame.bytes)
        for (int bit = 7; bit >= 0; --bit) {
            capture.pulse(Level::low, 50);
            capture.pulse(Level::high, (byte >> bit & 1) != 0 ? 70 : 26);
        }
    capture.pulse(Level::low, 50);
    return capture.result();
}

int main() {
    DewHeater heater;
    const Frame evening{{0x03, 0x0c, 0x00, 0x41, 0x50}}; // 78.0 %RH at 6.5 degC
    const Frame night{{0x02, 0x8c, 0x80, 0x49, 0x57}};   // 65.2 %RH at -7.3 degC
    Frame damaged = night;
    damaged.bytes[3] ^= 0x10;
    const struct {
        Frame frame;
        int lens;
    } steps[] = {{evening, 700}, {evening, 780}, {night, 905},
                 {damaged, 905}, {damaged, 905}, {damaged, 905}};
    uint32_t now = 0;
    for (const auto& step : steps) {
        const Truth heat = heater.pass(Instant(now += 5000), captured(step.frame),
                                       Sample(static_cast<uint16_t>(step.lens)));
        show("dew point", heater.dew, ZORILLA_TEXT(" degC"));
        show(", lens above it", heater.margin, ZORILLA_TEXT(" K"));
        show(", heat", heat);
        printf("\n");
    }
}
