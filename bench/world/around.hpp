// SPDX-License-Identifier: MIT
/// \file
/// A device in a world: its sensors look at it through their forward models, and its outputs act on
/// it.
#pragma once

#include "bench/live/serving.hpp"
#include "bench/world/world.hpp"

#include <memory>
#include <vector>

namespace zorilla::bench {

/// How a device and a world meet: which of its sensors looks at what, and which output acts where.
/// Whatever is not there is a mistake of the world's file.
class WorldWiring {
  public:
    WorldWiring(const World& world, const rig::Rig& rig);

    const std::vector<rig::Mistake>& mistakes() const { return mistakes_; }

    /// What a sensor looks at.
    struct Seen {
        bool looks = false;  ///< else nothing is ever said to it
        bool fixed = false;  ///< at a value that never changes
        double value = 0;    ///< that one
        uint32_t of = 0;     ///< a value of the world
        bool turned = false; ///< what is seen is `from` less that
        double from = 0;
        bool judged = false; ///< it is yes from `above` on
        double above = 0;
        bool has_at = false;
        uint32_t at = 0;     ///< whose temperature it has
        double celsius = 20; ///< where it has nobody's
        bool damp = false;
        uint32_t humidity = 0;
        double lag = 0;
        double noise = 0;
        double first = 0, last = 0; ///< what it can tell, of a quantity
    };
    /// What the world knows of a source.
    struct Told {
        bool known = false, fixed = false, turned = false;
        double value = 0; ///< a fixed one, or from where it is turned
        uint32_t of = 0;
        /// What it really is, where that is known.
        double in(const WorldLife& life) const {
            return fixed ? value : turned ? value - life.value(of) : life.value(of);
        }
    };
    const World& world() const { return *world_; }
    const rig::Rig& rig() const { return *rig_; }
    const std::vector<Seen>& seen() const { return seen_; }
    /// For each output of the world, the one of the rig.
    const std::vector<size_t>& outputs() const { return outputs_; }
    /// For each fault of the world, the sensor or the output; of the supply, 0.
    const std::vector<size_t>& broken() const { return broken_; }
    /// The value of the world that a source of the rig tells of, or nothing.
    std::optional<double> truly(const WorldLife& life, size_t source) const {
        const Told& told = told_[source];
        return told.known ? std::optional(told.in(life)) : std::nullopt;
    }
    const Told& told(size_t source) const { return told_[source]; }

    /// The sensor or the output that a fault is of; of the supply 0. \param problem  what is wrong
    /// if there is none
    std::optional<size_t> find_broken(const WorldFault& fault, std::string& problem) const;

  private:
    void tell(size_t sense);
    void connect(size_t sense);
    void connect_to(size_t sense, const Sees& as, uint32_t of);
    void complain(rig::Place at, std::string text) {
        mistakes_.push_back({at.line, at.column, std::move(text)});
    }

    const World* world_;
    const rig::Rig* rig_;
    std::vector<rig::Mistake> mistakes_;
    std::vector<Seen> seen_;
    std::vector<Told> told_;
    std::vector<size_t> outputs_, broken_;
};

/// What differs from one device in the same kind of world to the next.
struct AroundPlan {
    int64_t every = 1000;         ///< ms from pass to pass
    uint64_t seed = 1;            ///< of weather, people, noise
    std::optional<double> begins; ///< s after midnight; else as the world says
    /// A rig made of the parts that this device really has; else it has those of its file.
    const rig::Rig* made_of = nullptr;
    std::vector<WorldFault> faults; ///< besides those of the world; of parts that there are
    /// By how much each sensor as a whole is off, in its unit, and by which share; empty: not at
    /// all.
    std::vector<double> offsets, gains;
};

/// A device's surroundings. A copy goes its own way.
class WorldAround : public Surroundings {
  public:
    /// \param wiring  without mistakes; must outlive it
    WorldAround(const WorldWiring& wiring, const AroundPlan& plan);

    void begin() override;
    bool next(int64_t& milliseconds) override;
    const rig::Raw* raws() const override { return raws_.data(); }
    void passed(const rig::RunningRig& running) override;

    const WorldLife& life() const { return life_; }
    /// What time it is, in milliseconds since midnight of the first day.
    int64_t clock() const { return midnight_ + life_.milliseconds(); }
    /// Whether the device has power. Without, it makes no pass: what is next is `passed_dark`.
    bool has_power() const { return powered_; }
    /// A pass that never was: outputs are off.
    void passed_dark();
    /// The faults that there are now, as `Judge` takes them.
    uint64_t broken() const { return broken_; }
    /// The quantity that a source really has; nothing if no sensor that looks at it tells of it.
    std::optional<double> truly(size_t source) const { return wiring_->truly(life_, source); }
    const WorldWiring& wiring() const { return *wiring_; }
    /// All faults, those of the world before those of the plan.
    const WorldFault& fault(size_t i) const;
    size_t fault_count() const { return wiring_->world().faults.size() + plan_.faults.size(); }
    /// Adds one from now on, of a part that there is.
    void breaks(WorldFault fault);

  private:
    void look();
    void break_and_mend();
    struct Sensor {
        const WorldWiring::Seen* seen = nullptr;
        double gain = 1, offset = 0; ///< how much it is off as a whole
        rig::Raw raw;                ///< the last that was taken
        rig::Raw last;               ///< the last
        double felt = 0;             ///< behind its lag
        double stays = 0;            ///< the share of a difference that is still there a pass later
        bool any = false;
        bool strays = false;                        ///< whether it is off at all
        bool goes_by_level = false, counts = false; ///< what its pin is
        bool repeats = false;                       ///< the last one, until it is read again
        int64_t every = 0;                          ///< ms: how soon that is, at the earliest
        int64_t next = 0;                           ///< when it is read again
        int64_t wakes = 0;                          ///< ms: after power-up, before it is read
        int64_t read_at = 0;
        rig::Fault fault = rig::Fault::none, read_with = rig::Fault::none;
        rig::Surroundings around{};
    };
    rig::Raw read(Sensor& sensor, const rig::ForwardModel& forward, const double* values,
                  int64_t now);

    const WorldWiring* wiring_;
    AroundPlan plan_;
    WorldLife life_;
    int64_t midnight_;
    rig::Noise noise_;
    std::vector<rig::ForwardModel> forward_;
    std::vector<Sensor> sensors_;
    std::vector<rig::Raw> raws_;
    std::vector<size_t> plan_broken_;
    std::vector<int8_t> stuck_; ///< of each output: -1 as it is, else 0 or 1
    uint64_t broken_ = 0;
    double quiet_until_ = 0; ///< s: until then nothing breaks or heals
    bool powered_ = true;
    bool acts_ = true; ///< whether the world has to be told what all outputs are
    bool first_ = true;
    int64_t device_began_ = 0;
};

} // namespace zorilla::bench
