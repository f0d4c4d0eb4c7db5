// SPDX-License-Identifier: MIT
/// \file
/// Decisions, as data.
#pragma once

#include "rig/model/fact.hpp"
#include "rig/model/sense.hpp"

#include <zorilla/decide/decide.hpp>

#include <functional>
#include <optional>
#include <string>
#include <vector>

namespace zorilla::rig {

/// A decision.
struct Decide {
    enum class Part : uint8_t { threshold, window, ladder, curve, condition, attempts };
    std::string name;
    Place place;
    Part part = Part::threshold;
    size_t of = 0;                                  ///< index of the source that it judges
    ThresholdSpec<AnyQuantity> spec{};              ///< of a threshold
    WindowSpec<AnyQuantity> window{};               ///< of a window
    std::vector<ThresholdSpec<AnyQuantity>> stages; ///< of a ladder
    std::vector<CurvePoint<AnyQuantity>> points;    ///< of a curve
    Duty floor{};
    Duty dead_band{};
    WrittenCondition when;  ///< of a condition; the cause of an action
    WrittenCondition reset; ///< of counting, and of an action
    std::optional<LastingSpec> lasting;
    uint16_t times = 0; ///< counts so many edges, if above 0
    AttemptsSpec attempts{Duration{}};
    size_t fact = 0; ///< its own truth; a ladder and a curve have none

    /// Whether it judges a quantity.
    bool judges() const { return part < Part::condition; }
    bool has_truth() const { return part != Part::ladder && part != Part::curve; }
};

/// A point of a decision with the one where it lets go, for a person.
struct DecidePoint {
    AnyQuantity at;
    AnyQuantity release;
    std::string words; ///< "cold below", "fans 2 above"
    /// Whether a value has reached it, and whether one lets go.
    std::function<bool(AnyQuantity)> reached;
    std::function<bool(AnyQuantity)> released;
};
/// The code at which a point of a decision turns, among those that a sensor's table reads; of one
/// without such a table the nearest one.
uint16_t code_of_point(const Sense& sense, const std::function<bool(AnyQuantity)>& turned,
                       AnyQuantity at);
/// All points of a decision about a quantity, from its first.
std::vector<DecidePoint> points_of(const Decide& decide);

} // namespace zorilla::rig
