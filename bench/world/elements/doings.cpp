// SPDX-License-Identifier: MIT
// What turns, and what people do.
#include "bench/world/elements/elements.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace zorilla::bench {

using rig::Kind;

namespace {

/// A motor without load: J dw/dt = M_0 (1 - w / w_0) is a first-order lag towards the speed that
/// its duty stands for (A. Hughes and B. Drury, Electric Motors and Drives, chapter on d.c.
/// motors). State: its speed in rpm.
class Turning : public Element {
  public:
    std::vector<WorldValue> values() const override {
        return {{name, Kind::turning_speed}, {name + ".jammed", Kind::truth}};
    }
    uint32_t states() const override { return 1; }

    void read(rig::TableReader& keys, WorldScope& scope) override {
        const auto top = keys.required_quantity("top", Kind::turning_speed, "2400 rpm",
                                                "how fast it turns at full duty");
        by_ = scope.acting(keys);
        by_.amount = 1;
        if (by_.always)
            keys.complain(fmt::format("{} needs \"by\", the output that turns it; for example by = "
                                      "\"fan\"",
                                      keys.label()));
        if (top)
            top_ = rig::in_formulas(*top, Kind::turning_speed);
        if (const auto up = keys.quantity("spins_up_in", Kind::duration, "1.5 s"))
            lag_ = std::max(rig::in_formulas(*up, Kind::duration), 0.01);
        if (const auto from = keys.quantity("starts_at", Kind::percentage, "25 %"))
            starts_at_ = rig::in_formulas(*from, Kind::percentage) / 100;
        jams_.stream = stream_of(name);
        jams_.read(keys, "5 min");
    }
    double happen(const Moment& now, double* values) const override {
        double until = 0;
        values[value + 1] = jams_.at(now, until) ? 1 : 0;
        return until;
    }
    void rates(const double* states, const double* values, double* rates) const override {
        const double duty = by_.now(values);
        const double goal = duty < starts_at_ || values[value + 1] > 0 ? 0 : top_ * duty;
        rates[state] += (goal - states[state]) / lag_;
    }
    bool tell(const double* states, double* values) const override {
        values[value] = states[state];
        return true;
    }
    double fastest() const override { return 1 / lag_; }

  private:
    Acting by_;
    double top_ = 1000, lag_ = 1, starts_at_ = 0;
    Schedule jams_;
};

/// Whatever is done, or not: a button is pressed, a door stands open, hens are awake.
class People : public Element {
  public:
    std::vector<WorldValue> values() const override { return {{name, Kind::truth}}; }
    void read(rig::TableReader& keys, WorldScope&) override {
        when_.stream = stream_of(name);
        when_.read(keys, "1 s");
    }
    double happen(const Moment& now, double* values) const override {
        double until = 0;
        values[value] = when_.at(now, until) ? 1 : 0;
        return until;
    }
    double lasts() const override { return when_.length(); }

  private:
    Schedule when_;
};

std::vector<rig::PartKey> with_schedule(std::vector<rig::PartKey> own) {
    own.insert(own.end(), Schedule::keys().begin(), Schedule::keys().end());
    return own;
}

} // namespace

ElementKind turning_element() {
    return {"turning", "What an output turns, and how it may jam.",
            with_schedule({{"by", "\"fan\""},
                           {"top", "\"2400 rpm\""},
                           {"spins_up_in", "\"1.5 s\""},
                           {"starts_at", "\"25 %\""}}),
            [] { return std::unique_ptr<Element>(std::make_unique<Turning>()); }};
}
ElementKind people_element() {
    return {"people", "What is done by somebody, by the clock or by chance.", with_schedule({}),
            [] { return std::unique_ptr<Element>(std::make_unique<People>()); }};
}

} // namespace zorilla::bench
