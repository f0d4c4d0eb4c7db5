// SPDX-License-Identifier: MIT
/// \file
/// What the room of a kind of decision offers: all that the desk knows of it. To add one, write its
/// room: a file of this folder with the function FILE_room().
#pragma once

#include "rig/circuit/pass.hpp"
#include "rig/read/scope.hpp"
#include "rig/sense/part.hpp"

#include <functional>
#include <memory>
#include <optional>
#include <set>
#include <string>
#include <vector>

namespace zorilla::rig {

/// What a decision looks at in one pass.
struct DecideInput {
    Instant now;
    AnyReading reading; ///< of the source that it judges, if it judges one
    Truth when;         ///< of the condition that it goes by, if it goes by one
    Truth reset;
};
/// What it makes of that; only what its kind gives counts.
struct DecideOutput {
    Truth truth = Truth::unknown;
    Reading<Stage> stage;
    Reading<Duty> duty;
    bool locked = false;
};

/// Values of a quantity, in thousandths, with both ends.
struct Span {
    int32_t lowest = INT32_MIN, highest = INT32_MAX;
    bool has(AnyQuantity value) const {
        return value.thousandths() >= lowest && value.thousandths() <= highest;
    }
};

/// A decision at work: the core's block.
class Deciding {
  public:
    virtual ~Deciding() = default;
    virtual void pass(const DecideInput& in, DecideOutput& out) = 0;
    /// Which values it would make the same of as of the one that it has just seen, and remember the
    /// same, as long as the truths that it goes by stay; nothing where time has a say, or where
    /// that is not known.
    virtual std::optional<Span> rests(AnyQuantity /*seen*/) const { return std::nullopt; }
    /// Another one that remembers the same.
    virtual std::unique_ptr<Deciding> copy() const = 0;
};
/// One from a function, which keeps its own state.
template <class Pass> std::unique_ptr<Deciding> decides(Pass pass) {
    class One : public Deciding {
      public:
        explicit One(Pass pass) : pass_(std::move(pass)) {}
        void pass(const DecideInput& in, DecideOutput& out) override { pass_(in, out); }
        std::unique_ptr<Deciding> copy() const override { return std::make_unique<One>(*this); }

      private:
        Pass pass_;
    };
    return std::make_unique<One>(std::move(pass));
}

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

/// What a decision may ask to say what it is.
struct DecideWords {
    const Decide& decide;
    const Rig& rig;
    /// Of the source that it judges.
    const Source& source() const { return rig.sources[decide.of]; }
    std::string value(AnyQuantity value) const {
        return to_text(value.thousandths(), source().kind);
    }
    /// A point with the code that stands for it, if one does.
    std::string point(AnyQuantity value) const;
};
/// What it may ask to say why it is as it is.
struct DecideReasons : DecideWords {
    Truth truth;
    bool let_go; ///< it went from yes to no in this pass
    AnyReading reading;
    std::string reads;  ///< "roost is 3.9 degC"
    std::string timing; ///< what it waits for before its truth counts, with a comma before it
    std::string facts;  ///< those of its condition that matter now
};

/// A decision as its room has made it from its keys.
class DecidePart {
  public:
    virtual ~DecidePart() = default;
    /// How it begins to run.
    virtual std::unique_ptr<Deciding> start() const = 0;
    /// Its points, from the first. \param name  what it is called
    virtual std::vector<DecidePoint> points(const std::string& name) const = 0;
    /// What it is, in words; after that stands what it waits for.
    virtual std::string about(const DecideWords& words) const = 0;
    /// Why its truth is what it is now.
    virtual std::string because(const DecideReasons& reasons) const = 0;
    /// The values, in thousandths, from which on it may see another one than below.
    virtual void turns(std::set<int64_t>& out) const = 0;
    /// How it sees a value: two that look the same are the same to it.
    virtual void look(AnyQuantity value, std::vector<int>& out) const = 0;
    /// Itself as a circuit, without what waits for its truth and counts it.
    virtual prove::DecideWires prove(const Decide& decide, prove::Pass& pass) const = 0;
    /// The spans of time that mean something to it.
    virtual std::vector<Duration> times() const = 0;
    /// A plain threshold has a quick way of its own; of all others null.
    virtual const ThresholdSpec<AnyQuantity>* plain() const { return nullptr; }
};

/// Where a value stands among some, in order, from which on it looks another way than below.
Span span_between(const std::vector<int64_t>& turns, AnyQuantity value);
/// As `decides`, of one that tells values apart by its turns alone, and in a second pass of the
/// same makes nothing else of it.
template <class Pass>
std::unique_ptr<Deciding> decides_by_turns(const DecidePart& part, Pass pass) {
    class One : public Deciding {
      public:
        One(Pass pass, std::vector<int64_t> turns)
            : pass_(std::move(pass)), turns_(std::move(turns)) {}
        void pass(const DecideInput& in, DecideOutput& out) override { pass_(in, out); }
        std::optional<Span> rests(AnyQuantity seen) const override {
            return span_between(turns_, seen);
        }
        std::unique_ptr<Deciding> copy() const override { return std::make_unique<One>(*this); }

      private:
        Pass pass_;
        std::vector<int64_t> turns_;
    };
    std::set<int64_t> turns;
    part.turns(turns);
    return std::make_unique<One>(std::move(pass), std::vector<int64_t>(turns.begin(), turns.end()));
}

/// Its points, or none of a decision without a quantity.
inline std::vector<DecidePoint> points_of(const Decide& decide) {
    return decide.part == nullptr ? std::vector<DecidePoint>() : decide.part->points(decide.name);
}

// --- What rooms share

/// One point with its release.
DecidePoint point_of(const ThresholdSpec<AnyQuantity>& spec, const std::string& name);
/// All points of a decision in words, with their codes. \param before  stands before each
std::string points_about(const DecideWords& words, std::string_view before);
/// The values from which on one of the points sees another one than below.
void points_turn(const std::vector<DecidePoint>& points, std::set<int64_t>& out);
/// What reading a decision may ask.
class DecideReader {
  public:
    DecideReader(Scope& within, TableReader& table) : scope(within), keys(table) {}
    Scope& scope;
    TableReader& keys;

    /// The values of a list that a decision is made of.
    std::vector<AnyQuantity> points(std::string_view key, Kind kind, size_t least, size_t most);
    /// How long a truth must last, and how often it must have come.
    void timing(Decide& out);
    /// Complains about a point and its release that the source cannot reach or tell apart.
    void placed(const Node& point, const Node& release, const Decide& decide, AnyQuantity at,
                AnyQuantity lets_go);

  private:
    bool reachable(const Node& node, size_t source, AnyQuantity point);
};

/// One kind of decision.
struct DecideKind {
    const char* word;
    uint8_t rank; ///< in which order they are thought of; the last is it if no other is
    bool judges;  ///< a quantity, "of"; else it goes by a condition, "when"
    Gives gives;
    std::vector<const char*> signs; ///< a table with one of these keys is of this kind
    std::vector<PartKey> keys;
    /// Reads its keys, says what is wrong with them, and makes it. \param kind  what it judges
    void (*read)(DecideReader&, Kind kind, Decide&);
    /// In C++, as forms of its keys: how its spec begins, by the key that says which, and the block
    /// that is a template of it; empty where there is none.
    std::vector<std::pair<const char*, const char*>> starts;
    const char* block;
};

/// All kinds that there are, by their rank.
const std::vector<DecideKind>& decide_kinds();
/// Reads `[decide.NAME]`, and adds it and the fact that it may be to the rig.
void read_decide(Scope& scope, const Key& key, TableReader& keys);

/// The keys of what judges a quantity and waits, or counts, before its truth counts.
std::vector<PartKey> with_timing_keys(std::vector<PartKey> own);

} // namespace zorilla::rig
