// SPDX-License-Identifier: MIT
/// \file
/// A rig at work: the blocks of the core, wired as the rig file says.
#pragma once

#include "rig/rig_file.hpp"

namespace zorilla::rig {

/// Runs a checked rig pass by pass. All behaviour is the core's; here is only the wiring.
class RunningRig {
  public:
    /// \param rig  must outlive this object and have no mistakes
    explicit RunningRig(const Rig& rig);

    /// One pass. \param samples  one for each sensor, in the order of `rig().senses`
    /// \return  whether any health, truth, output or cause differs from the pass before
    bool pass(Instant now, const Sample* samples) {
        bool changed = false;
        Reading<Temperature>* reading = readings_.data();
        for (const Sense& sense : senses_) {
            // No code above full scale reaches this: it is refused where samples are read.
            const Reading<Temperature> next =
                samples->taken() ? sense.by_code[samples->code()] : sense.missing;
            changed |= next.health() != reading->health();
            *reading++ = next;
            ++samples;
        }
        Truth* truth = truths_.data();
        for (Decide& decide : decides_) {
            const Truth next = decide.state.decide(decide.spec, readings_[decide.of]);
            changed |= next != *truth;
            *truth++ = next;
        }
        Switching* switching = switchings_.data();
        for (Drive& drive : drives_) {
            const auto claim_at = [this, &drive](uint8_t i) {
                const RigClaim& claim = drive.claims[i];
                return Claim{claim.when.evaluate(truths_.data()), claim.then};
            };
            const Wish wish =
                settle(drive.spec.safe(), drive.spec.rest(), claim_at, drive.claim_count);
            const Switching next = drive.state.pass(drive.spec, now, wish);
            changed |= next.value != switching->value || next.cause != switching->cause;
            *switching++ = next;
        }
        return changed;
    }

    const Rig& rig() const { return rig_; }
    const std::vector<Reading<Temperature>>& readings() const { return readings_; }
    const std::vector<Truth>& truths() const { return truths_; }
    const std::vector<Switching>& switchings() const { return switchings_; }

  private:
    /// A sensor with the reading of every code, made by the core's conversion beforehand: the desk
    /// has the memory that a chip has not.
    struct Sense {
        const Reading<Temperature>* by_code;
        Reading<Temperature> missing;
    };
    struct Decide {
        ThresholdSpec<Temperature> spec;
        size_t of;
        ThresholdState state;
    };
    struct Drive {
        RelaySpec spec;
        const RigClaim* claims;
        uint8_t claim_count;
        RelayState state;
    };

    const Rig& rig_;
    std::vector<std::vector<Reading<Temperature>>> tables_;
    std::vector<Sense> senses_;
    std::vector<Decide> decides_;
    std::vector<Drive> drives_;
    std::vector<Reading<Temperature>> readings_;
    std::vector<Truth> truths_;
    std::vector<Switching> switchings_;
};

} // namespace zorilla::rig
