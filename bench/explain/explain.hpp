// SPDX-License-Identifier: MIT
/// \file
/// Why a rig does what it does, in sentences.
#pragma once

#include "rig/run/running_rig.hpp"

#include <cstdint>
#include <string>
#include <vector>

namespace zorilla::bench {

/// What came from a sensor's pin in a pass: "code 512 of 1023", "no answer".
std::string came_text(const rig::Sense& sense, rig::Raw raw);

/// Follows a running rig and remembers just enough to say why something changed. Memory does not
/// grow with the number of passes.
class Explainer {
  public:
    explicit Explainer(const rig::RunningRig& running);

    /// To be called after every pass in which something changed, before asking. `now` in
    /// milliseconds of the trace.
    void follow(int64_t now);

    /// What an output does, in a word or two: "on", "40 %", "pattern alarm".
    std::string what_driven(size_t drive) const;
    /// Why the output does what it has begun to do in this pass.
    std::string why_driven(size_t drive, int64_t now) const;
    /// Whether a claim holds now, and what stands behind that.
    std::string about_claim(size_t drive, size_t claim) const;
    /// What stands behind a fact now.
    std::string about_fact(size_t fact) const { return about(fact, true); }

    /// A source and what it reads now.
    std::string about_source(size_t source) const { return reading_of(source); }
    /// That a reading stands in for one that was missed, and how old it is; else nothing.
    std::string about_held(size_t source) const;
    /// What somebody has set that is added to what a sensor reads; else nothing.
    std::string about_trim(const rig::Sense& sense) const;
    /// Why a machine has changed its state in this pass.
    std::string why_moved(size_t machine) const;

    /// What stands behind the health of a sensor in this pass.
    std::string why_health(size_t sense, rig::Raw raw) const;

    /// How often a guard made an output wait.
    uint64_t times_held_back(size_t drive) const { return waits_[drive].times; }

  private:
    struct Wait {
        bool waiting = false;
        bool since_power_up = false;
        Cause guard = Cause::rest;
        int64_t begin = 0;
        int64_t end = INT64_MIN; ///< when the last wait was over
        uint64_t times = 0;
    };

    std::string readings_of(const rig::Sense& sense) const;
    /// \param decide  that judges it, if one does
    std::string reading_of(size_t source, const rig::Decide* decide = nullptr) const;
    std::string why_out_of_range(const rig::Sense& sense, const std::string& came,
                                 rig::Raw raw) const;
    void wait_changed(size_t drive, int64_t now, bool waits);
    std::string about(size_t fact, bool by_name) const;
    std::string about(size_t fact, const rig::Decide& decide) const;
    std::string about_timing(const rig::Decide& decide) const;
    std::vector<size_t> facts_that_matter(const rig::Condition& condition) const;
    std::string all_of(std::vector<size_t> facts) const;
    std::string about_claims(size_t drive, size_t first, size_t last) const;
    std::string about_wait(size_t drive, int64_t now) const;
    std::string about_hand(size_t drive, int64_t now) const;
    std::string about_follow(const rig::RigClaim& claim, const std::string& said) const;

    const rig::RunningRig& running_;
    std::vector<Truth> before_; ///< each fact in the pass before
    std::vector<bool> let_go_;  ///< whether it went from yes to no in this pass
    std::vector<Wait> waits_;
    std::vector<bool> switched_before_;
    struct HandTime {
        int64_t begin = 0;
        int64_t end = INT64_MIN;
    };
    std::vector<HandTime> hands_; ///< of each output
    struct ResetTime {
        bool was = true; ///< as at power-up: what is held then was not pressed
        int64_t at = INT64_MIN;
    };
    std::vector<ResetTime> resets_; ///< of each decision
};

} // namespace zorilla::bench
