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
    void pass(Instant now, const Sample* samples) {
        for (size_t i = 0; i < readings_.size(); ++i) {
            const Sense& sense = rig_.senses[i];
            const int16_t* table = sense.table.data();
            readings_[i] = read_thermistor(
                sense.spec, sense.plan, [table](uint16_t entry) { return table[entry]; },
                samples[i]);
        }
        for (size_t i = 0; i < truths_.size(); ++i) {
            const Decide& decide = rig_.decides[i];
            truths_[i] = thresholds_[i].decide(decide.spec, readings_[decide.of]);
        }
        for (size_t i = 0; i < switchings_.size(); ++i) {
            const Drive& drive = rig_.drives[i];
            for (size_t c = 0; c < drive.claims.size(); ++c)
                claims_[c] = Claim{drive.claims[c].when.evaluate(truths_), drive.claims[c].then};
            const Wish wish = settle(drive.spec.safe(), drive.spec.rest(), claims_.data(),
                                     static_cast<uint8_t>(drive.claims.size()));
            switchings_[i] = relays_[i].pass(drive.spec, now, wish);
        }
    }

    const Rig& rig() const { return rig_; }
    const std::vector<Reading<Temperature>>& readings() const { return readings_; }
    const std::vector<Truth>& truths() const { return truths_; }
    const std::vector<Switching>& switchings() const { return switchings_; }

  private:
    const Rig& rig_;
    std::vector<Reading<Temperature>> readings_;
    std::vector<ThresholdState> thresholds_;
    std::vector<Truth> truths_;
    std::vector<Claim> claims_;
    std::vector<RelayState> relays_;
    std::vector<Switching> switchings_;
};

} // namespace zorilla::rig
