// SPDX-License-Identifier: MIT
#pragma once

#include <fmt/format.h>

#include <algorithm>
#include <random>
#include <string>

namespace desk {

/// Random samples under two or three conditions: clean, noisy, drifting or at the converter's ends.
/// \param times  as many of them
inline std::string random_samples(std::mt19937& random, int times) {
    const auto below = [&random](int n) {
        return static_cast<int>(random() % static_cast<unsigned>(n));
    };
    std::string out = "time (s),light (code),condition\n";
    const int conditions = 2 + below(2);
    double time = 0;
    for (int stretch = 0, n = conditions + below(3); stretch < n; ++stretch) {
        const int condition = stretch < conditions ? stretch : below(conditions);
        const int centre = condition * (20 + below(400)) + below(30) - (below(4) == 0 ? 20 : 0);
        const int noise = below(4) == 0 ? 0 : 1 + below(60);
        for (int i = 0, count = (5 + below(200)) * times; i < count; ++i) {
            const int code =
                std::clamp(centre + (noise == 0 ? 0 : below(2 * noise) - noise), 0, 1023);
            out += below(40) == 0 ? fmt::format("{:.1f},,c{}\n", time, condition)
                                  : fmt::format("{:.1f},{},c{}\n", time, code, condition);
            time += 0.1;
        }
    }
    return out;
}

} // namespace desk
