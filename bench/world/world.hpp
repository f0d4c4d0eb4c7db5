// SPDX-License-Identifier: MIT
/// \file
/// Worlds: simulated surroundings of a device, in a TOML file of their own. Every key is explained
/// in docs/worlds.md.
#pragma once

#include "bench/world/element.hpp"

#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace zorilla::bench {

/// What a sensor of the rig looks at.
struct Sees {
    std::string sensor;
    rig::Place place;
    std::string of; ///< a value of the world; empty: what is fixed
    std::optional<rig::Measure> fixed;
    std::optional<std::string> at;     ///< whose temperature the sensor has
    std::optional<double> from;        ///< of a ranger, mm down to the bottom of a tank
    std::optional<rig::Measure> above; ///< of one that is yes or no: from when on it is yes
    double lag = 0;                    ///< s
    std::optional<double> noise;       ///< deviation: counts of the converter, else its own unit
};

/// Something that breaks, and heals again.
struct WorldFault {
    enum class Of : uint8_t { sensor, output, supply };
    std::string name; ///< of the fault, for a person
    std::string of;
    rig::Place place;
    Of what = Of::sensor;
    rig::Fault fault = rig::Fault::none;
    bool stuck_on = false; ///< of an output
    Schedule when;
};
/// "open", "shorted" and so on, as a file has them; empty if there is none.
std::optional<rig::Fault> fault_of(std::string_view word);
std::string_view word_of(rig::Fault fault);
/// What is wrong, as a file has it: "open", "stuck on", "lost".
std::string_view says_of(const WorldFault& fault);
const std::vector<std::string>& fault_words();

/// A world as its file says. It does not change while it lives: any number of lives share it.
struct World {
    std::string name = "unnamed world";
    double begins = 0;      ///< s after midnight
    double day_of_year = 1; ///< of its first day
    double step = 1;        ///< s, at most
    std::vector<std::unique_ptr<Element>> elements;
    std::vector<std::string> words; ///< of each, what kind it is
    std::vector<WorldValue> values; ///< of the elements, then what outputs do
    struct Output {
        std::string name;
        rig::Place place;
        uint32_t value;
    };
    std::vector<Output> outputs;         ///< that act on it
    std::vector<const Element*> bounded; ///< those whose states have bounds
    uint32_t states = 0;
    std::vector<Sees> sees;
    std::vector<WorldFault> faults;
    /// How much the numbers of a sensor's parts may stray.
    struct Parts {
        std::string sensor;
        rig::Place place;
        std::vector<std::pair<std::string, double>> tolerances; ///< shares; of an offset its unit
    };
    std::vector<Parts> parts;
    rig::Node written = rig::Node::table(); ///< what the file says

    /// A value by its name; nothing if there is none.
    std::optional<uint32_t> value(std::string_view of) const;
};

struct WorldFile {
    std::shared_ptr<const World> world;
    std::vector<rig::Mistake> mistakes;
};

/// \param folder  where the files stand that it names; ends with a slash, or is empty
WorldFile parse_world(std::string_view text, const std::string& folder = "");
WorldFile make_world(rig::Node written, const std::string& folder);
/// A fault that is asked for apart from a world: its table, as one of [fault.NAME].
/// \return  what is wrong with it
std::vector<rig::Mistake> read_fault(const std::string& name, const rig::Node& table,
                                     WorldFault& out);
/// \throws rig::InputError  if it cannot be read
WorldFile load_world(const std::string& path);

/// A world that lives: all that it remembers. A copy goes its own way.
class WorldLife {
  public:
    /// \param seed  of all that comes by chance  \param begins  s after midnight of its first day
    WorldLife(const World& world, uint64_t seed, double begins);

    /// Goes on by so many milliseconds, with outputs as they are.
    void go_on(int64_t milliseconds);
    /// From now on, steps are at most so long, in seconds.
    void take_steps_of(double seconds) {
        cut();
        step_ = seconds;
    }

    const World& world() const { return *world_; }
    double value(uint32_t i) const { return values_[i]; }
    const double* values() const { return values_.data(); }
    double state(uint32_t i) const { return states_[i]; }
    /// How much of an output there is, from 0 to 1.
    void set(uint32_t output_value, double share) {
        if (values_[output_value] == share)
            return;
        cut();
        values_[output_value] = share;
    }
    Moment moment() const { return moment_at(seconds_); }
    int64_t milliseconds() const { return milliseconds_; } ///< since it began
    double seconds() const { return seconds_; }            ///< the same
    double begins() const { return begins_; }

  private:
    Moment moment_at(double seconds) const;
    void happen(double seconds);
    void happen_at_once(double seconds);
    void go_on_by_steps(double from, double to);
    bool is_within() const;
    void begin_step();
    void stand_at(double seconds);
    void settle();
    /// Ends the step that is being taken where it stands now.
    void cut() {
        if (in_step_)
            settle();
    }

    const World* world_;
    uint64_t seed_;
    double begins_;
    int64_t milliseconds_ = 0;
    double seconds_ = 0;
    int64_t slow_ = -1;      ///< ten seconds that the slow ones were last looked at
    double slow_until_ = 0;  ///< s: when they are over
    double quiet_until_ = 0; ///< s: until then nothing happens at once
    double step_;
    bool in_step_ = false;
    double begun_ = 0, length_ = 0; ///< of the step that is being taken, s
    std::vector<double> states_, values_;
    std::vector<const Element*> tellers_; ///< those with values of their states
    /// How a state goes in a step: from where, and the two factors of its parabola.
    struct Way {
        double from, first, curved;
    };
    std::vector<Way> ways_;
    std::vector<double> rates_; ///< room for what elements say
};

} // namespace zorilla::bench
