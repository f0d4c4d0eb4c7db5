// SPDX-License-Identifier: MIT
/// \file
/// What the tests of all kinds of sensors share: a sensor alone in a rig file, random parts of it
/// against their forward models, and its faults.
#pragma once

#include "rig/rig_file.hpp"
#include "rig/run/running_rig.hpp"
#include "tests/desk/process.hpp"
#include "tests/parts/promises.hpp"

#include <gtest/gtest.h>

#include <cmath>
#include <map>
#include <optional>
#include <random>
#include <string>

namespace parts {

using namespace zorilla;
using rig::AnalogueModel;
using rig::DividerModel;
using rig::Fault;
using rig::Raw;

/// A rig file's sensor, alone.
class Alone {
  public:
    /// \param keys  all of the table but its pin
    explicit Alone(const std::string& keys, int bits = 10, const std::string& before = "")
        : file_(rig::parse_rig(fmt::format(
              "[board]\nchip = \"other\"\nadc_bits = {}\n{}"
              "[sense.it]\npin = \"A\"\n{}{}",
              bits, before, desk::has(keys, "\"ranger\"") ? "ping_pin = \"B\"\n" : "", keys))) {
        // A pin that a part does not have is the one mistake that is expected here.
        for (const rig::Mistake& mistake : file_.mistakes)
            if (!desk::has(mistake.text, "has no pin"))
                problems_ += mistake.text + "\n";
        if (problems_.empty())
            running_.emplace(file_.rig);
    }
    bool usable() const { return running_.has_value(); }
    const std::string& problems() const { return problems_; }

    rig::AnyReading read(Raw raw, uint32_t ms = 0) {
        if (!running_) {
            ADD_FAILURE() << problems_;
            return {};
        }
        running_->pass(Instant(ms), &raw);
        return running_->readings().front();
    }
    const rig::AnyReading& second() const { return running_->readings()[1]; }
    /// What its room says that the pin delivers.
    Raw delivered(const rig::Surroundings& around, Fault fault = Fault::none, Raw before = {}) {
        return file_.rig.senses.back().part->forward(around, quiet_, fault, before);
    }

  private:
    rig::RigFile file_;
    rig::Noise quiet_{1};
    std::string problems_;
    std::optional<rig::RunningRig> running_;
};

inline double value_of(rig::AnyReading reading) {
    return reading.value_or({}).thousandths() / 1000.0;
}

class Random {
  public:
    explicit Random(unsigned seed) : engine_(seed) {}
    int whole(int low, int high) { return std::uniform_int_distribution<int>(low, high)(engine_); }
    double between(double low, double high) {
        return std::uniform_real_distribution<double>(low, high)(engine_);
    }
    /// Evenly spread over powers of ten, rounded to a whole number.
    double spread(double low, double high) {
        return std::round(std::exp(between(std::log(low), std::log(high))));
    }

  private:
    std::mt19937 engine_;
};

/// One random part: its keys, its model, where its values lie, and how far a reading may be off.
struct AnyPart {
    std::string keys;
    AnalogueModel model;
    double low, high;
    double absolute, relative;
};

/// Values of a part, through its model's code and back.
/// \return  how many were tried; 0 if the part cannot be used in such a range
inline int round_trips(const AnyPart& part, Random& random) {
    Alone sensor(part.keys, part.model.bits);
    if (!sensor.usable())
        return 0;
    rig::Noise quiet(1);
    for (int i = 0; i < 40; ++i) {
        const double value = random.between(part.low, part.high);
        const Raw raw = part.model.at(value, quiet);
        // The model that its room makes of the same keys delivers the same, to a code.
        EXPECT_LE(std::abs(sensor.delivered({value}).bits() - raw.bits()), 1) << part.keys << value;
        for (const Fault fault : {Fault::open, Fault::shorted})
            EXPECT_EQ(sensor.delivered({value}, fault).bits(),
                      part.model.at(value, quiet, fault).bits())
                << part.keys;
        const rig::AnyReading reading = sensor.read(raw);
        const double code = static_cast<double>(raw.bits());
        if (!reading.ok()) { // half a code beyond an end
            const double slack = std::min(std::fabs(part.model.exact(part.low) - code),
                                          std::fabs(part.model.exact(part.high) - code));
            EXPECT_LE(slack, 1) << part.keys << value;
            continue;
        }
        // The code must lie between those of the reading less and more the error.
        const double got = value_of(reading);
        const double off = part.absolute + part.relative * std::fabs(got) + 0.0006;
        const double a = part.model.exact(got - off), b = part.model.exact(got + off);
        EXPECT_TRUE(std::min(a, b) <= code && code <= std::max(a, b))
            << part.keys << "value " << value << " as code " << code << " read " << got;
    }
    return 40;
}

template <class Make> void try_parts(unsigned seed, Make make) {
    Random random(seed);
    int values = 0;
    for (int i = 0; i < 300; ++i)
        values += round_trips(make(random), random);
    EXPECT_GE(values, 3000) << "too few of the random parts were usable";
}

inline std::string divider_keys(const DividerModel& divider) {
    return fmt::format("{} = \"{} ohm\"\nsupply = \"{} mV\"\nreference = \"{} mV\"\n",
                       divider.sensor_to_ground ? "pull_up" : "pull_down", divider.pull,
                       std::lround(divider.supply * 1000), std::lround(divider.reference * 1000));
}

inline DividerModel any_divider(Random& random, double pull) {
    DividerModel out{std::round(pull), random.whole(0, 1) == 0};
    if (random.whole(0, 2) == 0) {
        out.supply = random.whole(3000, 5000) / 1000.0;
        out.reference = random.whole(3000, 5000) / 1000.0;
    }
    return out;
}

inline std::string range_keys(double low, double high, const char* unit) {
    return fmt::format("range = [\"{:.3f} {}\", \"{:.3f} {}\"]\n", low, unit, high, unit);
}

inline const char* name_of(Fault fault) {
    const char* const names[] = {"none",    "wire off", "shorted", "stuck",
                                 "swapped", "dropped",  "flipped", "ringing"};
    return names[static_cast<int>(fault)];
}

/// What the sensor's room says that its pin delivers is read back as it was, by its own reading.
/// \param off  how far it may be off: about a code of ten bits
inline void expect_read_back(const std::string& keys, const rig::Surroundings& around, double off) {
    Alone sensor(keys);
    ASSERT_TRUE(sensor.usable()) << keys << sensor.problems();
    const Raw raw = sensor.delivered(around);
    sensor.read(raw, 0); // what warms up, settles, or counts from here
    const rig::AnyReading reading = sensor.read(raw, 10'000);
    ASSERT_TRUE(reading.ok()) << keys;
    EXPECT_NEAR(value_of(reading), around.value, off) << keys;
    if (around.second != 0) {
        EXPECT_NEAR(value_of(sensor.second()), around.second, off);
    }
}

/// Each fault is told by its own health within one reading; one that was lost is missing, and one
/// that holds still is stuck. ok stands where a fault cannot be told in principle; docs/sensors.md
/// says which and why. \param keys  all but `stuck_after`
inline void expect_faults(const std::string& keys, rig::Surroundings around,
                          std::map<Fault, Health> expected) {
    around.seconds = 2;
    expected.emplace(Fault::dropped, Health::missing);
    expected.emplace(Fault::stuck, Health::stuck);
    for (const auto& [fault, health] : expected) {
        Alone alone(keys + "stuck_after = \"60 s\"\n");
        ASSERT_TRUE(alone.usable()) << alone.problems();
        rig::Noise noise(8);
        uint32_t now = 0;
        Raw raw;
        const auto read = [&](Fault with) {
            // A living value wanders a little.
            rig::Surroundings here = around;
            here.value *= 1 + 0.004 * noise.normal();
            raw = alone.delivered(here, with, raw);
            return alone.read(raw, now += 2000);
        };
        for (int i = 0; i < 20; ++i)
            read(Fault::none);
        EXPECT_TRUE(read(Fault::none).ok()) << keys;
        // At once, but for a stuck value, which needs its time, and a probe's converter that
        // delivers nothing for a second.
        rig::AnyReading reading;
        for (int i = 0; i < (fault == Fault::stuck ? 35 : fault == Fault::dropped ? 2 : 1); ++i)
            reading = read(fault);
        EXPECT_EQ(reading.health(), health)
            << keys << name_of(fault) << ": " << rig::to_text(reading.health());
    }
}

} // namespace parts
