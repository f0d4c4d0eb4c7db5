// SPDX-License-Identifier: MIT
/// \file
/// What a device is promised to keep to, as data.
#pragma once

#include "rig/model/fact.hpp"
#include "rig/model/table.hpp"

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

namespace zorilla::rig {

/// One promise. It changes nothing of what a device does: whoever tries it looks whether it is
/// kept.
struct Promise {
    enum class Is : uint8_t {
        range,       ///< a reading stays within bounds
        times_a_day, ///< an output is switched on at most so often in any 24 hours
        on_a_day,    ///< an output is on for at most so long in any 24 hours
        answered,    ///< whenever `when` is, `then` is, not later than that
        told,        ///< of any fault `then` tells, not later than that
    };
    std::string name;
    Place place;
    Is is = Is::range;
    size_t of = 0; ///< a source, or an output
    std::optional<int32_t> at_least, at_most;
    int64_t most_times = 0;
    int64_t time = 0; ///< ms: how long it may be outside at a time, be on, or be late
    WrittenCondition when, then;
    std::vector<size_t> senses; ///< whose faults are to be told; none of them: of all
    std::string says;           ///< for a person: "roost at least 2 degC"
};

} // namespace zorilla::rig
