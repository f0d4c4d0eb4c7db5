// SPDX-License-Identifier: MIT
/// \file
/// What a world is made of. To add a kind of element, write its file in bench/world/elements/ with
/// a function NAME_element(), and a line in kinds.cpp.
#pragma once

#include "bench/world/chance.hpp"
#include "rig/read/table_reader.hpp"

#include <cstdint>
#include <functional>
#include <limits>
#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace zorilla::bench {

/// A number of a world that sensors and other elements can look at, in the unit in which readings
/// are counted: degC, %RH, ppm, mm, lx, rpm; of a truth 0 or 1.
struct WorldValue {
    std::string name;
    rig::Kind kind = rig::Kind::truth;
};

/// Where a number stands: among the states, which go on within a step, or among the values, which
/// stand still in it.
struct WorldRef {
    bool is_state = false;
    uint32_t index = 0;
    uint32_t value = 0; ///< where it stands among the values, once a step is over
    double of(const double* states, const double* values) const {
        return is_state ? states[index] : values[index];
    }
};

/// What happens by itself at a moment.
struct Moment {
    double seconds = 0; ///< since the world began
    double of_day = 0;  ///< seconds since midnight of its first day
    double day_of_year = 1;
    uint64_t seed = 0; ///< of its chances
};

class WorldScope;

/// One element, as its file says. It remembers nothing: its states stand in the life of a world.
class Element {
  public:
    virtual ~Element() = default;
    std::string name;
    uint32_t value = 0; ///< its first value
    uint32_t state = 0; ///< its first state

    /// What it has for others to look at; depends on its name alone.
    virtual std::vector<WorldValue> values() const { return {}; }
    virtual uint32_t states() const { return 0; }
    /// Which of its states others may look at within a step, behind its first value.
    virtual bool first_is_state() const { return false; }
    /// Reads its keys, once the names of all elements are known.
    virtual void read(rig::TableReader& keys, WorldScope& scope) = 0;

    virtual void begin(double* /*states*/, const double* /*values*/) const {}
    /// What comes by itself and slowly, such as the weather: looked at every ten seconds.
    virtual void happen_slowly(const Moment&, double* /*values*/) const {}
    /// What comes by itself and at once, such as a hand on a button.
    /// \return  until when that stays, in seconds since the world began
    virtual double happen(const Moment&, double* /*values*/) const { return for_ever; }
    /// How long what comes at once lasts each time, in seconds; 0 where nothing does.
    virtual double lasts() const { return 0; }
    /// Where what is looked at is as warm and as damp as something: values of the world.
    struct Climate {
        uint32_t warm = 0;
        std::optional<uint32_t> damp{};
    };
    virtual std::optional<Climate> climate() const { return std::nullopt; }
    static constexpr double for_ever = std::numeric_limits<double>::infinity();
    /// How fast states change, in a second: added to what others have added.
    virtual void rates(const double* /*states*/, const double* /*values*/,
                       double* /*rates*/) const {}
    /// What bounds its states after a step.
    virtual void settle(double* /*states*/, const double* /*values*/) const {}
    /// Whether its states are where they may be; where they are not, a step ends there.
    virtual bool is_within(const double* /*states*/) const { return true; }
    virtual bool has_bounds() const { return false; }
    /// Its values from its states. \return  whether it has any
    virtual bool tell(const double* /*states*/, double* /*values*/) const { return false; }
    /// The largest share of itself by which a state may go towards its goal in a second.
    virtual double fastest() const { return 0; }
    /// How long its states take towards their goal at the slowest, as a time constant in seconds; 0
    /// where it has none.
    virtual double slowest() const { return 0; }
};

/// Something that acts while an output is on, or somebody does something; of a dimmed output, by
/// its share.
struct Acting {
    double amount = 0;
    bool always = true;
    uint32_t by = 0;  ///< a value from 0 to 1
    std::string name; ///< of what acts; empty if it always does
    double now(const double* values) const { return always ? amount : amount * values[by]; }
};

/// A kind of element.
struct ElementKind {
    const char* word; ///< its group of tables: [warmth.NAME]
    const char* about;
    std::vector<rig::PartKey> keys;
    std::unique_ptr<Element> (*make)();
};
const std::vector<ElementKind>& element_kinds();

/// What reading an element may ask.
class WorldScope {
  public:
    virtual ~WorldScope() = default;
    rig::Findings* findings = nullptr;
    std::string folder; ///< where files that it names stand

    /// A value of the world under a key that holds its name. \param must  there is a mistake if
    /// the key is missing
    virtual std::optional<WorldRef> look(rig::TableReader& keys, std::string_view key,
                                         rig::Kind kind, bool must, std::string_view why) = 0;
    /// An element of a kind, by its name; null, and a mistake, if there is none.
    virtual const Element* element(rig::TableReader& keys, std::string_view key,
                                   std::string_view word, std::string_view why) = 0;
    /// An element that has a name, whatever it is; null if it has none.
    virtual const Element* element_of(const std::string& name) const = 0;
    /// The value that says how much of an output, or of a person's doing, there is.
    virtual Acting acting(rig::TableReader& keys) = 0;
};

/// A list of tables, each with `by` and an amount: `[{ by = "heat_lamp", power = "60 W" }]`.
/// \param each  may read more keys of each
std::vector<Acting> actings(rig::TableReader& keys, std::string_view key, std::string_view amount,
                            rig::Kind kind, WorldScope& scope,
                            const std::vector<rig::PartKey>& more = {},
                            const std::function<void(rig::TableReader&, Acting&)>& each = {});

inline double sum_of(const std::vector<Acting>& all, const double* values) {
    double out = 0;
    for (const Acting& one : all)
        out += one.now(values);
    return out;
}
/// With all of them at once.
inline double most_of(const std::vector<Acting>& all) {
    double out = 0;
    for (const Acting& one : all)
        out += one.amount;
    return out;
}

/// A time of the day, "07:30" or "07:30:05", in seconds; complains if it is none.
std::optional<double> clock_time(rig::TableReader& keys, std::string_view key);

/// When something happens, by the clock or by chance.
class Schedule {
  public:
    static const std::vector<rig::PartKey>& keys();
    void read(rig::TableReader& keys, std::string_view usual_length);
    bool at(const Moment& moment) const {
        double until = 0;
        return at(moment, until);
    }
    /// \param until  becomes the time until which that stays, in seconds since the world began
    bool at(const Moment& moment, double& until) const;
    /// One that comes once. \param at  s after midnight of the first day
    static Schedule once(double at, double length) {
        Schedule out;
        out.entries_.push_back({false, at});
        out.length_ = length;
        return out;
    }
    double length() const { return length_; } ///< s
    uint64_t stream = 0;                      ///< tells its chances from those of others

  private:
    struct Entry {
        bool daily;
        double at;
    };
    std::vector<Entry> entries_;
    double length_ = 1; ///< s
    double cell_ = 0;   ///< s in which it comes once by chance; 0: not by chance
};

/// A number for a name, the same everywhere.
uint64_t stream_of(std::string_view name);

// --- What is asked of others

/// Water that a cubic metre of air can hold, in g/m3. Magnus formula over water with the
/// coefficients of WMO-No. 8, annex 4.B, and the gas law of water vapour.
double saturated_vapour(double celsius);
/// Heat that a cubic metre of air carries for each degree, in J/(m3 K), at 20 degC and 1013 hPa.
constexpr double air_heat_capacity = 1206;

} // namespace zorilla::bench
