// SPDX-License-Identifier: MIT
/// \file
/// Rig files: a whole device described in TOML. Every key is explained in docs/rig-file.md.
#pragma once

#include "rig/condition.hpp"
#include "rig/raw.hpp"
#include "rig/text.hpp"
#include "rig/values.hpp"

#include <zorilla/decide/decide.hpp>
#include <zorilla/drive/drive.hpp>

#include <cstdint>
#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace zorilla::rig {

/// One mistake in a rig file, where it is, and what to write instead.
struct Mistake {
    uint32_t line = 0;
    uint32_t column = 0;
    std::string text;
};

struct AnyUnit {};
/// A number of which the kind is known only at run time; see `Source::kind`.
using AnyQuantity = Quantity<AnyUnit>;
using AnyReading = Reading<AnyQuantity>;

template <class Q> AnyReading any(Reading<Q> reading) {
    return reading.ok() ? AnyReading::of_bounded(
                              AnyQuantity::from_thousandths(reading.value_or(Q{}).thousandths()))
                        : AnyReading::without_value(reading.health());
}
template <class Q> Reading<Q> as(AnyReading reading) {
    return reading.ok()
               ? Reading<Q>::of_bounded(Q::from_thousandths(reading.value_or({}).thousandths()))
               : Reading<Q>::without_value(reading.health());
}

/// A block of the core at work, wired to the readings that it needs.
class Block {
  public:
    virtual ~Block() = default;
    /// One pass. \param sources  all readings of the rig so far  \param out  its own among them
    virtual void pass(Instant now, Raw raw, const AnyReading* sources, AnyReading* out) = 0;
    /// How old its reading is, where the last good one stands in for one that was missed; else 0.
    virtual Duration held(Instant) const { return {}; }
};
using StartBlock = std::function<std::unique_ptr<Block>()>;

/// Something that has a reading: a sensor, one of a sensor's two quantities, or a derived quantity.
struct Source {
    std::string name;
    Kind kind = Kind::temperature;
    int32_t lowest = 0; ///< what it can deliver, in thousandths
    int32_t highest = 0;
    bool sound = true;      ///< whether its table was understood, and its numbers can be used
    bool kind_known = true; ///< whether at least it is known what it measures
};

/// The codes of a converter that a sensor's values stand at; it offers what the core's placement
/// checks ask of a sensor.
struct CodeScale {
    std::function<uint16_t(int32_t)> of; ///< empty where a reading is not one of a code
    std::function<int32_t(int32_t)> inside;
    uint16_t first = 0;
    uint16_t last = 0;
    bool rising = true;

    bool known() const { return of != nullptr; }
    uint16_t code_at(AnyQuantity value) const { return of(value.thousandths()); }
    int32_t counts_inside(AnyQuantity value) const { return inside(value.thousandths()); }
};

/// A sensor.
struct Sense {
    std::string name;
    std::string pin;
    std::string about; ///< what it is, for a person
    RawKind raw = RawKind::code;
    int64_t largest_raw = 0;
    size_t source = 0; ///< the first of its sources
    size_t sources = 1;
    CodeScale scale;
    std::vector<size_t> inputs;        ///< sources that correct it
    Duration every{};                  ///< how often it is read, where it is not in each pass
    bool shorted_reads_supply = false; ///< a short circuit is one of a supply, not of two wires
    std::vector<AnyReading> by_code;   ///< where a reading depends on nothing but the code
    StartBlock start;
};

/// A quantity made from others.
struct Derive {
    std::string name;
    std::string about;
    size_t source = 0;
    std::vector<size_t> of;
    StartBlock start;
};

/// Something that is yes, no or unknown in each pass, and that conditions can name.
struct Fact {
    enum class Kind : uint8_t {
        switched, ///< a sensor that is yes or no: `of` is its source
        decision, ///< `of` is the decision
        lost,     ///< whether a source is not healthy
        rises,    ///< whether another fact has become yes in this pass: `of` is its number
        falls,    ///< whether it has become no
        at_least, ///< whether a ladder is at stage `number` or a higher one
        locked,   ///< whether a timed action has given up
        in_state, ///< whether a machine is in state `number`
        enters,   ///< whether it has come into it in this pass
        leaves,
        warns,     ///< whether an output is about to switch, and warns
        warns_off, ///< whether it is about to switch off, and warns
        by_hand,   ///< whether a person has taken an output over
        stalled,   ///< whether a motor stands that should turn
        shut_down, ///< whether an output is shut down: `number` is its place in the order
        is_on,     ///< whether an output is on; in what must never be
        at_full,   ///< whether it is as much as it can be; the same
    };
    Kind kind = Kind::decision;
    size_t of = 0;
    uint8_t number = 0;
    std::string name; ///< as it is written
};

/// A condition as it was written, and ready to be evaluated.
struct WrittenCondition {
    std::string text; ///< empty if there is none
    Condition condition;
    bool given() const { return !text.empty(); }
};

/// A decision.
struct Decide {
    enum class Part : uint8_t { threshold, window, ladder, curve, condition, attempts };
    std::string name;
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

/// A state machine.
struct RigMachine {
    std::string name;
    std::vector<std::string> states;
    uint8_t start = 0;
    std::vector<MachineMove> moves; ///< `when` is one of the events
    std::vector<WrittenCondition> events;
};

/// One claim of an output.
struct RigClaim {
    enum class By : uint8_t { rule, hand, shutdown, rest };
    By by = By::rule;
    uint8_t number = 0; ///< as it is written, from 1; of a rule
    std::string text;   ///< the condition as it was written; empty if it always holds
    Condition when;
    AnyValue then;
    std::string says;              ///< what it is called: a value, a pattern, a curve
    std::optional<size_t> follows; ///< the decision, a curve or a ladder, that gives its value
    std::vector<Step<AnyValue>> pattern; ///< values one after the other
    Duration pattern_time{};             ///< of all steps
    std::vector<AnyValue> in_turn;       ///< of a hand: what each press asks for

    bool always() const { return text.empty(); }
    bool is_steady() const { return !follows && pattern.empty() && in_turn.size() < 2; }
};

/// An output with its claims in order.
struct Drive {
    enum class Part : uint8_t { relay, led, rgb_led, buzzer, fan, pump, servo, pwm, led_bar };
    std::string name;
    Part part = Part::relay;
    std::vector<std::string> pins;
    Level active = active_high;
    AnyValue safe;
    AnyValue rest;
    RelaySpec spec{active_high};      ///< the guards of a relay
    FanSpec motor;                    ///< of a fan or a pump
    Duration fade{};                  ///< of an LED, a PWM output or a servo
    bool only_top = false;            ///< of a bar: it lights the stage that holds, not those below
    std::optional<size_t> never_with; ///< the output that it must never be on with
    std::optional<size_t> turns;      ///< the source that tells whether a motor turns
    WrittenCondition reset;           ///< after a motor has failed
    struct TakeOver {
        WrittenCondition take;
        WrittenCondition back;
        Duration longest{};
        size_t fact = 0;
    };
    std::optional<TakeOver> hand;
    std::vector<RigClaim> claims;

    bool is_motor() const { return part == Part::fan || part == Part::pump; }
    ValueKind kind() const;
    /// As much as it can be, for a test.
    AnyValue full() const;
    /// What it asks for while no claim holds, or one is unknown: words of `RigClaim::says`.
    std::string says(AnyValue value) const { return to_text(value, kind()); }
};

/// A claim as it is called: "claim 2, "cold"", "by hand".
std::string label_of(const RigClaim& claim);

/// "relay", "rgb_led": as it is written.
std::string_view to_text(Drive::Part part);

/// How a device shuts down.
struct Shutdown {
    WrittenCondition when;
    std::vector<size_t> order; ///< outputs
    Duration gap{};
    std::vector<size_t> facts; ///< one for each of them
};

/// How a device tries its outputs alone, in their order; without a condition, not at all.
struct SelfTest {
    WrittenCondition when;
    Duration each{};
};

/// A whole device, checked.
struct Rig {
    std::string name;
    std::string chip;
    uint8_t converter_bits = 0;
    std::vector<Sense> senses;
    std::vector<Derive> derives;
    std::vector<Source> sources; ///< those of the sensors, then the derived ones
    std::vector<Decide> decides;
    std::vector<RigMachine> machines;
    std::vector<Fact> facts; ///< in the order in which they were first named
    std::vector<Drive> drives;
    Shutdown shutdown; ///< with an empty order: none
    SelfTest self_test;
    std::vector<std::string> show;        ///< units in which values are shown
    std::vector<WrittenCondition> nevers; ///< what must never be, after any pass

    /// The sensor that a source belongs to; `nullptr` for a derived one.
    const Sense* sense_of(size_t source) const;
};

/// A rig file as far as it could be understood. `rig` may be used only if there is no mistake.
struct RigFile {
    Rig rig;
    std::vector<Mistake> mistakes; ///< in the order of their lines
    std::vector<Mistake> warnings; ///< what may be meant, but seldom is; the same
};

/// Checks the text of a rig file and builds the rig. Never throws on bad text.
RigFile parse_rig(std::string_view text);

/// Reads and checks a rig file. \throws InputError  if the file cannot be read.
RigFile load_rig(const std::string& path);

} // namespace zorilla::rig
