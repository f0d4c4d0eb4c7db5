// SPDX-License-Identifier: MIT
#include "bench/world/trying.hpp"

#include "bench/replaying.hpp"
#include "bench/trace/field.hpp"
#include "bench/world/elements/warmth.hpp"
#include "rig/text/files.hpp"

#include <algorithm>
#include <cmath>
#include <iterator>

namespace zorilla::bench {

namespace {

/// Energy that outputs give to bodies, or take from them.
class Energies {
  public:
    explicit Energies(const World& world) {
        for (const auto& element : world.elements)
            if (const auto* body = dynamic_cast<const Warmth*>(element.get()))
                for (const auto* all : {&body->warmed, &body->cooled})
                    for (const Acting& one : *all)
                        if (!one.name.empty() && is_output(world, one.by))
                            of_.push_back({&one, {one.name, body->name, all == &body->cooled, 0}});
    }
    void pass(const WorldLife& life, double seconds) {
        for (auto& [acting, energy] : of_)
            energy.joules += acting->amount * life.value(acting->by) * seconds;
    }
    std::vector<WorldSummary::Energy> all() const {
        std::vector<WorldSummary::Energy> out;
        for (const auto& one : of_)
            out.push_back(one.second);
        return out;
    }
    double joules() const {
        double out = 0;
        for (const auto& one : of_)
            out += one.second.joules;
        return out;
    }

  private:
    static bool is_output(const World& world, uint32_t value) {
        return std::any_of(world.outputs.begin(), world.outputs.end(),
                           [&](const World::Output& output) { return output.value == value; });
    }
    std::vector<std::pair<const Acting*, WorldSummary::Energy>> of_;
};

/// What happened in a world, gathered pass by pass.
class Witness {
  public:
    Witness(const WorldWiring& wiring, const WorldAround& around)
        : wiring_(&wiring), energies_(wiring.world()), shadow_(around.life()) {
        const World& world = wiring.world();
        out_.step = world.step;
        shadow_.take_steps_of(world.step / 2);
        for (uint32_t i = 0; i < world.values.size(); ++i) {
            const WorldValue& value = world.values[i];
            if (value.kind == rig::Kind::truth || value.kind == rig::Kind::absolute_humidity ||
                value.name.find(".sky") != std::string::npos ||
                value.name.find(".wet") != std::string::npos)
                continue;
            const double is = around.life().value(i);
            seen_.push_back({i, is, is, 0});
            out_.values.push_back({value.name, value.kind});
        }
        const rig::Rig& rig = wiring.rig();
        for (size_t i = 0; i < rig.decides.size(); ++i)
            if (rig.decides[i].judges && rig.decides[i].gives == rig::Gives::truth &&
                rig.sources[rig.decides[i].of].kind != rig::Kind::light)
                for (size_t fact = 0; fact < rig.facts.size(); ++fact)
                    if (rig.facts[fact].kind == rig::Fact::Kind::decision &&
                        rig.facts[fact].of == i && wiring.truly(around.life(), rig.decides[i].of)) {
                        turns_.push_back({fact, wiring.told(rig.decides[i].of)});
                        out_.overshoots.push_back(
                            {rig.decides[i].name,
                             rig::difference_of(rig.sources[rig.decides[i].of].kind)});
                    }
    }

    /// What is there now, whether the device has power or not.
    void pass(const WorldLife& life, int64_t every) {
        if (out_.passes > 0)
            energies_.pass(life, static_cast<double>(every) / 1000);
        for (Seen& value : seen_) {
            const double is = life.value(value.of);
            value.least = std::min(value.least, is);
            value.most = std::max(value.most, is);
            value.sum += is;
        }
        ++out_.passes;
        if (out_.checked < half_step_checked)
            compare(life, every);
    }
    /// What the device has made of it.
    void decided(const WorldLife& life, const rig::RunningRig& running) {
        for (size_t i = 0; i < turns_.size(); ++i)
            follow(turns_[i], out_.overshoots[i], life, running);
    }
    /// Nothing: it had no power.
    void decided_nothing() {
        for (Turn& turn : turns_)
            turn.was = Truth::unknown, turn.follows = false;
    }
    /// What outputs are from now on, for the world by half steps too.
    void acted(const WorldLife& life) {
        if (out_.checked >= half_step_checked)
            return;
        for (const World::Output& output : wiring_->world().outputs)
            shadow_.set(output.value, life.value(output.value));
    }

    WorldSummary finish() {
        out_.energies = energies_.all();
        for (size_t i = 0; i < seen_.size(); ++i) {
            out_.values[i].least = seen_[i].least;
            out_.values[i].most = seen_[i].most;
            out_.values[i].sum = seen_[i].sum;
        }
        return std::move(out_);
    }

  private:
    static constexpr int64_t half_step_checked = 2 * 86'400'000;
    struct Seen {
        uint32_t of;
        double least, most, sum;
    };
    struct Turn {
        size_t fact;
        WorldWiring::Told told;
        Truth was = Truth::unknown;
        bool follows = false; ///< whether it has turned
        bool upwards = false;
        double at = 0, furthest = 0, before = 0;
    };
    static void follow(Turn& turn, WorldSummary::Overshoot& out, const WorldLife& life,
                       const rig::RunningRig& running) {
        const double is = turn.told.in(life);
        const Truth truth = running.truths()[turn.fact];
        if (truth != turn.was) {
            if (turn.follows) {
                out.sum += turn.furthest;
                out.most = std::max(out.most, turn.furthest);
                ++out.times;
            }
            turn.follows = turn.was != Truth::unknown && truth != Truth::unknown;
            turn.upwards = is > turn.before;
            turn.at = is;
            turn.furthest = 0;
            turn.was = truth;
            turn.before = is;
            return;
        }
        if (turn.follows)
            turn.furthest = std::max(turn.furthest, turn.upwards ? is - turn.at : turn.at - is);
        else
            turn.before = is;
        // Which way it goes is seen over a while: from one pass to the next it hardly moves.
        turn.before += (is - turn.before) * 0.05;
    }

    /// The same world by half steps, for the first two days: with the same outputs.
    void compare(const WorldLife& life, int64_t every) {
        if (out_.passes <= 1)
            return;
        shadow_.go_on(every);
        for (size_t i = 0; i < seen_.size(); ++i)
            out_.values[i].changed_by_half_step =
                std::max(out_.values[i].changed_by_half_step,
                         std::fabs(shadow_.value(seen_[i].of) - life.value(seen_[i].of)));
        out_.checked += every;
    }

    const WorldWiring* wiring_;
    Energies energies_;
    WorldLife shadow_;
    WorldSummary out_;
    std::vector<Seen> seen_;
    std::vector<Turn> turns_;
};

/// A trace, row by row.
class TraceText {
  public:
    explicit TraceText(const rig::Rig& rig, bool outputs) : rig_(rig), outputs_(outputs) {}
    void header() {
        add("time (s)");
        for (const rig::Sense& sense : rig_.senses)
            fmt::format_to(std::back_inserter(text), ",{} ({})", sense.name,
                           rig::unit_of(sense.raw));
        for (const rig::Drive& drive : rig_.drives)
            if (outputs_)
                fmt::format_to(std::back_inserter(text), ",{} (out)", drive.name);
        text.push_back('\n');
    }
    void row(int64_t now, const rig::Raw* raws, const rig::RunningRig* running) {
        fmt::format_to(std::back_inserter(text), "{}", now / 1000);
        if (now % 1000 != 0)
            fmt::format_to(std::back_inserter(text), ".{:03}", now % 1000);
        for (size_t i = 0; i < rig_.senses.size(); ++i) {
            text.push_back(',');
            add(field_text(rig_.senses[i].raw, raws[i]));
        }
        if (running != nullptr && outputs_)
            for (const rig::Driven& driven : running->drivens())
                fmt::format_to(std::back_inserter(text), ",{}", driven.value.bits());
        text.push_back('\n');
    }
    fmt::memory_buffer text;

  private:
    void add(std::string_view more) { text.append(more.data(), more.data() + more.size()); }
    const rig::Rig& rig_;
    bool outputs_;
};

} // namespace

double step_matters(const WorldSummary::Value& value) {
    return value.kind == rig::Kind::temperature
               ? 0.02
               : 0.002 * std::max(std::fabs(value.least), std::fabs(value.most));
}

Tried try_in_world(const WorldWiring& wiring, const TryPlan& plan,
                   const std::function<void(const Event&)>& on_event,
                   const std::function<void(int64_t, const rig::RunningRig&)>& on_row) {
    const rig::Rig& rig = wiring.rig();
    WorldAround around(wiring, plan);
    Replaying replaying(rig, on_event);
    Judge judge(rig);
    Witness witness(wiring, around);
    const auto truly = [&around](size_t source) { return around.truly(source); };
    Tried out;
    std::optional<rig::OutputFile> file;
    TraceText trace(rig, true);
    const auto begin_trace = [&] {
        if (plan.save.empty())
            return;
        file.reset();
        file.emplace(plan.save);
        trace.text.clear();
        trace.header();
    };
    begin_trace();
    bool had_power = true;
    const int64_t passes = plan.length / plan.every;
    int64_t device_now = 0;
    for (int64_t i = 0; i <= passes && around.next(device_now); ++i) {
        const int64_t now = around.clock();
        witness.pass(around.life(), plan.every);
        if (!around.has_power()) {
            had_power = false;
            judge.pass_dark(now, truly);
            around.passed_dark();
            witness.decided_nothing();
            witness.acted(around.life());
            continue;
        }
        if (!had_power) {
            replaying.go_on_as(rig::RunningRig(rig));
            judge.starts_anew();
            out.power_back = now;
            begin_trace();
        }
        had_power = true;
        replaying.pass(now, around.raws());
        witness.decided(around.life(), replaying.running());
        judge.pass(now, replaying.running(), truly, around.broken());
        around.passed(replaying.running());
        witness.acted(around.life());
        if (on_row)
            on_row(now, replaying.running());
        if (file) {
            trace.row(now, around.raws(), &replaying.running());
            if (trace.text.size() > 1 << 16) {
                file->write({trace.text.data(), trace.text.size()});
                trace.text.clear();
            }
        }
    }
    if (file) {
        file->write({trace.text.data(), trace.text.size()});
        file->commit();
    }
    out.summary = replaying.finish();
    out.world = witness.finish();
    out.verdicts = judge.verdicts();
    return out;
}

std::string trace_of_world(const WorldWiring& wiring, const AroundPlan& plan, int64_t length) {
    WorldAround around(wiring, plan);
    rig::RunningRig running(wiring.rig());
    TraceText trace(wiring.rig(), false);
    trace.header();
    int64_t now = 0;
    for (int64_t at = 0; at < length && around.next(now); at += plan.every) {
        trace.row(around.clock(), around.raws(), nullptr);
        running.pass(Instant(static_cast<uint32_t>(now)), around.raws());
        around.passed(running);
    }
    return fmt::to_string(trace.text);
}

Lived live_in_world(const WorldWiring& wiring, const AroundPlan& plan, int64_t length,
                    const Wished* wished) {
    const rig::Rig& rig = wiring.rig();
    WorldAround around(wiring, plan);
    rig::RunningRig running(rig);
    Judge judge(rig);
    Energies energies(wiring.world());
    const auto truly = [&around](size_t source) { return around.truly(source); };
    Lived out;
    out.times_on.resize(rig.drives.size());
    std::vector<char> was(rig.drives.size());
    int64_t now = 0;
    uint64_t passes = 0;
    bool had_power = true;
    const double seconds = static_cast<double>(plan.every) / 1000;
    for (int64_t at = 0; at <= length && around.next(now); at += plan.every) {
        energies.pass(around.life(), at == 0 ? 0 : seconds);
        ++passes;
        if (wished != nullptr)
            if (const auto is = around.truly(wished->source))
                out.deviation += wished->distance(*is);
        if (!around.has_power()) {
            had_power = false;
            judge.pass_dark(around.clock(), truly);
            around.passed_dark();
            std::fill(was.begin(), was.end(), char{0});
            continue;
        }
        if (!had_power) {
            running = rig::RunningRig(rig);
            judge.starts_anew();
        }
        had_power = true;
        running.pass(Instant(static_cast<uint32_t>(around.life().milliseconds())), around.raws());
        judge.pass(around.clock(), running, truly, around.broken());
        around.passed(running);
        for (size_t i = 0; i < was.size(); ++i) {
            const bool is = running.drivens()[i].is_on;
            out.times_on[i] += is && was[i] == 0 ? 1 : 0;
            was[i] = is ? 1 : 0;
        }
    }
    out.deviation /= static_cast<double>(std::max<uint64_t>(passes, 1));
    out.joules = energies.joules();
    out.verdicts = judge.verdicts();
    out.kept = judge.all_kept();
    return out;
}

} // namespace zorilla::bench
