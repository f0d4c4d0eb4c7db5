// SPDX-License-Identifier: MIT
/// \file
/// A rig at work: the blocks of the core, wired as the rig file says.
#pragma once

#include "rig/decide/part.hpp"
#include "rig/derive/part.hpp"
#include "rig/drive/part.hpp"
#include "rig/model/own.hpp"

namespace zorilla::rig {

/// Runs a checked rig pass by pass. All behaviour is the core's; here is only the wiring. A copy
/// remembers the same and goes its own way.
///
/// Most passes change nothing, and cost little: a decision is asked again when its reading leaves
/// the values that nothing new comes of, an output when a truth has changed or a time is over. Each
/// truth that changes is counted, and what was found stands for as long as that number does.
class RunningRig {
  public:
    /// \param rig  must outlive this object and have no mistakes
    explicit RunningRig(const Rig& rig);

    /// One pass. \param raws  one for each sensor, in the order of `rig().senses`
    /// \return  whether any health, truth, output or cause differs from the pass before
    bool pass(Instant now, const Raw* raws);
    /// What the last pass has returned.
    bool changed() const { return changed_; }
    /// Whether any output's value differs from the pass before.
    bool moved() const { return moved_; }

    const Rig& rig() const { return *rig_; }
    /// One for each of `rig().sources`.
    const std::vector<AnyReading>& readings() const { return readings_; }
    /// One for each of `rig().facts`.
    const std::vector<Truth>& truths() const { return truths_; }
    const std::vector<Driven>& drivens() const { return drivens_; }
    /// Whether a sensor's reading may ever stand in for one that was missed.
    bool may_hold(size_t sense) const {
        return senses_[sense].block && senses_[sense].block->may_hold();
    }
    /// How old a sensor's reading was in the last pass, where it stood in for one that was missed;
    /// else 0.
    Duration held(size_t sense) const {
        return senses_[sense].block ? senses_[sense].block->held(now_) : Duration{};
    }
    /// Differs from what it was if any truth has changed since.
    uint32_t turns() const { return turns_; }
    /// The duty of a decision that is a curve.
    Reading<Duty> duty(size_t decide) const { return duties_[decide]; }
    /// The stage of a decision that is a ladder.
    Reading<Stage> stage(size_t decide) const { return stages_[decide]; }
    /// The state of a machine, and the one before the last pass.
    uint8_t state(size_t machine) const { return machines_[machine].state.state(); }
    uint8_t left_state(size_t machine) const { return machines_[machine].state.left(); }
    /// The move that a machine has taken in the last pass; only if it has taken one.
    size_t move_taken(size_t machine) const { return machines_[machine].taken; }

    static Truth truth_of(AnyReading reading) {
        return reading.ok() ? zorilla::truth_of(reading.value_or({}).thousandths() != 0)
                            : Truth::unknown;
    }

  private:
    /// What a condition was when a truth last changed: until one does again, it is the same.
    struct Known {
        Truth truth = Truth::unknown;
        uint32_t at = 0;
    };
    /// A sensor or a derived quantity. Where a reading is one of a code alone, it has been made for
    /// every code beforehand: the desk has the memory that a chip has not.
    struct Sense {
        const AnyReading* by_code;
        Own<Block> block;
        size_t source;
        size_t sources;
        Raw seen{};         ///< in the pass before
        bool rests = false; ///< whether nothing comes of that once more
    };
    /// A truth that a reading gives by itself, or that it is lost.
    struct Given {
        size_t fact;
        size_t source;
    };
    /// The moment in which another truth becomes yes, or no.
    struct Rise {
        size_t fact;
        size_t of;
        bool falls;
        Edge edge{};
        Truth pass(Truth truth) { return edge.pass(falls ? !truth : truth); }
    };
    /// Most decisions are plain thresholds, one after the other; where they have no other part to
    /// wait for, they are run first.
    struct Threshold {
        size_t fact;
        ThresholdSpec<AnyQuantity> spec;
        size_t of;
        ThresholdState state;
        /// Values that leave it as it is. \param holds  whether it is yes
        Span rests(bool holds) const {
            const int32_t at = spec.threshold.thousandths(), release = spec.release.thousandths();
            Span out;
            if (spec.side == Side::below)
                (holds ? out.highest : out.lowest) = holds ? release - 1 : at;
            else
                (holds ? out.lowest : out.highest) = holds ? release + 1 : at;
            return out;
        }
    };
    struct Decide {
        const rig::Decide* decide;
        size_t index;
        Own<Deciding> deciding;
        LastingState lasting{};
        CounterState counter{};
        Known when{}, reset{};
        std::vector<size_t> facts{}; ///< of its stages, or of its being locked
        std::vector<Rise> rises{};   ///< of its own truth
        bool waits = false;          ///< whether its truth does not last yet
        uint8_t quiet = 0;           ///< passes without anything new, as far as they are counted
        std::optional<Span> rests{}; ///< values that nothing new comes of, until a truth changes
        uint32_t at = 0;             ///< when that was found, as of `turns_`
    };
    struct Machine {
        const RigMachine* machine;
        MachineState state;
        std::vector<size_t> facts{};
        std::vector<Known> known{}; ///< of each event
        size_t taken = 0;
        bool moved = false;        ///< in the pass before
        uint32_t at = 0;           ///< when it was last looked at, as of `turns_`
        std::vector<char> timed{}; ///< states that time alone may lead out of
    };
    struct Hand {
        const rig::Drive::TakeOver* hand;
        uint8_t senses;
        HandState state{};
        Known take{}, back{};
        uint32_t at = 0; ///< when it was last looked at, as of `turns_`
    };
    struct Drive {
        const rig::Drive* drive;
        const RelaySpec* relay; ///< of a relay without patterns, which goes a quick way
        Own<DriveWork> work;
        RelayState state{};
        std::vector<size_t> facts{};           ///< that tell how it does
        std::vector<SequenceState> patterns{}; ///< one for each claim
        std::vector<ClaimOf<AnyValue>> claims{};
        std::vector<Known> known{};    ///< of each claim's condition
        std::vector<uint8_t> moving{}; ///< claims that may ask for another value by themselves
        WishOf<AnyValue> wish{};       ///< what they ask for together
        uint32_t at = 0;               ///< when that was made, as of `turns_`
        bool moves = false;            ///< whether one of `moving` may ask for another value now
        bool rests = false;            ///< whether it stays as it is until a truth changes
        DriveInput last{};             ///< what `work` was given when it came to rest
        uint32_t worked = 0;           ///< the last pass that it was given anything in
        Duration rests_for{};          ///< of a relay: and for so long from `since`; 0: for ever
        Instant since{};               ///< when a relay was last switched, or had its first pass
        bool runs = false;             ///< whether a relay has had a pass
        Known reset{};
        size_t hand = 0;      ///< among the hands, if it has one
        bool in_turn = false; ///< whether a person goes through several values
    };

    /// Who has nothing in hand stays so until a truth changes.
    bool is_at_rest(const Hand& hand) const {
        return hand.at == turns_ && hand.state.is_taken() == Truth::no;
    }
    bool run(Hand& hand, Instant now);
    bool shut_down(Instant now);
    void run(Drive& drive, Instant now, Driven& out);
    void run_relay(Drive& drive, Instant now, Driven& out) const;
    /// Whether all outputs are what they were in the pass before, without being asked.
    bool are_at_rest(Instant now) const {
        return drives_at_ == turns_ &&
               (drives_for_ == Duration{} || now - drives_since_ < drives_for_);
    }
    void look_for_rest(Instant now);
    /// Likewise of one.
    bool is_at_rest(const Drive& drive, Instant now) const {
        return drive.rests && drive.at == turns_ &&
               (drive.rests_for == Duration{} || now - drive.since < drive.rests_for);
    }
    /// Whether a decision makes of a reading what it did in the pass before, without being asked.
    bool is_at_rest(const Decide& decide) const {
        if (!decide.rests || decide.at != turns_)
            return false;
        if (!decide.decide->judges)
            return true;
        const AnyReading reading = readings_[decide.decide->of];
        return reading.ok() && decide.rests->has(reading.value_or({}));
    }
    void look_for_rest(Decide& decide, bool changed);
    bool decide_all(Instant now, bool changed);
    /// Whether all that judges readings would make of them what it did in the pass before.
    bool is_quiet() const {
        if (quiet_at_ != turns_)
            return false;
        for (const Quiet& quiet : quiet_)
            if (!quiet.span.has(readings_[quiet.source].value_or({})))
                return false;
        return true;
    }
    void look_for_quiet();
    bool drive(Instant now);
    const WishOf<AnyValue>& wish_of(Drive& drive, Instant now);
    /// Guards go on behind a self-test, and know nothing of it.
    bool is_blocked(const rig::Drive& drive) const {
        return drive.never_with && drivens_[*drive.never_with].is_wanted;
    }
    /// What a self-test makes of an output; its claims and guards go on unseen.
    Driven tested(Driven next, const Drive& drive) const {
        const auto place = static_cast<uint8_t>(&drive - drives_.data());
        next.value = next.asked = test_.of(place) == on ? drive.drive->full() : AnyValue();
        next.is_on = next.value.any();
        next.tested = true;
        return next;
    }
    static Truth fact_of(const Driven& driven, Fact::Kind kind) {
        return zorilla::truth_of(kind == Fact::Kind::warns ? driven.warns
                                 : kind == Fact::Kind::warns_off
                                     ? driven.warns_off
                                     : driven.cause == Cause::stalled ||
                                           driven.cause == Cause::failed);
    }
    /// What a claim asks for now.
    ClaimOf<AnyValue> claim_of(Drive& drive, uint8_t i, Instant now);
    Truth evaluate(const Condition& condition, Known& known) const {
        if (known.at != turns_) {
            known.truth = condition.evaluate(truths_.data());
            known.at = turns_;
        }
        return known.truth;
    }
    Truth evaluate(const WrittenCondition& when, Known& known) const {
        return when.given() ? evaluate(when.condition, known) : Truth::no;
    }

    /// \return  whether another health came of it; a sensor has two readings at most
    bool run(Sense& sense, Instant now, Raw raw) {
        AnyReading* const reading = readings_.data() + sense.source;
        const AnyReading* const last = reading + sense.sources - 1;
        const Health before = reading->health(), last_before = last->health();
        sense.block->pass(now, raw, readings_.data(), reading);
        sense.rests = raw.taken() && raw.bits() == sense.seen.bits() && sense.block->rests(raw);
        sense.seen = raw;
        return reading->health() != before || last->health() != last_before;
    }
    bool run(Decide& decide, Instant now);
    bool take(Decide& decide, const DecideInput& in, DecideOutput& out);
    /// Where nothing has changed, and no time leads on, it stays.
    bool is_at_rest(const Machine& machine) const {
        return machine.at == turns_ && !machine.moved && machine.timed[machine.state.state()] == 0;
    }
    bool run(Machine& machine, Instant now);
    Truth fact_of(const Machine& machine, const Fact& fact) const;
    bool put(size_t fact, Truth next) {
        const bool changed = truths_[fact] != next;
        truths_[fact] = next;
        turns_ += changed ? 1 : 0;
        return changed;
    }

    const Rig* rig_;
    uint32_t turns_ = 1;  ///< counts each truth that has changed
    uint32_t passes_ = 0; ///< counts
    bool changed_ = true, moved_ = true;
    bool begun_ = false;
    Instant now_{}, before_{}; ///< of the last pass, and of the one before
    std::vector<Sense> senses_;
    std::vector<Sense> derived_;
    std::vector<Given> given_;
    std::vector<Given> lost_;
    std::vector<Threshold> thresholds_;
    std::vector<Rise> rises_; ///< of sensors and plain thresholds
    uint32_t rises_at_ = 0;   ///< when they were last looked at, as of `turns_`
    std::vector<Decide> decides_;
    /// Values of a source that nothing new comes of.
    struct Quiet {
        size_t source;
        Span span;
    };
    std::vector<Quiet> quiet_;
    uint32_t quiet_at_ = 0; ///< when that was found, as of `turns_`; 0: it is not known
    std::vector<Machine> machines_;
    std::vector<Reading<Stage>> stages_;
    std::vector<Reading<Duty>> duties_;
    std::vector<Hand> hands_;
    ShutdownState shutdown_;
    SelfTestState test_;
    std::vector<Drive> drives_;
    /// All of them rest while no truth changes, and for so long from then on; 0: for ever.
    uint32_t drives_at_ = 0;
    Instant drives_since_{};
    Duration drives_for_{};
    std::vector<AnyReading> readings_;
    std::vector<Truth> truths_;
    std::vector<Driven> drivens_;
};

} // namespace zorilla::rig
