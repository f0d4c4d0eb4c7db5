// SPDX-License-Identifier: MIT
#include "tests/chips/device_runs.hpp"

#include "bench/replay.hpp"
#include "rig/run/running_rig.hpp"
#include "rig/text/files.hpp"
#include "tests/chips/devices.hpp"
#include "tests/winter.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <filesystem>
#include <random>
#include <stdexcept>
#include <unistd.h>

namespace chips {

namespace {

using namespace zorilla;
using rig::Raw;
using rig::RawKind;

template <class D> Bytes run_device(const Fed& fed) {
    D device;
    Bytes out(fed.count() * fed.out_size);
    for (size_t i = 0; i < fed.count(); ++i)
        devices::run(device, &fed.inputs[i * fed.in_size], &out[i * fed.out_size]);
    return out;
}

template <class D>
ExampleDevice example(const std::string& name, const std::string& part, const std::string& trace) {
    return {name, "device_" + part, trace, D::in_size, D::out_size, run_device<D>};
}

void put(Bytes& out, int64_t number, int bytes) {
    for (int i = 0; i < bytes; ++i)
        out.push_back(static_cast<uint8_t>(number >> 8 * i));
}

/// As `devices::In` takes it.
void put(Bytes& out, RawKind kind, Raw raw) {
    const int tag = raw.bits() >= 0 ? 1 : raw.is_silent() ? 0 : 2;
    const int64_t bits = std::max<int64_t>(raw.bits(), 0);
    switch (kind) {
    case RawKind::code: return put(out, tag == 1 ? bits : 0xffff, 2);
    case RawKind::level: return put(out, tag == 1 ? bits : 0xff, 1);
    case RawKind::microseconds:
        put(out, tag == 1 && bits == 0 ? 0 : tag, 1);
        return put(out, bits, 2);
    case RawKind::edges: put(out, tag, 1); return put(out, bits, 2);
    case RawKind::frame:
        put(out, tag, 1);
        for (int i = 4; i >= 0; --i) // the first byte of the frame is its highest
            out.push_back(static_cast<uint8_t>(bits >> 8 * i));
    }
}

void add_pass(Bytes& out, const rig::Rig& rig, uint32_t now, const std::vector<Raw>& raws) {
    put(out, now, 4);
    for (size_t i = 0; i < raws.size(); ++i)
        put(out, rig.senses[i].raw, raws[i]);
}

/// What `put` has packed.
Raw unpacked(const uint8_t*& at, RawKind kind) {
    const auto number = [&at](int bytes) {
        int64_t out = 0;
        for (int i = 0; i < bytes; ++i)
            out |= int64_t{*at++} << 8 * i;
        return out;
    };
    switch (kind) {
    case RawKind::code: {
        const int64_t code = number(2);
        return code == 0xffff ? Raw() : Raw(code);
    }
    case RawKind::level: {
        const int64_t level = number(1);
        return level > 1 ? Raw() : Raw(level);
    }
    case RawKind::microseconds:
    case RawKind::edges:
    case RawKind::frame: break;
    }
    const int64_t tag = number(1);
    int64_t bits = 0;
    if (kind == RawKind::frame)
        for (int i = 0; i < 5; ++i)
            bits = bits << 8 | number(1);
    else
        bits = number(2);
    return tag == 1 ? Raw(bits) : tag == 0 ? Raw::silent() : Raw();
}

/// A raw that wanders, jumps, breaks and gets lost.
class Wanderer {
  public:
    Wanderer(RawKind kind, int64_t most) : kind_(kind), most_(most) {}
    Raw next(std::mt19937& random) {
        const auto below = [&random](uint32_t n) { return static_cast<int64_t>(random() % n); };
        if (below(60) == 0)
            broken_ = below(12);
        if (broken_ > 0 && --broken_ > 4)
            return below(2) == 0 && kind_ != RawKind::code && kind_ != RawKind::level
                       ? Raw::silent()
                       : Raw();
        switch (kind_) {
        case RawKind::code:
            at_ = below(40) == 0 ? below(1024) : at_ + below(13) - 6;
            at_ = std::clamp<int64_t>(at_, 0, most_);
            return Raw(broken_ > 2 ? most_ : broken_ > 0 ? 0 : at_);
        case RawKind::level:
            if (below(25) == 0)
                at_ = 1 - (at_ & 1);
            return Raw(at_ & 1);
        case RawKind::microseconds:
            at_ =
                std::clamp<int64_t>(below(40) == 0 ? below(9000) : at_ + below(61) - 30, 0, 40'000);
            return Raw(broken_ > 0 ? 0 : at_);
        case RawKind::edges:
            if (below(30) == 0)
                speed_ = below(4) * below(12);
            at_ = (at_ + speed_) & 0xffff;
            return Raw(at_);
        case RawKind::frame: break;
        }
        at_ = std::clamp<int64_t>(at_ + below(9) - 4 + (below(50) == 0 ? below(400) - 200 : 0), 0,
                                  1000);
        const auto humid = static_cast<uint8_t>(at_ >> 8), low = static_cast<uint8_t>(at_);
        const auto warm = static_cast<uint8_t>(at_ % 250);
        const auto sum = static_cast<uint8_t>(humid + low + warm + (broken_ > 0 ? 1 : 0));
        return Raw(int64_t{humid} << 32 | int64_t{low} << 24 | int64_t{warm} << 8 | sum);
    }

  private:
    RawKind kind_;
    int64_t most_;
    int64_t at_ = 500;
    int64_t speed_ = 0;
    int64_t broken_ = 0;
};

} // namespace

const std::vector<ExampleDevice>& example_devices() {
    static const std::vector<ExampleDevice> all = {
        example<devices::HenHouse>("hen_house", "HenHouse", ""),
        example<devices::PelletFeeder>("pellet_feeder", "PelletFeeder", "half_hour.csv"),
        example<devices::DewHeater>("dew_heater", "DewHeater", "night.csv"),
        example<devices::RainBarrel>("rain_barrel", "RainBarrel", "shower.csv"),
        example<devices::FumeHood>("fume_hood", "FumeHood", "evening.csv"),
        example<devices::BilgePump>("bilge_pump", "BilgePump", "rough_day.csv"),
        example<devices::ProofingBox>("proofing_box", "ProofingBox", "dough.csv"),
        example<devices::AquariumLight>("aquarium_light", "AquariumLight", "day.csv"),
    };
    return all;
}

rig::Rig rig_of(const ExampleDevice& device) {
    rig::RigFile file =
        rig::load_rig(fmt::format(ZORILLA_SOURCE "/examples/{0}/{0}.toml", device.name));
    if (!file.mistakes.empty())
        throw std::runtime_error(device.name + ": " + file.mistakes.front().text);
    return std::move(file.rig);
}

Fed trace_of(const ExampleDevice& device, const rig::Rig& rig) {
    std::string path = fmt::format(ZORILLA_SOURCE "/examples/{}/{}", device.name, device.trace);
    const bool made = device.trace.empty();
    if (made) {
        path = std::filesystem::temp_directory_path() /
               fmt::format("zorilla-{}-{}.csv", device.name, getpid());
        rig::OutputFile file(path);
        file.write(tests::winter_trace(rig));
        file.commit();
    }
    Fed out{device.firmware, device.in_size, device.out_size, {}};
    bench::TraceReader trace(path, bench::columns_of(rig), [](uint64_t, const std::string& text) {
        throw std::runtime_error(text);
    });
    while (trace.next())
        add_pass(out.inputs, rig, static_cast<uint32_t>(trace.milliseconds()),
                 {trace.raws(), trace.raws() + rig.senses.size()});
    if (made)
        std::filesystem::remove(path);
    return out;
}

Fed random_steps(const ExampleDevice& device, const rig::Rig& rig, size_t count) {
    Fed out{device.firmware, device.in_size, device.out_size, {}};
    std::mt19937 random(5);
    std::vector<Wanderer> wanderers;
    for (const rig::Sense& sense : rig.senses)
        wanderers.emplace_back(sense.raw, sense.largest_raw);
    uint32_t now = 0xffff'ffff - 600'000;
    for (size_t i = 0; i < count; ++i) {
        // Now and then a long pause, so that every timer runs out.
        now += static_cast<uint32_t>(random() % (i % 400 == 0  ? 30'000'000
                                                 : i % 20 == 0 ? 60'000
                                                               : 1500));
        std::vector<Raw> raws;
        for (Wanderer& wanderer : wanderers)
            raws.push_back(wanderer.next(random));
        add_pass(out.inputs, rig, now, raws);
    }
    return out;
}

Bytes run_rig(const Fed& fed, const rig::Rig& rig) {
    rig::RunningRig running(rig);
    std::vector<Raw> raws(rig.senses.size());
    Bytes out;
    out.reserve(fed.count() * fed.out_size);
    for (size_t i = 0; i < fed.count(); ++i) {
        const uint8_t* at = &fed.inputs[i * fed.in_size];
        devices::In time(at);
        at += 4;
        for (size_t s = 0; s < raws.size(); ++s)
            raws[s] = unpacked(at, rig.senses[s].raw);
        running.pass(time.time(), raws.data());
        uint8_t packed[64];
        devices::Out to(packed);
        for (size_t m = 0; m < rig.machines.size(); ++m)
            to.put(running.state(m));
        for (size_t d = 0; d < rig.drives.size(); ++d) {
            const rig::AnyValue value = running.drivens()[d].value;
            switch (rig.drives[d].kind()) {
            case rig::ValueKind::on_off: to.put(value.on_off()); break;
            case rig::ValueKind::duty: to.put(value.duty()); break;
            case rig::ValueKind::colour: to.put(value.colour()); break;
            case rig::ValueKind::tone: to.put(value.tone()); break;
            case rig::ValueKind::stage: to.put(value.stage()); break;
            }
        }
        out.insert(out.end(), static_cast<const uint8_t*>(packed), to.end());
    }
    return out;
}

} // namespace chips
