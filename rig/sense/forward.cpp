// SPDX-License-Identifier: MIT
#include "rig/sense/forward.hpp"

#include <algorithm>
#include <cmath>

namespace zorilla::rig {

double Noise::even() { return static_cast<double>(next()) / one; }

namespace {

/// The generator's steps one to twelve at once: none has to wait for the one before.
struct Steps {
    uint64_t times[12] = {}, plus[12] = {};
    constexpr Steps() {
        uint64_t a = 1, c = 0;
        for (int i = 0; i < 12; ++i) {
            a *= Noise::multiplier;
            c = c * Noise::multiplier + Noise::increment;
            times[i] = a;
            plus[i] = c;
        }
    }
};
constexpr Steps steps;

} // namespace

void Noise::skip() { state_ = state_ * steps.times[11] + steps.plus[11]; }

double Noise::normal() {
    // Added up as whole numbers, which is exact and quick. The factors come from memory: spelt out
    // in the code, there would be twice as many instructions.
    const Steps* at = &steps;
    asm("" : "+r"(at));
    uint64_t sum = 0;
#pragma GCC unroll 12
    for (int i = 0; i < 12; ++i)
        sum += (state_ * at->times[i] + at->plus[i]) >> 11;
    skip();
    return static_cast<double>(static_cast<int64_t>(sum) - 6 * static_cast<int64_t>(one)) / one;
}

double AnalogueModel::exact(double value) const {
    return share(value) * static_cast<double>(uint64_t{1} << bits);
}

double AnalogueModel::share_with(Fault fault, double value) const {
    return fault == Fault::open      ? open_share
           : fault == Fault::shorted ? short_share
           : fault == Fault::swapped ? swapped_share
                                     : share(value);
}

double DividerModel::share(double ohms) const {
    const double part = sensor_to_ground ? ohms / (ohms + pull) : pull / (ohms + pull);
    return part * supply / reference;
}

AnalogueModel DividerModel::model(std::function<double(double)> ohms, int bits) const {
    AnalogueModel out;
    // What is measured is often the same for a while.
    out.share = [*this, ohms = std::move(ohms), of = std::nan(""), is = 0.0](double value) mutable {
        if (value != of) {
            of = value;
            is = share(ohms(value));
        }
        return is;
    };
    out.bits = bits;
    out.open_share = sensor_to_ground ? supply / reference : 0;
    out.short_share = sensor_to_ground ? 0 : supply / reference;
    out.swapped_share = supply / reference;
    return out;
}

std::function<double(double)> beta_ohms(double nominal, double beta, double nominal_celsius) {
    return [=](double celsius) {
        return nominal * std::exp(beta * (1 / (celsius + 273.15) - 1 / (nominal_celsius + 273.15)));
    };
}

std::function<double(double)> steinhart_hart_ohms(double a, double b, double c) {
    // With y = (1/T - a) / (2 c) and x = sqrt((b / (3 c))^3 + y^2), ln R = cbrt(y + x) + cbrt(y -
    // x).
    return [=](double celsius) {
        const double y = (1 / (celsius + 273.15) - a) / (2 * c);
        const double third = b / (3 * c);
        const double x = std::sqrt(third * third * third + y * y);
        return std::exp(std::cbrt(y + x) + std::cbrt(y - x));
    };
}

std::function<double(double)> table_ohms(std::vector<std::pair<double, double>> lines) {
    return [lines = std::move(lines)](double celsius) {
        size_t i = 0;
        while (i + 2 < lines.size() && celsius > lines[i + 1].first)
            ++i;
        const auto inverse = [](double t) { return 1 / (t + 273.15); };
        const double along = (inverse(celsius) - inverse(lines[i].first)) /
                             (inverse(lines[i + 1].first) - inverse(lines[i].first));
        return lines[i].second * std::pow(lines[i + 1].second / lines[i].second, along);
    };
}

std::function<double(double)> photoresistor_ohms(double ohms, double at_lux, double gamma) {
    return [=](double lux) { return ohms * std::pow(lux / at_lux, -gamma); };
}

std::function<double(double)> strayed(std::function<double(double)> ohms, double share) {
    return [ohms = std::move(ohms), share](double value) { return ohms(value) * (1 + share); };
}

std::function<double(double)> gas_ohms(double zero, std::pair<double, double> a,
                                       std::pair<double, double> b) {
    const double steep = std::log(b.second / a.second) / std::log(b.first / a.first);
    return [=](double ppm) { return zero * a.second * std::pow(ppm / a.first, steep); };
}

namespace {

AnalogueModel model_of(std::function<double(double)> share, int bits) {
    AnalogueModel out;
    out.share = std::move(share);
    out.bits = bits;
    return out;
}

} // namespace

AnalogueModel linear_chip_model(double volts_per_kelvin, double volts_at_zero, double reference,
                                int bits) {
    return model_of(
        [=](double celsius) { return (volts_at_zero + volts_per_kelvin * celsius) / reference; },
        bits);
}

AnalogueModel phototransistor_model(double amperes_per_lux, double load, bool load_to_ground,
                                    double reference, int bits) {
    AnalogueModel out = model_of(
        [=](double lux) {
            const double drop = std::min(1.0, lux * amperes_per_lux * load / reference);
            return load_to_ground ? drop : 1 - drop;
        },
        bits);
    out.open_share = load_to_ground ? 0 : 1;
    out.short_share = load_to_ground ? 1 : 0;
    return out;
}

AnalogueModel humidity_chip_model(double volts_per_percent, double volts_at_zero, double loss,
                                  double reference, int bits, double celsius) {
    return model_of(
        [=](double percent) {
            const double signal = percent * (1 - loss * (celsius - 25));
            return (volts_at_zero + volts_per_percent * signal) / reference;
        },
        bits);
}

AnalogueModel points_model(std::vector<std::pair<double, double>> points, int bits) {
    const double full = std::ldexp(1.0, bits);
    return model_of(
        [points = std::move(points), full](double value) {
            size_t i = 0;
            const bool rises = points[1].second > points[0].second;
            while (i + 2 < points.size() && (value > points[i + 1].second) == rises)
                ++i;
            const auto [code, from] = points[i];
            const auto [next, to] = points[i + 1];
            return (code + (value - from) / (to - from) * (next - code)) / full;
        },
        bits);
}

double speed_of_sound(double celsius) { return 331.3 * std::sqrt(1 + celsius / 273.15); }

Raw EchoModel::at(double mm, double celsius, Noise& random, Fault fault) const {
    if (fault == Fault::dropped)
        return {};
    if (fault == Fault::open || fault == Fault::swapped || fault == Fault::shorted)
        return Raw::silent();
    const double heard = fault == Fault::ringing ? blind / 3 : mm + random.normal(noise);
    // Beyond its reach it waits in vain: most give up after some 38 ms.
    const double width = heard > 2 * far ? 38'000 : 2 * heard * 1000 / speed_of_sound(celsius);
    const double held = std::clamp(width, 1.0, 65'535.0);
    const auto whole = static_cast<int64_t>(held);
    return Raw(whole + (held - static_cast<double>(whole) >= 0.5 ? 1 : 0));
}

Frame FrameModel::frame(double percent, double celsius) const {
    Frame out;
    const auto humidity = static_cast<unsigned>(std::lround(percent * 10));
    const auto size = static_cast<unsigned>(std::lround(std::fabs(celsius) * 10));
    const bool below = std::lround(celsius * 10) < 0;
    const auto byte = [](unsigned value) { return static_cast<uint8_t>(value); };
    if (coding == FrameCoding::tenths) {
        out.bytes[0] = byte(humidity >> 8);
        out.bytes[1] = byte(humidity);
        out.bytes[2] = byte(size >> 8 | (below ? 0x80U : 0U));
        out.bytes[3] = byte(size);
    } else {
        out.bytes[0] = byte(humidity / 10);
        out.bytes[1] = byte(humidity % 10);
        out.bytes[2] = byte(size / 10);
        out.bytes[3] = byte(size % 10 | (below ? 0x80U : 0U));
    }
    for (int i = 0; i < 4; ++i)
        out.bytes[4] = byte(out.bytes[4] + out.bytes[i]);
    return out;
}

Raw FrameModel::at(double percent, double celsius, Noise& random, Fault fault) const {
    if (fault == Fault::open || fault == Fault::shorted || fault == Fault::swapped ||
        fault == Fault::dropped)
        return Raw::silent();
    const Frame sent = frame(percent, celsius);
    int64_t bits = 0;
    for (const uint8_t byte : sent.bytes)
        bits = bits << 8 | byte;
    if (fault == Fault::flipped)
        bits ^= int64_t{1} << static_cast<int>(random.even() * 40);
    return Raw(bits);
}

std::vector<uint16_t> FrameModel::pulses(const Frame& frame, double clock, double jitter,
                                         Noise& random) {
    std::vector<uint16_t> out;
    const auto add = [&](double width) {
        const double seen = width * clock + jitter * (2 * random.even() - 1);
        out.push_back(static_cast<uint16_t>(std::lround(seen)));
    };
    add(80);
    add(80);
    for (const uint8_t byte : frame.bytes)
        for (int bit = 7; bit >= 0; --bit) {
            add(50);
            add((byte >> bit & 1) != 0 ? 70 : 26);
        }
    add(50);
    return out;
}

void PulseModel::turn(double rpm, double seconds, Fault fault) {
    if (fault == Fault::open || fault == Fault::stuck || fault == Fault::shorted)
        return;
    edges_ += rpm / 60 * edges_per_turn_ * seconds * (fault == Fault::ringing ? 3 : 1);
}

} // namespace zorilla::rig
