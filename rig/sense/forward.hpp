// SPDX-License-Identifier: MIT
/// \file
/// Forward models: from what is to be measured to what a sensor's pin delivers, with noise,
/// tolerance and faults. In double precision, straight from the formulas and apart from the core's
/// conversions, which are tried against them.
#pragma once

#include "rig/model/raw.hpp"

#include <algorithm>
#include <cstdint>
#include <functional>
#include <vector>

namespace zorilla::rig {

/// Noise that is the same everywhere: a linear congruential generator (D. E. Knuth, The Art of
/// Computer Programming, volume 2, section 3.3.4, table 1, line 26), twelve of its numbers added up
/// to a nearly normal one.
class Noise {
  public:
    explicit Noise(uint64_t seed) : state_(seed) {}
    /// From 0 to 1.
    double even();
    /// With a mean of 0 and a deviation of 1.
    double normal();
    /// That one times a deviation.
    double normal(double deviation) {
        if (deviation != 0)
            return deviation * normal();
        skip();
        return 0;
    }

    static constexpr uint64_t multiplier = 6364136223846793005U, increment = 1442695040888963407U;

  private:
    static constexpr double one = 9007199254740992.0; ///< 2^53
    /// As far as for a normal one.
    void skip();
    uint64_t next() {
        state_ = state_ * multiplier + increment;
        return state_ >> 11;
    }
    uint64_t state_;
};

/// What may be wrong with a sensor.
enum class Fault {
    none,
    open,    ///< its wire is off
    shorted, ///< its wires touch
    stuck,   ///< it delivers the same for ever
    swapped, ///< two of its pins are the wrong way round
    dropped, ///< what it sent got lost
    flipped, ///< a bit was turned over on the way
    ringing, ///< a ranger hears its own ping
};

/// What there is around a sensor: what it measures, and what has a say in that.
struct Surroundings {
    double value = 0;  ///< in the unit in which readings are counted; of a truth 0 or 1
    double second = 0; ///< of a sensor of two quantities, the other one
    double celsius = 20;
    double humidity = 50; ///< in %RH
    double seconds = 1;   ///< since the raw input before
    double noise = 0;     ///< deviation: in counts of the converter, of a ranger in mm
};
/// What a sensor's pin delivers. \param before  the raw input before, if there was one
using ForwardModel = std::function<Raw(const Surroundings&, Noise&, Fault fault, Raw before)>;

/// A sensor on an analogue pin.
struct AnalogueModel {
    /// Of the converter's reference, for a value. It may remember the last one: whoever asks
    /// from another thread takes a copy.
    std::function<double(double)> share;
    int bits = 10;
    double noise = 0;       ///< deviation in counts
    double open_share = 1;  ///< what a wire that is off reads
    double short_share = 0; ///< what touching wires read
    double swapped_share = 1;

    /// The code for a value. \param before  what a stuck one stays at
    Raw at(double value, Noise& random, Fault fault = Fault::none, Raw before = {},
           double more_noise = 0) const {
        const auto full = static_cast<double>(uint64_t{1} << bits);
        double code = 0;
        if (fault == Fault::none) {
            code = share(value) * full;
        } else {
            if (fault == Fault::stuck && before.taken())
                return before;
            if (fault == Fault::dropped)
                return {};
            code = share_with(fault, value) * full;
        }
        if (const double deviation = noise + more_noise; deviation > 0)
            code += deviation * random.normal();
        // What is left of it is not below 0, and so is rounded down.
        return Raw(static_cast<int64_t>(std::clamp(code + 0.5, 0.0, full - 1)));
    }
    /// Of the reference, while something is wrong.
    double share_with(Fault fault, double value) const;
    /// The exact code, not rounded.
    double exact(double value) const;
    /// The same for all surroundings.
    ForwardModel forward() const {
        return [*this](const Surroundings& around, Noise& random, Fault fault, Raw before) {
            return at(around.value, random, fault, before, around.noise);
        };
    }
};

/// A resistive sensor of so many ohms in a divider.
struct DividerModel {
    double pull;
    bool sensor_to_ground = true;
    double supply = 5;
    double reference = 5;

    double share(double ohms) const;
    /// The sensor's model from its resistance at a value.
    AnalogueModel model(std::function<double(double)> ohms, int bits) const;
};

/// ohms at a temperature in degC, by the Beta model.
std::function<double(double)> beta_ohms(double nominal, double beta, double nominal_celsius = 25);
/// By the Steinhart-Hart equation, turned round by Cardano's formula.
std::function<double(double)> steinhart_hart_ohms(double a, double b, double c);
/// By a table of temperatures and ohms, ln R straight over 1/T.
std::function<double(double)> table_ohms(std::vector<std::pair<double, double>> lines);
/// ohms at an illuminance in lx.
std::function<double(double)> photoresistor_ohms(double ohms, double at_lux, double gamma);
/// A part that strays from its data sheet by a share of its resistance, such as 0.01 for 1 %.
std::function<double(double)> strayed(std::function<double(double)> ohms, double share);
/// ohms of a gas sensor at a concentration in ppm, through two points (ppm, Rs / R0).
std::function<double(double)> gas_ohms(double zero, std::pair<double, double> a,
                                       std::pair<double, double> b);

AnalogueModel linear_chip_model(double volts_per_kelvin, double volts_at_zero, double reference,
                                int bits);
AnalogueModel phototransistor_model(double amperes_per_lux, double load, bool load_to_ground,
                                    double reference, int bits);
/// A humidity chip at a temperature in degC.
AnalogueModel humidity_chip_model(double volts_per_percent, double volts_at_zero, double loss,
                                  double reference, int bits, double celsius);
/// A sensor by straight lines between measured pairs of a code and a value.
AnalogueModel points_model(std::vector<std::pair<double, double>> points, int bits);

/// Speed of sound in dry air, in m/s.
double speed_of_sound(double celsius);

/// An ultrasonic ranger.
struct EchoModel {
    double noise = 0; ///< deviation in mm
    double blind = 20, far = 4000;
    Raw at(double mm, double celsius, Noise& noise, Fault fault = Fault::none) const;
};

/// A one-wire humidity sensor.
struct FrameModel {
    FrameCoding coding = FrameCoding::tenths;

    Frame frame(double percent, double celsius) const;
    Raw at(double percent, double celsius, Noise& noise, Fault fault = Fault::none) const;
    /// The pulses of a frame, low first, in microseconds as a clock sees them that is so much off.
    static std::vector<uint16_t> pulses(const Frame& frame, double clock, double jitter,
                                        Noise& noise);
};

/// Something that turns and makes edges.
class PulseModel {
  public:
    explicit PulseModel(double edges_per_turn) : edges_per_turn_(edges_per_turn) {}
    /// Turns on for so many seconds; a fault stands still, or chatters (ringing).
    void turn(double rpm, double seconds, Fault fault = Fault::none);
    Raw edges() const { return Raw(static_cast<int64_t>(edges_)); }
    /// Microseconds between two edges at a speed.
    double period(double rpm) const { return 60e6 / (rpm * edges_per_turn_); }

  private:
    double edges_per_turn_;
    double edges_ = 0;
};

} // namespace zorilla::rig
