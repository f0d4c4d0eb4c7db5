// SPDX-License-Identifier: MIT
/// \file
/// A device's surroundings straight from a world's text.
#pragma once

#include "bench/world/around.hpp"

namespace zorilla::bench {

/// Where a device stands: a world, how the device is wired to it, and the life of both.
class WorldPlace : public Surroundings {
  public:
    /// \param rig  must outlive it  \throws rig::InputError  with the first mistake of the world,
    /// or of how it fits the rig
    WorldPlace(const rig::Rig& rig, WorldFile file, const AroundPlan& plan);

    void begin() override { around_->begin(); }
    bool next(int64_t& milliseconds) override { return around_->next(milliseconds); }
    const rig::Raw* raws() const override { return around_->raws(); }
    void passed(const rig::RunningRig& running) override { around_->passed(running); }
    const WorldWiring& wiring() const { return *wiring_; }

  private:
    std::shared_ptr<const World> world_;
    std::unique_ptr<WorldWiring> wiring_;
    std::unique_ptr<WorldAround> around_;
};

} // namespace zorilla::bench
