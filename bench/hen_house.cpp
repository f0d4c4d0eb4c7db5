// SPDX-License-Identifier: MIT
#include "bench/hen_house.hpp"

#include "bench/trace/field.hpp"
#include "rig/run/running_rig.hpp"
#include "rig/sense/forward.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <iterator>

namespace zorilla::bench {

using rig::AnalogueModel;
using rig::beta_ohms;
using rig::DividerModel;
using rig::EchoModel;
using rig::Fault;
using rig::FrameModel;
using rig::gas_ohms;
using rig::Noise;
using rig::photoresistor_ohms;

namespace {

constexpr int step_seconds = 5;
constexpr int steps = 3 * 86'400 / step_seconds;
constexpr double step_hours = step_seconds / 3600.0;
const double pi = std::acos(-1.0);

bool door_is_open(double hours) { return hours >= 31 && hours < 33; }
bool hen_is_on_barrel(double hours) { return hours >= 38 && hours < 38.25; }
bool wire_is_off(double hours) { return hours >= 50 && hours < 51; }
/// Held for as long as one row lasts.
bool is_pressed(double hours, double at) { return hours >= at && hours < at + 5.5 / 3600; }
bool plug_is_loose(double hours) { return hours >= 62 && hours < 62.1; }

/// What surrounds the sensors. Hours count from midnight of the first day.
struct House {
    double outside = 0;
    double roost = 3.4;
    double lux = 0.2;
    double water_gap = 520; ///< from the ranger down to the water, in mm
    double humidity = 68;
    double litter = 8;
    double ammonia = 9;

    /// \param air  the ventilator's duty, from 0 to 1
    void go_on(double hours, bool lamp, bool valve, double air) {
        const double mean = hours < 24 ? 0.5 : hours < 48 ? -2.5 : -1.0;
        // Coldest at five in the morning; clouds make it less regular.
        outside = mean - 4.5 * std::cos((hours - 5) * pi / 12) + 0.8 * std::sin(hours * pi / 2.3) +
                  0.5 * std::sin(hours * pi / 0.71);
        const bool open = door_is_open(hours);
        towards(roost, outside + (open ? 1.0 : 5.0) + (lamp ? 9.0 : 0.0), open ? 0.5 : 2.0);
        towards(litter, 9 + 0.25 * outside + (lamp ? 1.0 : 0.0), 6);

        // The sun is up from eight to five; behind it, clouds.
        const double hour = std::fmod(hours, 24);
        const double sun = std::max(0.0, std::sin((hour - 8) * pi / 9));
        const double clouds = 0.55 + 0.35 * std::sin(hours * 1.9) + 0.1 * std::sin(hours * 17);
        lux = 0.2 + (hour > 8 && hour < 17 ? 1500 * std::pow(sun, 1.3) * clouds : 0.0);

        const bool awake = hour > 7.5 && hour < 17.5;
        water_gap += ((awake ? 34.0 : 1.0) - (valve ? 2600.0 : 0.0)) * step_hours;
        water_gap = std::clamp(water_gap, 150.0, 900.0);

        // An hour's stream of air at full duty carries both off.
        const double still = awake ? 72 : 84;
        towards(humidity, still - (still - 50) * air / (air + 0.15), 5 / (1 + 9 * air));
        const double made = 0.12 * (humidity - 35) * std::exp(0.03 * litter);
        const double wind = open ? 1 : air;
        towards(ammonia, 5 * made / (1 + 12 * wind), 8 / (1 + 19 * wind));
    }

  private:
    static void towards(double& value, double goal, double hours) {
        value += (goal - value) * step_hours / hours;
    }
};

/// The sensors of examples/hen_house.
class Sensors {
  public:
    rig::Raw read(const std::string& name, const House& house, int64_t step) {
        const double hours = static_cast<double>(step) * step_hours;
        if (name == "roost")
            return roost_.at(house.roost, noise_, wire_is_off(hours) ? Fault::open : Fault::none);
        if (name == "yard_light")
            return light_.at(house.lux, noise_);
        if (name == "barrel")
            return barrel_.at(house.water_gap, house.litter, noise_,
                              hen_is_on_barrel(hours) ? Fault::ringing : Fault::none);
        if (name == "litter")
            return step % 2 == 0
                       ? litter_.at(house.humidity, house.litter, noise_, frame_fault(step))
                       : rig::Raw();
        if (name == "ammonia")
            return gas_.at(house.ammonia, noise_);
        if (name == "air_button")
            return rig::Raw(is_pressed(hours, 35) ? 0 : 1);
        if (name == "hush_button")
            return rig::Raw(is_pressed(hours, 56.5) ? 0 : 1);
        return {};
    }

  private:
    static Fault frame_fault(int64_t step) {
        if (plug_is_loose(static_cast<double>(step) * step_hours))
            return step % 8 == 0 ? Fault::flipped : Fault::dropped;
        return step % 9170 == 4 ? Fault::flipped : step % 7502 == 6 ? Fault::dropped : Fault::none;
    }
    static AnalogueModel with_noise(AnalogueModel model, double counts) {
        model.noise = counts;
        return model;
    }

    Noise noise_{2024};
    AnalogueModel roost_ = with_noise(DividerModel{10'000}.model(beta_ohms(10'000, 3950), 10), 0.7);
    AnalogueModel light_ =
        with_noise(DividerModel{10'000, false}.model(photoresistor_ohms(10'000, 10, 0.7), 10), 0.6);
    EchoModel barrel_{1.2};
    FrameModel litter_;
    AnalogueModel gas_ = with_noise(
        DividerModel{10'000, false}.model(gas_ohms(30'000, {10, 2.6}, {200, 0.7}), 10), 0.8);
};

/// The house around a device.
class HenHouse : public Surroundings {
  public:
    HenHouse(const rig::Rig& rig, double hours)
        : rig_(rig), begin_(std::llround(hours / step_hours)), raws_(rig.senses.size()) {}
    void begin() override {
        begin_ += passes_;
        passes_ = 0;
    }
    bool next(int64_t& milliseconds) override {
        milliseconds = passes_ * step_seconds * 1000;
        for (size_t i = 0; i < raws_.size(); ++i)
            raws_[i] = sensors_.read(rig_.senses[i].name, house_, begin_ + passes_);
        return true;
    }
    const rig::Raw* raws() const override { return raws_.data(); }
    void passed(const rig::RunningRig& running) override {
        const auto share = [&](std::string_view name) {
            for (size_t i = 0; i < rig_.drives.size(); ++i)
                if (rig_.drives[i].name == name)
                    return running.drivens()[i].value.share(rig_.drives[i].kind()) / 255.0;
            return 0.0;
        };
        house_.go_on(static_cast<double>(begin_ + passes_) * step_hours, share("heat_lamp") > 0,
                     share("water_valve") > 0, share("ventilator"));
        ++passes_;
    }

  private:
    const rig::Rig& rig_;
    int64_t begin_, passes_ = 0; ///< in steps
    House house_;
    Sensors sensors_;
    std::vector<rig::Raw> raws_;
};

} // namespace

std::unique_ptr<Surroundings> hen_house(const rig::Rig& rig, double hours) {
    return std::make_unique<HenHouse>(rig, hours);
}

std::string hen_house_trace(const rig::Rig& rig) {
    rig::RunningRig running(rig);
    HenHouse house(rig, 0);
    fmt::memory_buffer out;
    fmt::format_to(std::back_inserter(out), "time (s)");
    for (const rig::Sense& sense : rig.senses)
        fmt::format_to(std::back_inserter(out), ",{} ({})", sense.name, rig::unit_of(sense.raw));
    out.push_back('\n');
    int64_t now = 0;
    for (int step = 0; step < steps && house.next(now); ++step) {
        fmt::format_to(std::back_inserter(out), "{}", now / 1000);
        for (size_t i = 0; i < rig.senses.size(); ++i)
            fmt::format_to(std::back_inserter(out), ",{}",
                           field_text(rig.senses[i].raw, house.raws()[i]));
        out.push_back('\n');
        running.pass(Instant(static_cast<uint32_t>(now)), house.raws());
        house.passed(running);
    }
    return fmt::to_string(out);
}

} // namespace zorilla::bench
