// SPDX-License-Identifier: MIT
#include "bench/winter.hpp"

#include "rig/running_rig.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <iterator>

namespace zorilla::bench {

namespace {

/// Noise that is the same everywhere: a linear congruential generator (D. E. Knuth, The Art of
/// Computer Programming, volume 2, section 3.3.4, table 1, line 26), twelve of its numbers added up
/// to a nearly normal one.
class Noise {
  public:
    double normal() {
        double sum = -6;
        for (int i = 0; i < 12; ++i) {
            state_ = state_ * 6364136223846793005U + 1442695040888963407U;
            sum += static_cast<double>(state_ >> 11) / 9007199254740992.0;
        }
        return sum;
    }

  private:
    uint64_t state_ = 2024;
};

constexpr double step_seconds = 2;
constexpr int steps = 3 * 86'400 / 2;

double outside(double hours) {
    const double pi = std::acos(-1.0);
    const double mean = hours < 24 ? 0.5 : hours < 48 ? -2.5 : -1.0;
    // Coldest at five in the morning; clouds make it less regular.
    return mean - 4.5 * std::cos((hours - 5) * pi / 12) + 0.8 * std::sin(hours * pi / 2.3) +
           0.5 * std::sin(hours * pi / 0.71);
}

bool door_is_open(double hours) { return hours >= 31 && hours < 33; }
bool wire_is_off(double hours) { return hours >= 50 && hours < 51; }

/// The code of a 10 kohm, 3950 K thermistor to ground under a pull-up of 10 kohm, 10 bits.
double exact_code(double celsius) {
    const double ratio = std::exp(3950 * (1 / (celsius + 273.15) - 1 / 298.15));
    return 1024 * ratio / (1 + ratio);
}

} // namespace

std::string winter_trace(const rig::Rig& rig) {
    rig::RunningRig running(rig);
    Noise noise;
    double roost = 3.4;
    fmt::memory_buffer out;
    fmt::format_to(std::back_inserter(out), "time (s),{} (code)\n", rig.senses.front().name);
    for (int i = 0; i < steps; ++i) {
        const double seconds = i * step_seconds;
        const double hours = seconds / 3600;
        const double noisy = exact_code(roost) + 0.7 * noise.normal();
        const double code = wire_is_off(hours) ? 1022.6 + 0.4 * noise.normal() : noisy;
        const auto sample = Sample(static_cast<uint16_t>(std::clamp(std::lround(code), 0L, 1023L)));
        fmt::format_to(std::back_inserter(out), "{},{}\n", i * 2, sample.code());
        running.pass(Instant(static_cast<uint32_t>(i) * 2000), &sample);

        const bool lamp = running.switchings().front().value == on;
        const bool open = door_is_open(hours);
        const double warmed_to = outside(hours) + (open ? 1.0 : 5.0) + (lamp ? 9.0 : 0.0);
        const double hours_to_follow = open ? 0.5 : 2.0;
        roost += (warmed_to - roost) * step_seconds / 3600 / hours_to_follow;
    }
    return fmt::to_string(out);
}

} // namespace zorilla::bench
