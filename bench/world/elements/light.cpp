// SPDX-License-Identifier: MIT
// Daylight, and lamps.
#include "bench/world/elements/elements.hpp"

#include <algorithm>
#include <cmath>

namespace zorilla::bench {

using rig::Kind;

namespace {

/// Sine of the sun's height. Declination after P. I. Cooper, The absorption of radiation in solar
/// stills (Solar Energy 12, 1969); the sun is highest at noon.
double sine_of_height(double latitude, double day_of_year, double hour) {
    const double declination = 23.45 * pi / 180 * std::sin(2 * pi * (284 + day_of_year) / 365);
    const double turned = pi / 12 * (hour - 12);
    return std::sin(latitude) * std::sin(declination) +
           std::cos(latitude) * std::cos(declination) * std::cos(turned);
}

/// Illuminance on level ground in lx, of a clear and of an overcast sky. Daylight availability by
/// the IES Lighting Handbook, reference volume (1984): direct 127.5 klx through an air mass with an
/// extinction of 0.21; the clear sky 0.8 + 15.5 sqrt(sin h) klx, the overcast one 0.3 + 21 sin h.
/// Below the horizon both fade evenly by the logarithm, to 3.4 lx at the end of civil dusk (6
/// degrees) of a clear sky.
double daylight(double sine, bool clear) {
    const double at_horizon = clear ? 800 : 300;
    if (sine <= 0) {
        const double degrees = -std::asin(sine) * 180 / pi;
        return at_horizon * std::exp(-degrees / 6 * std::log(800 / 3.4));
    }
    const double direct = 127'500 * std::exp(-0.21 / sine) * sine;
    return clear ? direct + 800 + 15'500 * std::sqrt(sine) : 300 + 21'000 * sine;
}

class Light : public Element {
  public:
    std::vector<WorldValue> values() const override {
        return {{name, Kind::light}, {name + ".sky", Kind::light}};
    }

    void read(rig::TableReader& keys, WorldScope& scope) override {
        latitude_ = keys.ratio("latitude").value_or(48'000) / 1000.0;
        keys.expect(std::abs(latitude_) <= 66, "latitude",
                    "between -66 and 66: nearer to the poles there are days without a night");
        latitude_ *= pi / 180;
        const auto share = [&](const char* key, double without) {
            const auto is = keys.quantity(key, Kind::percentage, "50 %");
            return is && keys.expect(*is >= 0 && *is <= 100'000, key, "between 0 and 100 %")
                       ? rig::in_formulas(*is, Kind::percentage) / 100
                       : without;
        };
        clouds_ = share("clouds", 0.5);
        reaches_ = share("reaches", 1);
        if (keys.find("under") != nullptr)
            under_ = scope.element(keys, "under", "weather", "whose wet days are overcast");
        if (const auto night = keys.quantity("night", Kind::light, "0.1 lx"))
            night_ = rig::in_formulas(*night, Kind::light);
        lamps_ = actings(keys, "lamps", "adds", Kind::light, scope);
        stream_ = stream_of(name);
    }

    void happen_slowly(const Moment& now, double* values) const override {
        const double hours = now.of_day / 3600;
        const double sine = sine_of_height(latitude_, now.day_of_year, std::fmod(hours, 24));
        const double clear = daylight(sine, true), overcast = daylight(sine, false);
        // Clouds that come and go within hours, over and under their usual share.
        const double wave = 0.5 * smooth_chance(now.seed, stream_, hours / 3, 0) +
                            0.25 * smooth_chance(now.seed, stream_ + 1, hours * 2, 0);
        double covered =
            clouds_ <= 0 || clouds_ >= 1 ? clouds_ : std::clamp(clouds_ + 0.6 * wave, 0.0, 1.0);
        if (under_ != nullptr) // weather stands before light, and is as it is now
            covered += values[under_->value + 3] / 100 * (1 - covered);
        values[value + 1] = night_ + reaches_ * (clear + covered * (overcast - clear));
    }
    bool tell(const double*, double* values) const override {
        values[value] = values[value + 1] + sum_of(lamps_, values);
        return true;
    }

  private:
    double latitude_ = 0, clouds_ = 0.5, reaches_ = 1, night_ = 0.05;
    const Element* under_ = nullptr; ///< a weather
    std::vector<Acting> lamps_;      ///< lx
    uint64_t stream_ = 0;
};

} // namespace

ElementKind light_element() {
    return {"light",
            "Light where the sensor is: day and season, clouds, lamps.",
            {{"latitude", "48.1"},
             {"clouds", "\"50 %\""},
             {"under", "\"outside\""},
             {"reaches", "\"4 %\""},
             {"night", "\"0.1 lx\""},
             {"lamps", "[ { by = \"dusk_lamp\", adds = \"40 lx\" } ]"}},
            [] { return std::unique_ptr<Element>(std::make_unique<Light>()); }};
}

} // namespace zorilla::bench
