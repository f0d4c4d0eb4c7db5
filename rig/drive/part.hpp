// SPDX-License-Identifier: MIT
/// \file
/// What the room of a kind of output offers: all that the desk knows of it. To add one, write its
/// room: a file of this folder with the function FILE_room().
#pragma once

#include "rig/circuit/pass.hpp"
#include "rig/read/scope.hpp"

#include <functional>
#include <memory>
#include <string>
#include <vector>

namespace zorilla::rig {

/// What an output does from a pass on, and why.
struct Driven {
    AnyValue value;            ///< what it is now
    Cause cause = Cause::rest; ///< a ramp and a kick start are not told: they are on the way
    uint8_t claim = 0;         ///< which claim asked, from 0
    bool is_on = false;        ///< whether it is anything but off; a pattern is on as a whole
    AnyValue asked{};          ///< what it is on its way to; of a relay, what it is
    bool tested = false;       ///< whether a self-test sets it, past claims and guards
    bool is_wanted = false;    ///< whether it is anything but off, but for a self-test
    bool warns = false;        ///< it is about to switch, and says so
    bool warns_off = false;    ///< the same before it switches off
};

/// What the part of an output is given in one pass.
struct DriveInput {
    Instant now;
    WishOf<AnyValue> wish;
    bool in_pattern = false;  ///< whether the claim that asks is a pattern
    Truth turns = Truth::yes; ///< whether what it drives turns, where that is counted
    Truth reset = Truth::no;
    bool blocked = false; ///< whether the output is on that it must never be on with
};

/// The part of an output at work: the core's guards.
class DriveWork {
  public:
    virtual ~DriveWork() = default;
    /// \param out  what is asked for; afterwards what comes of it
    virtual void pass(const DriveInput& in, Driven& out) = 0;
    /// Whether more passes of the same, however late, would change nothing but when the last one
    /// was. \param in, out  of the pass that it has just made
    virtual bool rests(const DriveInput& /*in*/, const Driven& /*out*/) const { return false; }
    /// Another one that remembers the same.
    virtual std::unique_ptr<DriveWork> copy() const = 0;
};
/// One from a function, which keeps its own state.
template <class Pass> std::unique_ptr<DriveWork> works(Pass pass) {
    class One : public DriveWork {
      public:
        explicit One(Pass pass) : pass_(std::move(pass)) {}
        void pass(const DriveInput& in, Driven& out) override { pass_(in, out); }
        std::unique_ptr<DriveWork> copy() const override { return std::make_unique<One>(*this); }

      private:
        Pass pass_;
    };
    return std::make_unique<One>(std::move(pass));
}

/// Likewise of one that is on its way to a duty, and rests once it is there.
template <class Pass> std::unique_ptr<DriveWork> works_towards(Pass pass) {
    class One : public DriveWork {
      public:
        explicit One(Pass pass) : pass_(std::move(pass)) {}
        void pass(const DriveInput& in, Driven& out) override { pass_(in, out); }
        bool rests(const DriveInput& in, const Driven& out) const override {
            return out.value == in.wish.value && out.cause == in.wish.cause;
        }
        std::unique_ptr<DriveWork> copy() const override { return std::make_unique<One>(*this); }

      private:
        Pass pass_;
    };
    return std::make_unique<One>(std::move(pass));
}

/// What an output may ask to say what it is, or why.
struct DriveWords {
    const Drive& drive;
    const Rig& rig;
};
/// One thing to try: what is set, where, and what the pin has to be.
struct Trial {
    std::string value;
    std::string pin;
    std::string level;
    std::string off; ///< the level of the pin while it is off
};
/// What an output is asked to be in a pass, as wires.
struct WishWires {
    prove::Much much;
    prove::Wire safe = prove::never; ///< asked for since a claim is unknown
};

/// An output as its room has made it from its keys.
class DrivePart {
  public:
    virtual ~DrivePart() = default;
    /// How it begins to run; null if it is always what is asked for.
    virtual std::unique_ptr<DriveWork> start() const = 0;
    /// What it is made to do besides what its claims say, with a comma before each.
    virtual std::string about(const DriveWords& words) const = 0;
    /// What its pins are at a value, as a sentence.
    virtual std::string pins(const Drive& drive, AnyValue value) const = 0;
    /// What there is to try of it, each colour and each light of its own.
    virtual std::vector<Trial> trials(const Drive& drive) const = 0;
    /// Which of its guards acts, and for how long. \param is_on  what it is while that acts
    /// \param since_power_up  whether power-up has started the wait
    virtual std::string guard(const DriveWords& words, Cause cause, bool is_on,
                              bool since_power_up) const = 0;
    /// What it has waited for, once that is over. \param time  for how long
    virtual std::string waited(const DriveWords& words, Cause cause, const std::string& time,
                               bool since_power_up) const = 0;
    /// Itself as a circuit.
    virtual prove::Much prove(const Drive& drive, size_t index, const WishWires& wish,
                              prove::Pass& pass) const = 0;
    /// The spans of time that mean something to it.
    virtual std::vector<Duration> times() const = 0;
    /// Those of them that it is on its way to what is asked for.
    virtual std::vector<Duration> swings() const = 0;
    /// Whether it is neither nothing nor all while it is on its way from one to the other.
    virtual bool is_dimmed_on_its_way() const { return false; }
    /// A relay has a quick way of its own; of all others null.
    virtual const RelaySpec* relay() const { return nullptr; }
};

/// What it is in C++, in forms of its keys (rig/emit/cpp.hpp).
struct DriveCpp {
    const char* start;    ///< how its spec begins
    const char* block;    ///< a template of the spec
    bool timed;           ///< whether driving it takes the time
    const char* switched; ///< the role of its pins where they are on or off
    const char* dimmed;   ///< the same where a timer makes what they carry
    const char* shows;    ///< what a timer makes its pins carry of its `{value}`
};

/// One kind of output.
struct DriveKind {
    const char* word;
    uint8_t rank; ///< where it stands in lists, the most usual first
    ValueKind values;
    PinWay way; ///< how it uses its pins whatever it is asked for; what is dimmed needs a duty
    std::vector<PartKey> keys;
    /// Reads its keys, says what is wrong with them, and makes it.
    void (*read)(class DriveReader&, Drive&);
    DriveCpp cpp;
    std::vector<Wired> wired;
};

/// All kinds that there are, by their rank.
const std::vector<DriveKind>& drive_kinds();

/// Whether an output is ever more than nothing and less than all, asked for or on its way.
bool is_dimmed(const Drive& drive);

/// A level as it is measured.
inline std::string level_text(const Drive& drive, bool lit) {
    return lit == (drive.active == active_high) ? "high" : "low";
}

} // namespace zorilla::rig
