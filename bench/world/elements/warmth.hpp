// SPDX-License-Identifier: MIT
/// \file
/// A body that is warm, as others need to know it.
#pragma once

#include "bench/world/element.hpp"

namespace zorilla::bench {

/// A body of one temperature. C dT/dt = sum of P - sum of G (T - T_other): Newton's law of cooling,
/// lumped capacitance (F. Incropera and others, Fundamentals of Heat and Mass Transfer, 7th ed.,
/// section 5.1). States: its temperature, the heat that it was given, the heat that it has lost.
class Warmth : public Element {
  public:
    static constexpr uint32_t temperature = 0, given = 1, lost = 2;

    std::vector<WorldValue> values() const override { return {{name, rig::Kind::temperature}}; }
    uint32_t states() const override { return 3; }
    bool first_is_state() const override { return true; }
    void read(rig::TableReader& keys, WorldScope& scope) override;
    void begin(double* states, const double* values) const override;
    void rates(const double* states, const double* values, double* rates) const override;
    bool tell(const double* states, double* values) const override {
        values[value] = states[state];
        return true;
    }
    double fastest() const override;
    double slowest() const override;
    std::optional<Climate> climate() const override { return Climate{value}; }

    /// Lets so many watts flow out of it.
    void lose(double watts, double* rates) const {
        rates[state + temperature] -= watts / capacity;
        rates[state + lost] += watts;
    }

    double capacity = 1000;     ///< J/K
    std::vector<Acting> warmed; ///< W
    std::vector<Acting> cooled; ///< W
    struct Loss {
        Acting heat; ///< W/K
        WorldRef to;
        const Warmth* body = nullptr; ///< which warms by it, if it is one
    };
    std::vector<Loss> losses;
    std::optional<double> start; ///< degC; else as warm as what it loses its heat to
};

} // namespace zorilla::bench
