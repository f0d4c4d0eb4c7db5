// SPDX-License-Identifier: MIT
/// \file
/// A device that is not there, behind a pseudo-terminal: what its pins read comes from somewhere,
/// and what its outputs are may act on that.
#pragma once

#include "bench/stand_in.hpp"
#include "rig/run/running_rig.hpp"

#include <cstdint>
#include <functional>
#include <memory>
#include <string>

namespace zorilla::bench {

/// What surrounds a device.
class Surroundings {
  public:
    virtual ~Surroundings() = default;
    /// A device begins in it: from now on its clock counts.
    virtual void begin() {}
    /// Goes to the next pass. \param milliseconds  becomes the device's time  \return  false at the
    /// end
    virtual bool next(int64_t& milliseconds) = 0;
    /// What pins read in it, one for each sensor.
    virtual const rig::Raw* raws() const = 0;
    /// The pass is over, and outputs are what they are.
    virtual void passed(const rig::RunningRig&) {}
};
/// Those of a recorded trace, on which nothing acts. \throws rig::InputError
std::unique_ptr<Surroundings> trace_around(const rig::Rig& rig, const std::string& trace);

/// Runs a device for the reader who has come, from its power-up until they leave: it sends rows as
/// its firmware would, and obeys. \param pace  times as fast as it really is; 0: as it is read
void serve(const rig::Rig& rig, StandIn& stand_in, Surroundings& around, double pace,
           const std::function<bool()>& stop);

} // namespace zorilla::bench
