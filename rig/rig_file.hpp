// SPDX-License-Identifier: MIT
/// \file
/// Rig files: a whole device described in TOML. Every key is explained in docs/rig-file.md.
#pragma once

#include "rig/condition.hpp"

#include <zorilla/zorilla.hpp>

#include <cstdint>
#include <string>
#include <string_view>
#include <variant>
#include <vector>

namespace zorilla::rig {

/// One mistake in a rig file, where it is, and what to write instead.
struct Mistake {
    uint32_t line = 0;
    uint32_t column = 0;
    std::string text;
};

/// A sensor with its table built. It offers what the core's placement checks ask of a sensor.
struct Sense {
    std::string name;
    std::string pin;
    std::variant<ThermistorSpec, LinearChipSpec> spec =
        ThermistorSpec(Resistance{}, TemperatureDifference{});
    TablePlan plan;
    std::vector<int16_t> table;

    template <class Ask> auto ask(Ask question) const { return std::visit(question, spec); }
    Temperature lowest() const {
        return ask([](const auto& s) { return s.lowest(); });
    }
    Temperature highest() const {
        return ask([](const auto& s) { return s.highest(); });
    }
    uint16_t full_scale() const {
        return ask([](const auto& s) { return s.full_scale(); });
    }
    WireEnds wire_ends() const {
        return ask([](const auto& s) { return s.wire_ends(); });
    }
    bool rising() const {
        return ask([](const auto& s) { return s.rising(); });
    }
    uint16_t code_at(Temperature t) const {
        return ask([t](const auto& s) { return s.code_at(t); });
    }
    int32_t counts_inside(Temperature t) const {
        return ask([t](const auto& s) { return s.counts_inside(t); });
    }
};

/// A decision about one sensor.
struct Decide {
    std::string name;
    size_t of = 0; ///< index of the sensor
    ThresholdSpec<Temperature> spec{};
};

/// One claim of an output.
struct RigClaim {
    std::string text; ///< the condition as it was written
    Condition when;
    OnOff then = off;
};

/// An output with its claims in order.
struct Drive {
    std::string name;
    std::string pin;
    RelaySpec spec{active_high};
    std::vector<RigClaim> claims;
};

/// A whole device, checked.
struct Rig {
    std::string name;
    std::string chip;
    uint8_t converter_bits = 0;
    std::vector<Sense> senses;
    std::vector<Decide> decides;
    std::vector<Drive> drives;
};

/// A rig file as far as it could be understood. `rig` may be used only if there is no mistake.
struct RigFile {
    Rig rig;
    std::vector<Mistake> mistakes; ///< in the order of their lines
};

/// Checks the text of a rig file and builds the rig. Never throws on bad text.
RigFile parse_rig(std::string_view text);

/// Reads and checks a rig file. \throws InputError  if the file cannot be read.
RigFile load_rig(const std::string& path);

} // namespace zorilla::rig
