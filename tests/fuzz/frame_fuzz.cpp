// SPDX-License-Identifier: MIT
// Any five bytes: no frame with a wrong checksum may be taken, and what is taken lies in its range.
#include <zorilla/sense/humidity_frame.hpp>

#include <cstdlib>
#include <cstring>
#include <initializer_list>

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
    using namespace zorilla;
    static constexpr auto spec = humidity_frame(FrameCoding::tenths).hold(5_s);
    HumidityFrame<spec> sensor;
    Instant now(0);
    for (; size >= sizeof(Frame); size -= sizeof(Frame), data += sizeof(Frame)) {
        Frame frame;
        std::memcpy(frame.bytes, data, sizeof frame.bytes);
        const bool sums_up = static_cast<uint8_t>(frame.bytes[0] + frame.bytes[1] + frame.bytes[2] +
                                                  frame.bytes[3]) == frame.bytes[4];
        for (const FrameCoding coding : {FrameCoding::tenths, FrameCoding::whole}) {
            const AirReading air = decode_frame(coding, frame);
            if (air.humidity.ok() != air.temperature.ok() || (air.humidity.ok() && !sums_up))
                std::abort();
            if (air.humidity.ok() &&
                (air.humidity.value_or({}) > 100_percent_RH ||
                 air.temperature.value_or({}) > 80_degC || air.temperature.value_or({}) < -40_degC))
                std::abort();
        }
        now = now + 2_s;
        sensor.read(now, FrameSample(frame));
    }
    return 0;
}
