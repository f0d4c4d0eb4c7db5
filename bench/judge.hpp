// SPDX-License-Identifier: MIT
/// \file
/// Whether a device keeps what it is promised to keep to, pass by pass.
#pragma once

#include "rig/run/running_rig.hpp"

#include <cstdint>
#include <deque>
#include <functional>
#include <optional>
#include <string>
#include <type_traits>
#include <vector>

namespace zorilla::bench {

/// What became of a promise, or of a line of `never`.
struct Verdict {
    std::string says;
    bool judged = false; ///< whether there was anything to judge
    bool broken = false;
    uint64_t times = 0; ///< how often it was broken
    int64_t first = 0;  ///< ms: when it first was
    std::string how;    ///< what happened then, or how close it came
    /// Of a range: ms outside of it, and how far it went there, in thousandths of the unit.
    int64_t outside = 0;
    double furthest = 0;
    int64_t unknown = 0; ///< ms in which nobody knew what it was
    /// Of a broken `never`: it was only unknown, and may have been.
    bool maybe = false;
};

/// Judges all promises and all that must never be.
class Judge {
  public:
    /// What a source really was, if that is known. May be empty: then readings count.
    using Truly = std::function<std::optional<double>(size_t source)>;

    /// \param in_full  looks at all in each pass, which takes longer and must come to the same
    explicit Judge(const rig::Rig& rig, bool in_full = false);
    /// The bit of a sensor's fault, and of another part's.
    static constexpr uint64_t fault_of_sense(size_t sense) {
        return uint64_t{1} << (sense < 62 ? sense : 62);
    }
    static constexpr uint64_t fault_of_other = uint64_t{1} << 63;

    /// After each pass. \param now  ms, never going backwards \param faults  a bit for each sensor
    /// that is known to be broken, by its number, and the last one for any other part; where
    /// nothing is known, what sensors have lost counts
    template <class Known>
    void pass(int64_t now, const rig::RunningRig& running, const Known& truly, uint64_t faults) {
        // Mostly nothing has changed, no output has moved, no time has run out, and values are
        // where they have been.
        if (in_full_ || running.changed() || running.moved() || now >= look_again_ ||
            faults != given_ || !is_calm(running, truly)) {
            if constexpr (std::is_same_v<Known, Nobody>)
                look(now, running, {}, faults);
            else
                look(now, running, std::cref(truly), faults);
            calm_down();
        }
        given_ = faults;
        last_ = now;
    }
    /// Where nobody sees faults but the device itself.
    void pass(int64_t now, const rig::RunningRig& running) { pass(now, running, Nobody(), 0); }

    /// Instead of a pass, while the device has no power: what is there goes on.
    void pass_dark(int64_t now, const Truly& truly);

    /// Those of the promises, then those of `never`.
    std::vector<Verdict> verdicts() const;
    /// The next pass is looked at, even if nothing seems to have changed: a device was started
    /// anew.
    void starts_anew() { look_again_ = 0; }
    bool all_kept() const;

  private:
    /// Who knows of no source what it really was.
    struct Nobody {
        std::optional<double> operator()(size_t) const { return std::nullopt; }
    };
    struct State {
        Verdict verdict;
        bool is = false;   ///< outside, or too much, or what must never be
        int64_t since = 0; ///< of that, or of what is not answered
        bool done = false; ///< this time it is broken already
        bool any = false;
        double furthest = 0;                      ///< of a range, the value that is
        double least = 1e300, most_seen = -1e300; ///< of a range, what was seen inside of it
        std::optional<int64_t> unknown_since;     ///< of a range
        bool was_on = false;
        enum class Answer : uint8_t { none_needed, awaited, came, late } answer{};
        std::deque<std::pair<int64_t, int64_t>> on; ///< begin and end, of the last 24 hours
        int64_t most = 0;                           ///< times, or ms
    };
    void judge(const rig::Promise& promise, State& state, int64_t now,
               const rig::RunningRig& running, const Truly& truly, uint64_t faults);
    /// \param known  nothing where nobody knows it; thousandths
    void range(const rig::Promise& promise, State& state, int64_t now, std::optional<double> known);
    void switched(const rig::Promise& promise, State& state, int64_t now, bool is_on);
    void wait(const rig::Promise& promise, State& state, int64_t now, bool asks, bool afresh,
              bool answers);
    void look(int64_t now, const rig::RunningRig& running, const Truly& truly, uint64_t faults);
    void begin(int64_t now);
    /// Values between which a reading can change nothing of a promise.
    struct Calm {
        size_t promise;
        size_t source;
        double lowest, highest; ///< thousandths
    };
    template <class Known> bool is_calm(const rig::RunningRig& running, const Known& truly) {
        for (Calm& calm : calm_) {
            const auto real = truly(calm.source);
            const rig::AnyReading& reading = running.readings()[calm.source];
            const double value = real ? *real * 1000 : reading.value_or({}).thousandths();
            if ((real || reading.ok()) && (value < calm.lowest || value > calm.highest) &&
                !widen(calm, value))
                return false;
        }
        return true;
    }
    /// Takes note of a value that nobody has seen yet. \return  whether that changes nothing else
    bool widen(Calm& calm, double value);
    /// How far a value is beyond a promise, in thousandths; below 0 while it keeps it.
    static double beyond(const rig::Promise& promise, double value);
    static void see(State& state, double value, double beyond);
    void calm_down();
    std::string closest(const rig::Promise& promise, const State& state) const;
    static void breaks(State& state, int64_t now, std::string how);

    const rig::Rig* rig_;
    std::vector<State> promises_, nevers_;
    int64_t last_ = 0;
    bool begun_ = false;
    uint64_t faults_before_ = 0; ///< with those that only the device sees
    uint64_t given_ = 0;
    std::vector<Truth> truths_;
    bool asks_for_faults_ = false;
    bool in_full_ = false; ///< whether all is looked at in each pass
    std::vector<Calm> calm_;
    int64_t look_again_ = 0; ///< ms: then time alone may break a promise
};

} // namespace zorilla::bench
