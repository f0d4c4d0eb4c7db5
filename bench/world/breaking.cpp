// SPDX-License-Identifier: MIT
#include "bench/world/breaking.hpp"

#include "bench/world/workers.hpp"
#include "rig/prove/replay.hpp"

#include <algorithm>

namespace zorilla::bench {

namespace {

/// What can be wrong with a sensor of a kind.
std::vector<rig::Fault> faults_of(rig::RawKind raw) {
    using rig::Fault;
    switch (raw) {
    case rig::RawKind::code:
        return {Fault::open, Fault::shorted, Fault::swapped, Fault::stuck, Fault::dropped};
    case rig::RawKind::microseconds:
        return {Fault::open, Fault::ringing, Fault::stuck, Fault::dropped};
    case rig::RawKind::frame: return {Fault::open, Fault::stuck, Fault::dropped, Fault::flipped};
    case rig::RawKind::level: return {Fault::open, Fault::shorted, Fault::stuck};
    case rig::RawKind::edges: return {Fault::open, Fault::ringing, Fault::dropped};
    }
    return {};
}

/// A device that lives, and can be copied at any moment.
struct Life {
    WorldAround around;
    rig::RunningRig running;
    bool had_power = true;

    Life(const WorldWiring& wiring, const AroundPlan& plan)
        : around(wiring, plan), running(wiring.rig()) {}
    /// \return  whether it has made a pass
    bool pass() {
        int64_t now = 0;
        around.next(now);
        if (!around.has_power()) {
            had_power = false;
            around.passed_dark();
            return false;
        }
        if (!had_power)
            running = rig::RunningRig(around.wiring().rig());
        had_power = true;
        running.pass(Instant(static_cast<uint32_t>(around.life().milliseconds())), around.raws());
        around.passed(running);
        return true;
    }
    bool is_well() const {
        return std::all_of(running.readings().begin(), running.readings().end(),
                           [](const rig::AnyReading& reading) { return reading.ok(); }) &&
               std::none_of(running.drivens().begin(), running.drivens().end(),
                            [](const rig::Driven& driven) { return driven.cause == Cause::safe; });
    }
};

/// What happened in one case.
struct Case {
    std::vector<char> tells; ///< of each pass while the fault lasts: whether something is told
    std::vector<char> broken;
    uint64_t times = 0;
    std::optional<int64_t> told;
    bool recovered = false;
};

/// Whether a promise is about 24 hours.
bool is_of_a_day(const rig::Promise& promise) {
    return promise.is == rig::Promise::Is::times_a_day || promise.is == rig::Promise::Is::on_a_day;
}

class Breaker {
  public:
    Breaker(const WorldWiring& wiring, const BreakingPlan& plan) : wiring_(wiring), plan_(plan) {
        const auto& promises = wiring.rig().promises;
        for (size_t i = 0; i < promises.size(); ++i)
            if (promises[i].is == rig::Promise::Is::told) {
                tells_ = &promises[i];
                tells_at_ = i;
            }
    }

    Broken run() {
        Broken out;
        out.tells = tells_ != nullptr;
        list(out.all);
        std::vector<Life> lives;
        Life life(wiring_, plan_.around);
        const int64_t apart = 86'400'000 / static_cast<int64_t>(plan_.moments);
        for (size_t i = 0; i < plan_.moments; ++i) {
            const int64_t at = plan_.before + static_cast<int64_t>(i) * apart;
            while (life.around.life().milliseconds() < at)
                life.pass();
            lives.push_back(life);
        }
        std::vector<Case> calm(lives.size());
        all_at_once(lives.size(), plan_.threads,
                    [&](size_t i) { calm[i] = live(lives[i], nullptr); });
        const std::vector<Verdict> says = Judge(wiring_.rig()).verdicts();
        for (size_t p = 0; p < says.size(); ++p)
            if (std::any_of(calm.begin(), calm.end(),
                            [&](const Case& one) { return one.broken[p] != 0; }))
                out.broken_without.push_back(says[p].says);
        for (size_t p = 0; p < wiring_.rig().promises.size(); ++p)
            if (is_of_a_day(wiring_.rig().promises[p]) && plan_.lasts + plan_.after < 86'400'000)
                out.open.push_back(says[p].says);
        std::vector<Case> cases(out.all.size() * lives.size());
        all_at_once(cases.size(), plan_.threads, [&](size_t i) {
            cases[i] = live(lives[i % lives.size()], &out.all[i / lives.size()].fault);
            // Only what the calm device does not tell at that moment tells of this fault.
            Case& one = cases[i];
            const Case& other = calm[i % lives.size()];
            for (size_t pass = 0; pass < one.tells.size() && !one.told; ++pass)
                if (one.tells[pass] != 0 && (pass >= other.tells.size() || other.tells[pass] == 0))
                    one.told = static_cast<int64_t>(pass + 1) * plan_.around.every;
            one.tells = {};
        });
        for (size_t i = 0; i < out.all.size(); ++i)
            add_up(out.all[i], lives, calm, cases.data() + i * lives.size(), says);
        return out;
    }

    static void schedule(WorldFault& fault, double seconds, int64_t lasts) {
        fault.when = Schedule::once(seconds, static_cast<double>(lasts) / 1000);
    }

  private:
    void list(std::vector<Breaking>& out) const {
        const rig::Rig& rig = wiring_.rig();
        const auto add = [&out](WorldFault fault, std::string part, std::string how) {
            fault.name = "asked";
            fault.of = part;
            out.push_back({std::move(fault), std::move(part), std::move(how)});
        };
        for (const rig::Sense& sense : rig.senses) {
            if (sense.pin.empty())
                continue;
            for (const rig::Fault is : faults_of(sense.raw)) {
                WorldFault fault;
                fault.fault = is;
                add(fault, sense.name, std::string(word_of(is)));
            }
        }
        for (const rig::Drive& drive : rig.drives)
            for (const bool on : {true, false}) {
                const auto& acts = wiring_.outputs();
                // What acts on nothing here cannot be seen to be stuck.
                if (std::none_of(acts.begin(), acts.end(),
                                 [&](size_t i) { return rig.drives[i].name == drive.name; }))
                    continue;
                WorldFault fault;
                fault.what = WorldFault::Of::output;
                fault.stuck_on = on;
                add(fault, drive.name, on ? "stuck on" : "stuck off");
            }
        WorldFault supply;
        supply.what = WorldFault::Of::supply;
        add(supply, "supply", "lost");
    }

    Case live(Life life, const WorldFault* breaks) const {
        const rig::Rig& rig = wiring_.rig();
        Case out;
        const int64_t begin = life.around.life().milliseconds();
        if (breaks != nullptr) {
            WorldFault fault = *breaks;
            schedule(fault, life.around.life().moment().of_day, plan_.lasts);
            life.around.breaks(std::move(fault));
        }
        Judge judge(rig);
        const auto truly = [&life](size_t source) { return life.around.truly(source); };
        std::vector<Truth> truths;
        while (life.around.life().milliseconds() < begin + plan_.lasts + plan_.after) {
            const bool had_power = life.had_power;
            if (!life.pass()) {
                judge.pass_dark(life.around.clock(), truly);
                continue;
            }
            if (!had_power)
                judge.starts_anew();
            const int64_t since = life.around.life().milliseconds() - begin;
            judge.pass(life.around.clock(), life.running, truly, life.around.broken());
            if (since > plan_.lasts)
                continue;
            bool tells = !life.is_well();
            if (tells_ != nullptr) {
                rig::prove::all_truths(life.running, truths);
                tells = tells_->then.condition.evaluate(truths.data()) == Truth::yes;
            }
            // Passes without power tell nothing.
            out.tells.resize(static_cast<size_t>(since / plan_.around.every), 0);
            if (!out.tells.empty())
                out.tells.back() = tells ? 1 : 0;
        }
        for (const Verdict& verdict : judge.verdicts()) {
            out.broken.push_back(verdict.broken ? 1 : 0);
            out.times += verdict.times + static_cast<uint64_t>(verdict.outside / 60'000);
        }
        out.recovered = life.is_well();
        return out;
    }

    void add_up(Breaking& breaking, const std::vector<Life>& lives, const std::vector<Case>& calm,
                const Case* cases, const std::vector<Verdict>& says) const {
        uint64_t worst = 0;
        if (tells_ != nullptr && breaking.fault.what == WorldFault::Of::sensor) {
            const auto& whose = tells_->senses;
            const rig::Rig& rig = wiring_.rig();
            breaking.to_be_told =
                whose.empty() || std::any_of(whose.begin(), whose.end(), [&](size_t sense) {
                    return rig.senses[sense].name == breaking.part;
                });
        }
        for (size_t i = 0; i < lives.size(); ++i) {
            const Case& is = cases[i];
            ++breaking.moments;
            bool kept = true;
            for (size_t p = 0; p < says.size(); ++p) {
                if (p == tells_at_)
                    continue;
                // What breaks without the fault too is not its fault.
                if (is.broken[p] == 0 || calm[i].broken[p] != 0)
                    continue;
                kept = false;
                if (std::find(breaking.broke.begin(), breaking.broke.end(), says[p].says) ==
                    breaking.broke.end())
                    breaking.broke.push_back(says[p].says);
            }
            breaking.kept += kept ? 1 : 0;
            const bool late = breaking.to_be_told && plan_.lasts > tells_->time &&
                              (!is.told || *is.told > tells_->time + plan_.around.every);
            if (is.told && !late) {
                ++breaking.told;
                breaking.longest_told = std::max(breaking.longest_told.value_or(0), *is.told);
            }
            breaking.recovered += is.recovered ? 1 : 0;
            if ((!kept || late) && (!breaking.worst || is.times > worst)) {
                worst = is.times;
                breaking.worst = lives[i].around.clock();
            }
        }
    }

    const WorldWiring& wiring_;
    const BreakingPlan& plan_;
    const rig::Promise* tells_ = nullptr;
    size_t tells_at_ = SIZE_MAX; ///< among the promises
};

} // namespace

int64_t settling_time(const WorldWiring& wiring) {
    double slowest = 0;
    for (const auto& element : wiring.world().elements)
        slowest = std::max(slowest, element->slowest());
    int64_t longest = 0;
    for (const rig::Promise& promise : wiring.rig().promises)
        if (!is_of_a_day(promise))
            longest = std::max(longest, promise.time);
    return std::clamp<int64_t>(std::llround(3000 * slowest) + longest, 3'600'000, 86'400'000) /
           60'000 * 60'000;
}

Broken break_everything(const WorldWiring& wiring, const BreakingPlan& plan) {
    return Breaker(wiring, plan).run();
}

Tried trace_of_breaking(const WorldWiring& wiring, const BreakingPlan& plan,
                        const Breaking& breaking, const std::string& path) {
    TryPlan trial;
    static_cast<AroundPlan&>(trial) = plan.around;
    WorldFault fault = breaking.fault;
    const int64_t begins = std::llround(plan.around.begins.value_or(wiring.world().begins) * 1000);
    Breaker::schedule(fault, static_cast<double>(*breaking.worst) / 1000, plan.lasts);
    trial.faults.push_back(std::move(fault));
    trial.length = *breaking.worst - begins + plan.lasts + plan.after;
    trial.save = path;
    return try_in_world(wiring, trial, [](const Event&) {}, {});
}

} // namespace zorilla::bench
