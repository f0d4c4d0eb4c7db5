// SPDX-License-Identifier: MIT
/// \file
/// Many devices, each built from parts within their tolerances and in other weather: how many of
/// them keep every promise.
#pragma once

#include "bench/world/trying.hpp"

namespace zorilla::bench {

/// A number of a part that differs from one device to the next.
struct Stray {
    std::string sensor, key; ///< "roost", "beta"; or "offset", "gain"
    size_t sense = 0;
    double tolerance =
        0; ///< a share of it, evenly to both sides; of an offset in the sensor's unit
    bool offset = false, gain = false;
    bool usual = true; ///< whether it is what such parts usually have, since the world says nothing
};
/// All that strays in a rig: what the world says as [parts.SENSOR], and what is usual of the rest.
/// \throws rig::InputError  with the first mistake
std::vector<Stray> strays_of(const rig::Rig& rig, const World& world);

struct YieldPlan {
    AroundPlan around;
    int64_t length = 0;
    size_t devices = 1000;
    unsigned threads = 0;
    size_t looked_at = 40;   ///< of those that fail, for what is to blame
    size_t calibrated = 200; ///< devices that are calibrated in each way; 0: none
};

/// A share of some, with the interval of 95 % by E. B. Wilson (Journal of the American Statistical
/// Association 22, 1927).
struct Share {
    size_t of = 0, all = 0;
    double value() const {
        return all == 0 ? 0 : static_cast<double>(of) / static_cast<double>(all);
    }
    double lowest() const;
    double highest() const;
};

struct Yielded {
    Share kept;
    size_t impossible = 0;   ///< whose parts would be so far off that they were taken as exact
    std::vector<Share> each; ///< of each promise and each never
    std::vector<std::string> says;
    /// Of those that fail and were looked at, how many keep all with that one number exact.
    struct Blame {
        Stray stray;
        size_t mended = 0;
    };
    std::vector<Blame> blames; ///< the worst first
    size_t looked_at = 0;
    size_t weather = 0; ///< of those, how many fail with every part exact
    struct Calibrated {
        const char* how;
        Share kept;
    };
    std::vector<Calibrated> calibrated;
    std::vector<std::string> calibrated_sensors;
    std::optional<size_t> worst; ///< the device that broke most
    std::string worst_says;
};
Yielded yield_of(const WorldWiring& wiring, const std::vector<Stray>& strays,
                 const YieldPlan& plan);
/// The trace of one of those devices. \return  what became of it
Tried trace_of_device(const WorldWiring& wiring, const std::vector<Stray>& strays,
                      const YieldPlan& plan, size_t device, const std::string& path);

/// \throws rig::InputError
void draw_yield(const std::string& path, const std::string& title, const Yielded& yielded);

} // namespace zorilla::bench
