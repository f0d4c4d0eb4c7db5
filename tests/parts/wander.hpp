// SPDX-License-Identifier: MIT
// A temperature that wanders, for the tests of what judges it.
#pragma once

#include <zorilla/zorilla.hpp>

#include <algorithm>
#include <random>

namespace parts {

using namespace zorilla;

inline Reading<Temperature> degrees(int32_t thousandths) {
    return Reading<Temperature>::of(Temperature::from_thousandths(thousandths));
}
inline const Reading<Temperature> broken =
    Reading<Temperature>::without_value(Health::open_circuit);

/// A value that wanders, now and then jumps, and now and then is not there.
class Wander {
  public:
    Wander(int32_t low, int32_t high) : low_(low), high_(high), value_(low) {}
    Reading<Temperature> next() {
        if (random_() % 40 == 0)
            return broken;
        const auto in = [this](int32_t a, int32_t b) {
            return std::uniform_int_distribution<int32_t>(a, b)(random_);
        };
        value_ =
            random_() % 30 == 0 ? in(low_, high_) : std::clamp(value_ + in(-700, 700), low_, high_);
        return degrees(value_);
    }
    int32_t value() const { return value_; }

  private:
    std::mt19937 random_{11};
    int32_t low_, high_, value_;
};

} // namespace parts
