// SPDX-License-Identifier: MIT
// The example devices, packed for whoever feeds them: raw inputs of one pass in, what every machine
// and output does out. The same code packs for the desk and for each chip.
#pragma once

#include "examples/aquarium_light/aquarium_light.hpp"
#include "examples/bilge_pump/bilge_pump.hpp"
#include "examples/dew_heater/dew_heater.hpp"
#include "examples/fume_hood/fume_hood.hpp"
#include "examples/hen_house/hen_house.hpp"
#include "examples/pellet_feeder/pellet_feeder.hpp"
#include "examples/proofing_box/proofing_box.hpp"
#include "examples/rain_barrel/rain_barrel.hpp"

#include <stdint.h>

namespace devices {

using namespace zorilla;

/// Reads the inputs of one pass: the time, then one raw after the other.
class In {
  public:
    explicit In(const uint8_t* at) : at_(at) {}
    Instant time() { return Instant(number(4)); }
    /// Two bytes; all ones where none was taken.
    Sample code() {
        const auto n = static_cast<uint16_t>(number(2));
        return n == 0xffff ? Sample() : Sample(n);
    }
    /// One byte; above one where none was taken.
    LevelSample level() {
        const uint32_t n = number(1);
        return n > 1 ? LevelSample() : LevelSample(n == 1 ? Level::high : Level::low);
    }
    /// One byte that tells whether one came (1), none came (0), or nobody asked; two of its width.
    Echo echo() {
        const uint32_t is = number(1);
        const auto width = static_cast<uint16_t>(number(2));
        return is == 1 ? Echo(width) : is == 0 ? Echo::none() : Echo();
    }
    /// The same, and five bytes.
    FrameSample frame() {
        const uint32_t is = number(1);
        Frame frame{};
        for (uint8_t& byte : frame.bytes)
            byte = static_cast<uint8_t>(number(1));
        return is == 1 ? FrameSample(frame) : is == 0 ? FrameSample::silent() : FrameSample();
    }
    /// One byte that tells whether it was read; two of the count.
    PulseSample edges() {
        PulseSample out;
        out.taken = number(1) == 1;
        out.edges = static_cast<uint16_t>(number(2));
        return out;
    }

  private:
    uint32_t number(uint8_t bytes) {
        uint32_t out = 0;
        for (uint8_t i = 0; i < bytes; ++i)
            out |= uint32_t{*at_++} << 8 * i;
        return out;
    }
    const uint8_t* at_;
};

/// Writes what came of it.
class Out {
  public:
    explicit Out(uint8_t* at) : at_(at) {}
    Out& put(uint8_t byte) {
        *at_++ = byte;
        return *this;
    }
    Out& put(OnOff value) { return put(static_cast<uint8_t>(value)); }
    Out& put(Duty value) { return put(value.of_255()); }
    Out& put(Stage value) { return put(value.number()); }
    Out& put(Colour value) { return put(value.red).put(value.green).put(value.blue); }
    Out& put(Tone value) {
        return put(static_cast<uint8_t>(value.hertz)).put(static_cast<uint8_t>(value.hertz >> 8));
    }
    const uint8_t* end() const { return at_; }

  private:
    uint8_t* at_;
};

// One class for each: how large its packed inputs and outputs are, and one pass.

struct HenHouse {
    static constexpr uint8_t in_size = 4 + 2 + 2 + 6 + 3 + 2 + 1 + 1, out_size = 10;
    hen_house::Device device;
    static hen_house::Inputs inputs(In& in) {
        return {in.code(), in.code(), in.frame(), in.echo(), in.code(), in.level(), in.level()};
    }
    void report(Out out) const {
        out.put(static_cast<uint8_t>(device.watch.state()))
            .put(device.heat_lamp.value())
            .put(device.water_valve.value())
            .put(device.dusk_lamp.value())
            .put(device.ventilator.value())
            .put(device.buzzer.value())
            .put(device.status.value());
    }
};

struct PelletFeeder {
    static constexpr uint8_t in_size = 4 + 2 + 1 + 1, out_size = 4;
    pellet_feeder::Device device;
    static pellet_feeder::Inputs inputs(In& in) { return {in.code(), in.level(), in.level()}; }
    void report(Out out) const {
        out.put(static_cast<uint8_t>(device.feeder.state()))
            .put(device.forward.value())
            .put(device.back.value())
            .put(device.call.value());
    }
};

struct DewHeater {
    static constexpr uint8_t in_size = 4 + 6 + 2, out_size = 2;
    dew_heater::Device device;
    static dew_heater::Inputs inputs(In& in) { return {in.frame(), in.code()}; }
    void report(Out out) const { out.put(device.band.value()).put(device.lamp.value()); }
};

struct RainBarrel {
    static constexpr uint8_t in_size = 4 + 3 + 1, out_size = 4;
    rain_barrel::Device device;
    static rain_barrel::Inputs inputs(In& in) { return {in.echo(), in.level()}; }
    void report(Out out) const {
        out.put(device.bar.value()).put(device.run_off.value()).put(device.whistle_pipe.value());
    }
};

struct FumeHood {
    static constexpr uint8_t in_size = 4 + 2 + 3 + 1 + 1, out_size = 5;
    fume_hood::Device device;
    static fume_hood::Inputs inputs(In& in) {
        return {in.code(), in.edges(), in.level(), in.level()};
    }
    void report(Out out) const {
        out.put(device.fan.value()).put(device.iron.value()).put(device.light.value());
    }
};

struct BilgePump {
    static constexpr uint8_t in_size = 4 + 2 + 1 + 1, out_size = 4;
    bilge_pump::Device device;
    static bilge_pump::Inputs inputs(In& in) { return {in.code(), in.level(), in.level()}; }
    void report(Out out) const {
        out.put(device.pump.value()).put(device.horn.value()).put(device.lamp.value());
    }
};

struct ProofingBox {
    static constexpr uint8_t in_size = 4 + 2 + 2, out_size = 4;
    proofing_box::Device device;
    static proofing_box::Inputs inputs(In& in) { return {in.code(), in.code()}; }
    void report(Out out) const {
        out.put(device.mat.value())
            .put(device.second_mat.value())
            .put(device.flap.value())
            .put(device.light.value());
    }
};

struct AquariumLight {
    static constexpr uint8_t in_size = 4 + 2 + 1, out_size = 5;
    aquarium_light::Device device;
    static aquarium_light::Inputs inputs(In& in) { return {in.code(), in.level()}; }
    void report(Out out) const {
        out.put(static_cast<uint8_t>(device.sky.state()))
            .put(device.colours.value())
            .put(device.white.value());
    }
};

/// One pass of a device, from packed to packed.
template <class D> void run(D& device, const uint8_t* from, uint8_t* to) {
    In in(from);
    const Instant now = in.time();
    device.device.pass(now, D::inputs(in));
    device.report(Out(to));
}

} // namespace devices
