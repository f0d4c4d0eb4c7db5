// SPDX-License-Identifier: MIT
// Forward models against conversions, through rig files: what a part would deliver for a value must
// come back as that value, for any part; and every fault must be told by its own health.
#include "rig/rig_file.hpp"
#include "rig/run/running_rig.hpp"
#include "rig/sense/forward.hpp"
#include "tests/desk/process.hpp"

#include <gtest/gtest.h>

#include <cmath>
#include <random>
#include <set>

namespace {

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
        : file_(rig::parse_rig(fmt::format("[board]\nchip = \"other\"\nadc_bits = {}\n{}"
                                           "[sense.it]\npin = \"A\"\nping_pin = \"B\"\n{}",
                                           bits, before, keys))) {
        // A pin that a part does not have is the one mistake that is expected here.
        for (const rig::Mistake& mistake : file_.mistakes)
            if (!desk::has(mistake.text, "unknown key \"ping_pin\""))
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
    Raw delivered(const rig::Surroundings& around, Fault fault = Fault::none) const {
        rig::Noise quiet(1);
        return file_.rig.senses.back().part->forward(around, quiet, fault, {});
    }

  private:
    rig::RigFile file_;
    std::string problems_;
    std::optional<rig::RunningRig> running_;
};

double value_of(rig::AnyReading reading) { return reading.value_or({}).thousandths() / 1000.0; }

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
int round_trips(const AnyPart& part, Random& random) {
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

template <class Make> void try_parts(const char* what, unsigned seed, Make make) {
    Random random(seed);
    int values = 0;
    for (int i = 0; i < 300; ++i)
        values += round_trips(make(random), random);
    EXPECT_GE(values, 3000) << what << ": too few of the random parts were usable";
}

std::string divider_keys(const DividerModel& divider) {
    return fmt::format("{} = \"{} ohm\"\nsupply = \"{} mV\"\nreference = \"{} mV\"\n",
                       divider.sensor_to_ground ? "pull_up" : "pull_down", divider.pull,
                       std::lround(divider.supply * 1000), std::lround(divider.reference * 1000));
}

DividerModel any_divider(Random& random, double pull) {
    DividerModel out{std::round(pull), random.whole(0, 1) == 0};
    if (random.whole(0, 2) == 0) {
        out.supply = random.whole(3000, 5000) / 1000.0;
        out.reference = random.whole(3000, 5000) / 1000.0;
    }
    return out;
}

std::string range_keys(double low, double high, const char* unit) {
    return fmt::format("range = [\"{:.3f} {}\", \"{:.3f} {}\"]\n", low, unit, high, unit);
}

TEST(RoundTrip, thermistors_by_beta_and_by_points_and_by_table) {
    try_parts("thermistor", 11, [](Random& random) {
        const double nominal = random.spread(1000, 200'000), beta = random.whole(2500, 5000);
        const auto exact = rig::beta_ohms(nominal, beta);
        const double low = random.whole(-35, 20), high = low + random.whole(15, 90);
        const DividerModel divider = any_divider(random, exact((low + high) / 2));
        const int bits = random.whole(8, 16);
        std::string keys = "part = \"thermistor\"\n" + divider_keys(divider) +
                           range_keys(low, high, "degC") + "accuracy = \"0.05 K\"\n";
        std::function<double(double)> ohms = exact;
        const auto point = [&](double celsius) {
            return std::make_pair(celsius, std::round(exact(celsius)));
        };
        const auto listed = [](std::vector<std::pair<double, double>> points) {
            std::string out;
            for (const auto& [celsius, r] : points)
                out += fmt::format("[\"{} degC\", \"{} ohm\"],", celsius, r);
            return out;
        };
        double absolute = 0.05;
        switch (random.whole(0, 2)) {
        case 0:
            keys += fmt::format("nominal = \"{} ohm\"\nbeta = \"{} K\"\n", nominal, beta);
            break;
        case 1: {
            std::vector<std::pair<double, double>> lines;
            for (double t = low - 5; t <= high + 6; t += 10)
                lines.push_back(point(t));
            keys += "table = [" + listed(lines) + "]\n";
            ohms = rig::table_ohms(lines);
            break;
        }
        default: {
            // The coefficients through three points, in double precision.
            const auto p = point(low), q = point(std::round((low + high) / 2)), r = point(high);
            keys += "points = [" + listed({p, q, r}) + "]\n";
            const auto l = [](auto x) { return std::log(x.second); };
            const auto y = [](auto x) { return 1 / (x.first + 273.15); };
            const double g2 = (y(q) - y(p)) / (l(q) - l(p)), g3 = (y(r) - y(p)) / (l(r) - l(p));
            const double c = (g3 - g2) / (l(r) - l(q)) / (l(p) + l(q) + l(r));
            const double b = g2 - c * (l(p) * l(p) + l(p) * l(q) + l(q) * l(q));
            const double a = y(p) - (b + l(p) * l(p) * c) * l(p);
            if (c < 1e-10) // rounded ohms of a pure Beta part: no curve of this kind
                return AnyPart{"", {}, 0, 0, 0, 0};
            ohms = rig::steinhart_hart_ohms(a, b, c);
        }
        }
        return AnyPart{keys, divider.model(ohms, bits), low, high, absolute, 0};
    });
}

TEST(RoundTrip, a_part_that_strays_is_off_by_what_its_curve_makes_of_it) {
    Alone sensor(
        "part = \"thermistor\"\nnominal = \"10 kohm\"\nbeta = \"3950 K\"\npull_up = \"10 kohm\"\n",
        14);
    ASSERT_TRUE(sensor.usable()) << sensor.problems();
    rig::Noise quiet(1);
    const auto exact = rig::beta_ohms(10'000, 3950);
    const auto read = [&](double share) {
        const auto model = DividerModel{10'000}.model(rig::strayed(exact, share), 14);
        return value_of(sensor.read(model.at(20, quiet)));
    };
    EXPECT_NEAR(read(0), 20, 0.06);
    // dT = T^2 / B dR / R, the slope of the Beta model.
    EXPECT_NEAR(read(-0.05) - read(0), 0.05 * 293.15 * 293.15 / 3950, 0.08);
}

TEST(RoundTrip, linear_chips) {
    try_parts("linear chip", 23, [](Random& random) {
        const int slope =
            random.whole(0, 1) == 0 ? random.whole(1000, 30'000) : -random.whole(1000, 30'000);
        const int at_zero = random.whole(-500, 3000), reference = random.whole(1000, 5000);
        const double low = random.whole(-40, 50), high = low + random.whole(10, 100);
        return AnyPart{
            fmt::format("part = \"linear_chip\"\nslope = \"{} mV/K\"\nat_zero = \"{} mV\"\n"
                        "reference = \"{} mV\"\n{}",
                        slope / 1000.0, at_zero, reference, range_keys(low, high, "degC")),
            rig::linear_chip_model(slope / 1e6, at_zero / 1000.0, reference / 1000.0,
                                   random.whole(8, 16)),
            low,
            high,
            0.01,
            0};
    });
}

TEST(RoundTrip, photoresistors_and_phototransistors) {
    try_parts("photoresistor", 31, [](Random& random) {
        const double ohms = random.spread(2000, 50'000), gamma = random.whole(500, 1000) / 1000.0;
        const auto exact = rig::photoresistor_ohms(ohms, 10, gamma);
        const double low = random.whole(1, 50), high = low * random.whole(5, 40);
        const DividerModel divider = any_divider(random, exact(std::sqrt(low * high)));
        return AnyPart{fmt::format("part = \"photoresistor\"\nresistance = \"{} ohm\"\nat_light = "
                                   "\"10 lx\"\ngamma = {}\n",
                                   ohms, gamma) +
                           divider_keys(divider) + range_keys(low, high, "lx"),
                       divider.model(exact, random.whole(10, 16)),
                       low,
                       high,
                       0,
                       0.01};
    });
    try_parts("phototransistor", 37, [](Random& random) {
        const int sensitivity = random.whole(50, 5000), load = random.whole(1000, 100'000);
        const int reference = random.whole(1100, 5000);
        const double full = reference / 1000.0 / (sensitivity * 1e-9 * load);
        const double low = full * 0.05, high = full * 0.9;
        const bool to_ground = random.whole(0, 1) == 0;
        return AnyPart{
            fmt::format("part = \"phototransistor\"\nsensitivity = \"{} nA/lx\"\nreference = "
                        "\"{} mV\"\nload_to_{} = \"{} ohm\"\n{}",
                        sensitivity, reference, to_ground ? "ground" : "supply", load,
                        range_keys(low, high, "lx")),
            rig::phototransistor_model(sensitivity * 1e-9, load, to_ground, reference / 1000.0,
                                       random.whole(9, 16)),
            low,
            high,
            0.001,
            0.001};
    });
}

TEST(RoundTrip, percent_and_measured_points) {
    try_parts("percent", 41, [](Random& random) {
        const int bits = random.whole(10, 14), full = 1 << bits;
        const int a = random.whole(full / 50, full * 9 / 10),
                  b = random.whole(full / 50, full * 9 / 10);
        if (std::abs(a - b) < full / 8)
            return AnyPart{"", {}, 0, 0, 0, 0};
        return AnyPart{fmt::format("part = \"percent\"\ncode_at_0 = {}\ncode_at_100 = {}\n", a, b),
                       rig::points_model({{a, 0}, {b, 100}}, bits),
                       0,
                       100,
                       0.01,
                       0};
    });
    try_parts("value table", 43, [](Random& random) {
        const int bits = random.whole(10, 14), full = 1 << bits;
        std::vector<std::pair<double, double>> points;
        const bool rises = random.whole(0, 1) == 0;
        double code = full / 20.0, value = random.whole(-100, 100);
        std::string keys = "part = \"value_table\"\npoints = [";
        for (int i = random.whole(2, 8); i > 0; --i) {
            points.emplace_back(std::round(code), std::round(value));
            keys += fmt::format("[{}, \"{} mm\"],", points.back().first, points.back().second);
            code += full / 10.0 * random.between(0.3, 1);
            value += random.whole(5, 400) * (rises ? 1 : -1);
        }
        const double first = points.front().second, last = points.back().second;
        return AnyPart{keys + "]\n",
                       rig::points_model(points, bits),
                       std::min(first, last),
                       std::max(first, last),
                       0.015,
                       0};
    });
}

TEST(RoundTrip, humidity_chips_at_any_temperature) {
    Random random(47);
    rig::Noise quiet(1);
    for (int i = 0; i < 200; ++i) {
        const int slope = random.whole(20, 38), at_zero = random.whole(400, 900);
        const double loss = random.whole(-300, 300) / 1000.0, celsius = random.whole(-20, 60);
        const auto model =
            rig::humidity_chip_model(slope / 1000.0, at_zero / 1000.0, loss / 100, 5, 12, celsius);
        Alone sensor(
            fmt::format("part = \"humidity_chip\"\nslope = \"{} mV/%RH\"\nat_zero = \"{} mV\"\n"
                        "reference = \"5 V\"\nloses = \"{} %/K\"\ntemperature = \"{} degC\"\n"
                        "range = [\"-2 %RH\", \"100 %RH\"]\n",
                        slope, at_zero, loss, celsius),
            12);
        ASSERT_TRUE(sensor.usable()) << sensor.problems();
        for (int k = 0; k < 20; ++k) {
            const double percent = random.between(0, 90);
            const Raw raw = model.at(percent, quiet);
            const auto reading = sensor.read(raw);
            const double count = 5.0 / 4096 / (slope / 1000.0) * 1.2; // one code, at any loss
            ASSERT_TRUE(reading.ok());
            ASSERT_NEAR(value_of(reading), percent, 0.05 + count) << slope << " " << loss;
        }
    }
}

TEST(RoundTrip, gas_sensors_of_any_curve) {
    Random random(53);
    rig::Noise quiet(1);
    int values = 0;
    for (int i = 0; i < 300; ++i) {
        const double low = random.whole(5, 50), high = low * random.whole(4, 30);
        const double a = random.whole(1500, 5000) / 1000.0, b = random.whole(300, 1000) / 1000.0;
        const int zero = random.whole(5, 60) * 1000;
        const auto ohms = rig::gas_ohms(zero, {low, a}, {high, b});
        const DividerModel divider{std::round(zero * std::sqrt(a * b)), false};
        const auto model = divider.model(ohms, 16);
        Alone sensor(
            fmt::format("part = \"gas_sensor\"\npoints = [[\"{} ppm\", {}], [\"{} ppm\", {}]]\n"
                        "pull_down = \"{} ohm\"\nzero = \"{} ohm\"\nwarm_up = \"0 s\"\n",
                        low, a, high, b, divider.pull, zero),
            16);
        if (!sensor.usable())
            continue;
        for (int k = 0; k < 30; ++k, ++values) {
            const double ppm = random.between(low, high * 0.98);
            ASSERT_NEAR(value_of(sensor.read(model.at(ppm, quiet))), ppm, ppm * 0.01 + 0.001)
                << low << " " << a << " " << high << " " << b;
        }
    }
    EXPECT_GE(values, 3000);
}

TEST(RoundTrip, rangers_in_any_air) {
    Random random(59);
    rig::Noise quiet(1);
    for (int i = 0; i < 60; ++i) {
        const int celsius = random.whole(-40, 85);
        Alone sensor(fmt::format("part = \"ranger\"\nblind = \"20 mm\"\nfar = \"4 m\"\n"
                                 "temperature = \"{} degC\"\n",
                                 celsius));
        ASSERT_TRUE(sensor.usable()) << sensor.problems();
        for (int k = 0; k < 60; ++k) {
            const double mm = random.between(21, 3999);
            const Raw raw = rig::EchoModel{}.at(mm, celsius, quiet);
            // The pulse is whole microseconds: 0.1 mm, and half of that rounding.
            ASSERT_NEAR(value_of(sensor.read(raw)), mm, 0.1 + 0.096) << celsius;
        }
    }
}

TEST(RoundTrip, frames_are_exact_in_both_codings_from_bits_and_from_pulses) {
    Random random(61);
    rig::Noise noise(2);
    for (const auto coding : {FrameCoding::tenths, FrameCoding::whole}) {
        Alone sensor(fmt::format("part = \"humidity_frame\"\ncoding = \"{}\"\n",
                                 coding == FrameCoding::tenths ? "tenths" : "whole"));
        ASSERT_TRUE(sensor.usable());
        const rig::FrameModel model{coding};
        for (uint32_t i = 0; i < 5000; ++i) {
            const int percent = random.whole(1, 1000), celsius = random.whole(-400, 800);
            const auto reading =
                sensor.read(model.at(percent / 10.0, celsius / 10.0, noise), i * 2000);
            ASSERT_EQ(reading.value_or({}).thousandths(), percent * 100);
            ASSERT_EQ(sensor.second().value_or({}).thousandths(), celsius * 100);
            const auto pulses = rig::FrameModel::pulses(model.frame(percent / 10.0, celsius / 10.0),
                                                        random.between(0.8, 1.2), 2, noise);
            const FrameSample decoded =
                decode_pulses(pulses.data(), static_cast<uint16_t>(pulses.size()), Level::low);
            ASSERT_TRUE(decoded.has_frame()) << "with a clock up to 20 % off";
            ASSERT_EQ(decode_frame(coding, decoded.frame()).temperature.value_or({}).thousandths(),
                      celsius * 100);
        }
    }
}

TEST(RoundTrip, rates_by_window_and_by_period) {
    Random random(67);
    for (int i = 0; i < 200; ++i) {
        const int edges = random.whole(1, 20);
        const double rpm = random.whole(60, 6000);
        rig::PulseModel model(edges);
        Alone by_window(fmt::format("part = \"pulse_counter\"\nedges_per_turn = {}\nwindow = \"5 "
                                    "s\"\nfastest = \"10000 rpm\"\n",
                                    edges));
        rig::AnyReading reading;
        for (uint32_t ms = 0; ms <= 5000; ms += 50) {
            reading = by_window.read(model.edges(), ms);
            model.turn(rpm, 0.05);
        }
        const double one_edge = 60.0 / 5 / edges;
        ASSERT_NEAR(value_of(reading), rpm, rpm * 0.001 + one_edge) << edges;
        Alone by_period(fmt::format("part = \"pulse_counter\"\nedges_per_turn = {}\nmethod = "
                                    "\"period\"\n",
                                    edges));
        by_period.read(Raw(), 0);
        const Raw period(std::lround(model.period(rpm)));
        const double exact = 60e6 / (static_cast<double>(period.bits()) * edges);
        ASSERT_NEAR(value_of(by_period.read(period, 100)), exact, exact * 0.001);
    }
}

// --- Faults

/// What a sensor says of a fault, and what it must say.
struct FaultCase {
    const char* sensor;
    Fault fault;
    Health expected;
};

const char* name_of(Fault fault) {
    const char* const names[] = {"none",    "wire off", "shorted", "stuck",
                                 "swapped", "dropped",  "flipped", "ringing"};
    return names[static_cast<int>(fault)];
}

/// Runs each sensor healthily first, then with a fault, and hands back what it says within
/// `passes`.
class FaultBench {
  public:
    FaultBench() {
        const DividerModel up{10'000}, down{10'000, false};
        analogue("thermistor",
                 "part = \"thermistor\"\nnominal = \"10 kohm\"\nbeta = \"3950 K\"\npull_up = \"10 "
                 "kohm\"\nrange = [\"-30 degC\", \"80 degC\"]\n",
                 up.model(rig::beta_ohms(10'000, 3950), 10), 20);
        analogue("linear_chip",
                 "part = \"linear_chip\"\nslope = \"10 mV/K\"\nat_zero = \"500 mV\"\nreference = "
                 "\"5 V\"\n",
                 rig::linear_chip_model(0.01, 0.5, 5, 10), 20);
        analogue(
            "photoresistor",
            "part = \"photoresistor\"\nresistance = \"10 kohm\"\nat_light = \"10 lx\"\ngamma = "
            "0.7\npull_down = \"10 kohm\"\n",
            down.model(rig::photoresistor_ohms(10'000, 10, 0.7), 10), 200);
        analogue("phototransistor",
                 "part = \"phototransistor\"\nsensitivity = \"500 nA/lx\"\nload_to_ground = \"10 "
                 "kohm\"\nreference = \"5 V\"\n",
                 rig::phototransistor_model(500e-9, 10'000, true, 5, 10), 200);
        analogue("percent", "part = \"percent\"\ncode_at_0 = 60\ncode_at_100 = 910\n",
                 rig::points_model({{60, 0}, {910, 100}}, 10), 40);
        analogue(
            "humidity_chip",
            "part = \"humidity_chip\"\nslope = \"31 mV/%RH\"\nat_zero = \"800 mV\"\nreference = "
            "\"5 V\"\ntemperature = \"20 degC\"\n",
            rig::humidity_chip_model(0.031, 0.8, 0, 5, 10, 20), 60);
        analogue(
            "gas_sensor",
            "part = \"gas_sensor\"\npoints = [[\"10 ppm\", 2.6], [\"200 ppm\", 0.7]]\npull_down = "
            "\"10 kohm\"\nzero = \"30 kohm\"\nwarm_up = \"0 s\"\n",
            down.model(rig::gas_ohms(30'000, {10, 2.6}, {200, 0.7}), 10), 50);
        analogue("value_table",
                 "part = \"value_table\"\npoints = [[112, \"0 cm\"], [900, \"35 cm\"]]\n",
                 rig::points_model({{112, 0}, {900, 350}}, 10), 100);
        analogue("moisture_probe",
                 "part = \"moisture_probe\"\npower_pin = \"C\"\ndry = 620\nwet = 210\nevery = \"1 "
                 "s\"\nsettle = \"0 s\"\n",
                 rig::points_model({{620, 0}, {210, 100}}, 10), 40);
        add("ranger",
            "part = \"ranger\"\nblind = \"20 mm\"\nfar = \"4 m\"\ntemperature = \"20 degC\"\n",
            [](Fault fault, rig::Noise& noise, Raw before) {
                return fault == Fault::stuck ? before : rig::EchoModel{1}.at(800, 20, noise, fault);
            });
        add("humidity_frame", "part = \"humidity_frame\"\ncoding = \"tenths\"\n",
            [](Fault fault, rig::Noise& noise, Raw before) {
                return fault == Fault::stuck
                           ? before
                           : rig::FrameModel{}.at(60 + noise.normal(), -7.3, noise, fault);
            });
        auto fan = std::make_shared<rig::PulseModel>(2);
        add("pulse_counter",
            "part = \"pulse_counter\"\nedges_per_turn = 2\nwindow = \"2 s\"\nfastest = \"2000 "
            "rpm\"\n",
            [fan](Fault fault, rig::Noise&, Raw before) {
                fan->turn(1200, 2, fault);
                return fault == Fault::dropped ? Raw()
                       : fault == Fault::stuck ? before
                                               : fan->edges();
            });
    }

    Health health_of(const std::string& sensor, Fault fault) {
        const Entry& entry = entries_.at(sensor);
        Alone alone(entry.keys + "stuck_after = \"60 s\"\n");
        EXPECT_TRUE(alone.usable()) << sensor << alone.problems();
        rig::Noise noise(8);
        uint32_t now = 0;
        Raw raw;
        for (int i = 0; i < 20; ++i, now += 2000) {
            raw = entry.raw(Fault::none, noise, raw);
            alone.read(raw, now);
        }
        EXPECT_TRUE(alone.read(raw = entry.raw(Fault::none, noise, raw), now).ok()) << sensor;
        // At once, but for a stuck value, which needs its time, and a probe's converter that
        // delivers nothing for a second.
        rig::AnyReading reading;
        for (int i = 0; i < (fault == Fault::stuck ? 35 : fault == Fault::dropped ? 2 : 1); ++i)
            reading = alone.read(raw = entry.raw(fault, noise, raw), now += 2000);
        return reading.health();
    }
    std::vector<std::string> names() const {
        std::vector<std::string> out;
        for (const auto& [name, entry] : entries_)
            out.push_back(name);
        return out;
    }

  private:
    using MakeRaw = std::function<Raw(Fault, rig::Noise&, Raw)>;
    struct Entry {
        std::string keys;
        MakeRaw raw;
    };
    void add(const std::string& name, const std::string& keys, MakeRaw raw) {
        entries_[name] = {keys, std::move(raw)};
    }
    void analogue(const std::string& name, const std::string& keys, AnalogueModel model,
                  double value) {
        model.noise = 1;
        add(name, keys, [model, value](Fault fault, rig::Noise& noise, Raw before) {
            return model.at(value, noise, fault, before);
        });
    }
    std::map<std::string, Entry> entries_;
};

TEST(Faults, each_is_told_by_its_own_health_within_one_reading) {
    FaultBench bench;
    using F = Fault;
    using H = Health;
    // ok stands where a fault cannot be told in principle; docs/sensors.md says which and why.
    const std::map<std::string, std::map<F, H>> expected = {
        {"thermistor",
         {{F::open, H::open_circuit},
          {F::shorted, H::short_circuit},
          {F::swapped, H::open_circuit}}},
        {"linear_chip",
         {{F::open, H::open_circuit},
          {F::shorted, H::short_circuit},
          {F::swapped, H::open_circuit}}},
        {"photoresistor",
         {{F::open, H::open_circuit},
          {F::shorted, H::short_circuit},
          {F::swapped, H::short_circuit}}},
        {"phototransistor",
         {{F::open, H::open_circuit},
          {F::shorted, H::short_circuit},
          {F::swapped, H::short_circuit}}},
        {"percent",
         {{F::open, H::open_circuit},
          {F::shorted, H::short_circuit},
          {F::swapped, H::open_circuit}}},
        {"humidity_chip",
         {{F::open, H::open_circuit},
          {F::shorted, H::short_circuit},
          {F::swapped, H::open_circuit}}},
        {"gas_sensor",
         {{F::open, H::open_circuit},
          {F::shorted, H::short_circuit},
          {F::swapped, H::short_circuit}}},
        {"value_table",
         {{F::open, H::open_circuit},
          {F::shorted, H::short_circuit},
          {F::swapped, H::open_circuit}}},
        {"moisture_probe",
         {{F::open, H::open_circuit},
          {F::shorted, H::short_circuit},
          {F::swapped, H::open_circuit}}},
        {"ranger",
         {{F::open, H::no_echo},
          {F::shorted, H::no_echo},
          {F::swapped, H::no_echo},
          {F::ringing, H::too_near}}},
        {"humidity_frame",
         {{F::open, H::missing},
          {F::shorted, H::missing},
          {F::swapped, H::missing},
          {F::dropped, H::missing},
          {F::flipped, H::bad_frame}}},
        {"pulse_counter", {{F::open, H::ok}, {F::shorted, H::ok}, {F::ringing, H::out_of_range}}},
    };
    std::string matrix = fmt::format("{:<16}", "");
    for (int f = 1; f <= static_cast<int>(F::ringing); ++f)
        matrix += fmt::format("{:<15}", name_of(static_cast<F>(f)));
    for (const std::string& sensor : bench.names()) {
        matrix += fmt::format("\n{:<16}", sensor);
        for (int f = 1; f <= static_cast<int>(F::ringing); ++f) {
            const auto fault = static_cast<F>(f);
            const auto& wanted = expected.at(sensor);
            const auto found = wanted.find(fault);
            const bool has = found != wanted.end() || fault == F::dropped || fault == F::stuck;
            const H want = found != wanted.end() ? found->second
                           : fault == F::dropped ? H::missing
                                                 : H::stuck;
            const H health = has ? bench.health_of(sensor, fault) : H::ok;
            EXPECT_TRUE(!has || health == want)
                << sensor << ", " << name_of(fault) << ": " << rig::to_text(health);
            matrix += fmt::format("{:<15}", has ? rig::to_text(health) : "-");
        }
    }
    fmt::print("{}\n", matrix);
}

TEST(Faults, every_flipped_bit_of_a_frame_is_told) {
    for (const auto coding : {FrameCoding::tenths, FrameCoding::whole}) {
        const Frame sent = rig::FrameModel{coding}.frame(65.2, -7.3);
        EXPECT_EQ(decode_frame(coding, sent).temperature.value_or({}), Temperature(-7.3_degC));
        for (int bit = 0; bit < 40; ++bit) {
            Frame flipped = sent;
            flipped.bytes[bit / 8] = static_cast<uint8_t>(flipped.bytes[bit / 8] ^ 1 << bit % 8);
            EXPECT_EQ(decode_frame(coding, flipped).temperature.health(), Health::bad_frame) << bit;
        }
    }
}

/// Keys of a part, what surrounds it, and how far what it reads may be off.
struct Sample {
    const char* keys;
    rig::Surroundings around;
    double off;
};

TEST(Rooms, what_each_sensor_delivers_by_its_room_is_read_back_by_it) {
    const Sample samples[] = {
        {"part = \"thermistor\"\nnominal = \"10 kohm\"\nbeta = \"3950 K\"\npull_up = \"10 kohm\"\n",
         {21.5},
         0.1},
        {"part = \"linear_chip\"\nslope = \"10 mV/K\"\nat_zero = \"500 mV\"\nreference = \"5 V\"\n",
         {21.5},
         0.3},
        {"part = \"photoresistor\"\nresistance = \"10 kohm\"\nat_light = \"10 lx\"\ngamma = "
         "0.7\npull_down = \"10 kohm\"\nrange = [\"1 lx\", \"200 lx\"]\n",
         {20},
         0.5},
        {"part = \"phototransistor\"\nsensitivity = \"500 nA/lx\"\nreference = \"5 V\"\n"
         "load_to_supply = \"10 kohm\"\nrange = [\"20 lx\", \"900 lx\"]\n",
         {400},
         1.1},
        {"part = \"percent\"\ncode_at_0 = 100\ncode_at_100 = 900\n", {40}, 0.2},
        {"part = \"moisture_probe\"\npower_pin = \"C\"\ndry = 620\nwet = 210\n", {35}, 0.3},
        {"part = \"humidity_chip\"\nslope = \"31 mV/%RH\"\nat_zero = \"800 mV\"\nreference = \"5 "
         "V\"\nloses = \"0.2 %/K\"\ntemperature = \"40 degC\"\n",
         {55},
         0.3},
        {"part = \"humidity_frame\"\ncoding = \"tenths\"\n", {61.5, -7.5}, 0.001},
        {"part = \"ranger\"\nblind = \"20 mm\"\nfar = \"4 m\"\ntemperature = \"30 degC\"\n",
         {1234},
         0.3},
        {"part = \"gas_sensor\"\npoints = [[\"10 ppm\", 2.6], [\"200 ppm\", 0.7]]\npull_down = "
         "\"10 "
         "kohm\"\nzero = \"30 kohm\"\nwarm_up = \"1 ms\"\n",
         {50},
         1.2},
        {"part = \"digital_input\"\nactive = \"low\"\ndebounce = \"0 s\"\n", {1}, 0},
        {"part = \"analogue_level\"\nlow = \"1.2 V\"\nhigh = \"2.8 V\"\nreference = \"5 V\"\n",
         {1},
         0},
        {"part = \"pulse_counter\"\nedges_per_turn = 2\nmethod = \"period\"\n", {1500}, 1},
        {"part = \"value_table\"\npoints = [[112, \"0 cm\"], [480, \"20 cm\"], [900, \"35 cm\"]]\n",
         {250},
         0.4},
        {"part = \"raw\"\n", {512}, 0.001},
    };
    std::set<std::string> seen;
    for (const Sample& sample : samples) {
        Alone sensor(sample.keys);
        ASSERT_TRUE(sensor.usable()) << sample.keys << sensor.problems();
        const Raw raw = sensor.delivered(sample.around);
        sensor.read(raw, 0); // what warms up, settles, or counts from here
        const rig::AnyReading reading = sensor.read(raw, 10'000);
        ASSERT_TRUE(reading.ok()) << sample.keys;
        EXPECT_NEAR(value_of(reading), sample.around.value, sample.off) << sample.keys;
        if (sample.around.second != 0) {
            EXPECT_NEAR(value_of(sensor.second()), sample.around.second, sample.off);
        }
        seen.insert(std::string(sample.keys, 8, std::string(sample.keys).find('"', 8) - 8));
    }
    for (const rig::SenseKind& kind : rig::sense_kinds())
        EXPECT_TRUE(seen.count(kind.word)) << "no sample of a " << kind.word;
}

} // namespace
