// SPDX-License-Identifier: MIT
// What can be believed of times that were measured on a machine which others use too.
#pragma once

#include <algorithm>
#include <functional>
#include <vector>

namespace speed {

/// What each of several sides took, one after the other, in seconds; a round is one of each.
using Round = std::vector<double>;

/// Whatever else goes on in a machine only ever makes things longer: so what each side takes is the
/// least that it has taken in any round. There are as many rounds as are asked for, and up to four
/// times as many until none has been any quicker for so long.
struct Least {
    Round seconds;
    size_t rounds = 0;
};
inline Least least_of(size_t rounds, const std::function<Round()>& measure) {
    constexpr double quicker = 0.98;
    (void)measure(); // it finds nothing in the machine's caches
    Least out;
    for (size_t steady = 0; out.rounds < 4 * rounds && steady < rounds; ++out.rounds) {
        const Round round = measure();
        ++steady;
        for (size_t i = 0; i < round.size(); ++i) {
            if (out.seconds.size() <= i)
                out.seconds.push_back(round[i]);
            if (round[i] < quicker * out.seconds[i])
                steady = 0;
            out.seconds[i] = std::min(out.seconds[i], round[i]);
        }
    }
    return out;
}

} // namespace speed
