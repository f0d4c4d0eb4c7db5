// SPDX-License-Identifier: MIT
/// \file
/// Pulses counted by an interrupt, to a turning speed or a frequency.
#pragma once

#include "zorilla/sense/powers.hpp"
#include "zorilla/units/one_sentence.hpp"
#include "zorilla/units/reading.hpp"
#include "zorilla/units/settable.hpp"
#include "zorilla/units/time.hpp"

#include <stdint.h>

namespace zorilla {

/// What an interrupt has counted: all edges so far, which may wrap, and the time between the last
/// two.
struct PulseSample {
    uint16_t edges = 0;
    uint32_t period = 0; ///< microseconds between the last two edges
    bool taken = false;
};

/// Counts edges in an interrupt, and lets a pass take what it has counted without stopping it.
///
///     PulseCounter vane;
///     void on_edge() { vane.edge(board_microseconds(), 500); } // shorter than 0.5 ms: a glitch
///     ...
///     const PulseSample sample = vane.sample();
class PulseCounter {
  public:
    /// To be called by the interrupt.
    /// \param shortest  an edge sooner than this after the last is a glitch and does not count
    void edge(uint32_t microseconds, uint32_t shortest) {
        const uint32_t period = microseconds - last_;
        if (edges_ != 0 && period < shortest)
            return;
        last_ = microseconds;
        period_ = period;
        edges_ = static_cast<uint16_t>(edges_ + 1);
        version_ = static_cast<uint8_t>(version_ + 1);
    }

    /// To be called by the pass. An interrupt that comes meanwhile makes it look again, so no part
    /// of the sample is older than another; interrupts are never switched off.
    PulseSample sample() const {
        PulseSample out;
        uint8_t before = 0;
        do {
            before = version_;
            out.edges = edges_;
            out.period = period_;
        } while (before != version_);
        out.taken = true;
        return out;
    }

  private:
    volatile uint32_t last_ = 0;
    volatile uint32_t period_ = 0;
    volatile uint16_t edges_ = 0;
    volatile uint8_t version_ = 0;
};

/// How a speed is found from pulses.
enum class PulseMethod : uint8_t {
    window, ///< edges counted over a time: steady, for many edges
    period, ///< the time between two edges: quick, for few
};

/// Edges to a rate: `TurningSpeed` (turns per minute) or `Frequency` (hertz).
///
///     constexpr auto vane = turning_speed(2).by_period().still_after(3_s); // 2 edges a turn
///     PulseRate<vane> wind;
///     const auto speed = wind.read(now, sample);
///
/// Within 0.1 % of the formula. Standstill is 0, and healthy.
template <class Q> class PulseRateSpec {
  public:
    using Value = Q;
    constexpr PulseRateSpec(uint16_t edges_per_turn, uint32_t per)
        : edges_(edges_per_turn), per_(per), fastest_(usual_fastest()) {}

    /// Counts edges over this time, 100 ms to 60 s. The default, with 1 s.
    constexpr PulseRateSpec by_window(Duration window) const {
        return detail::with(*this, &PulseRateSpec::method_, PulseMethod::window,
                            &PulseRateSpec::window_, window)
            .with_usual();
    }
    /// Takes the time between the last two edges.
    constexpr PulseRateSpec by_period() const {
        return detail::with(*this, &PulseRateSpec::method_, PulseMethod::period).with_usual();
    }
    /// With no edge for this long it stands still, 10 ms to 60 s. Default: 2 s.
    constexpr PulseRateSpec still_after(Duration d) const {
        return detail::with(*this, &PulseRateSpec::still_after_, d);
    }
    /// Faster than this is out of range. Default: 100,000, or where a window counts 65,000 edges.
    constexpr PulseRateSpec fastest(Q most) const {
        return detail::with(*this, &PulseRateSpec::fastest_, most, &PulseRateSpec::says_fastest_,
                            true);
    }

    constexpr PulseMethod method() const { return method_; }
    constexpr Duration window() const { return window_; }
    constexpr Duration still_after() const { return still_after_; }
    constexpr Q fastest() const { return fastest_; }
    constexpr uint16_t edges_per_turn() const { return edges_; }
    constexpr bool edges_are_possible() const { return edges_ >= 1 && edges_ <= 1000; }
    constexpr bool times_are_possible() const {
        return window_ >= 100_ms && window_ <= 60_s && still_after_ >= 10_ms &&
               still_after_ <= 60_s;
    }
    constexpr bool fastest_is_possible() const {
        return fastest() > Q{} && fastest().thousandths() <= 1'000'000'000;
    }
    /// Whether what counts the edges, in 16 bits, cannot overflow within one window.
    constexpr bool window_is_possible() const {
        return method_ == PulseMethod::period || edges_in_window() <= most_edges;
    }
    /// How many edges a window holds at the fastest rate.
    constexpr int64_t edges_in_window() const {
        // In thousandths of a unit, milliseconds, and seconds in the unit's time.
        return int64_t{fastest().thousandths()} * edges_ / 1000 * window_.thousandths() / 1000 /
               per_;
    }
    static constexpr int64_t most_edges = 65'000;
    constexpr bool is_possible() const {
        return edges_are_possible() && times_are_possible() && fastest_is_possible() &&
               window_is_possible();
    }

    /// Thousandths of the unit for one edge in a microsecond, or, by window, in a millisecond.
    constexpr detail::Leading factor() const {
        uint64_t top =
            uint64_t{per_} * (method_ == PulseMethod::period ? 1'000'000'000U : 1'000'000U);
        int8_t exponent = 0;
        top = (top * 2 / edges_ + 1) / 2;
        while (top > 0xffff'ffffU) {
            top = (top + 1) >> 1;
            ++exponent;
        }
        detail::Leading out = detail::Leading::of(static_cast<uint32_t>(top));
        out.exponent = static_cast<int8_t>(out.exponent + exponent);
        return out;
    }

  private:
    /// Where nothing is said of it, 100,000, or as much as a window can count.
    constexpr Q usual_fastest() const {
        int64_t most = 100'000'000;
        if (method_ == PulseMethod::window && edges_are_possible() && times_are_possible()) {
            const int64_t counted =
                most_edges * 1000 * per_ / edges_ * 1000 / window_.thousandths();
            most = counted < most ? counted : most;
        }
        return Q::from_thousandths(static_cast<int32_t>(most));
    }
    constexpr PulseRateSpec with_usual() const {
        return says_fastest_ ? *this
                             : detail::with(*this, &PulseRateSpec::fastest_, usual_fastest());
    }

    uint16_t edges_;
    uint32_t per_; ///< seconds in the unit's time
    PulseMethod method_ = PulseMethod::window;
    Duration window_ = 1_s;
    Duration still_after_ = 2_s;
    Q fastest_;
    bool says_fastest_ = false;
};

/// Starts a spec: how many edges make one turn, 1 to 1,000.
constexpr PulseRateSpec<TurningSpeed> turning_speed(uint16_t edges_per_turn) {
    return PulseRateSpec<TurningSpeed>(edges_per_turn, 60);
}
/// Starts a spec for a frequency: how many edges make one cycle, 1 to 1,000.
constexpr PulseRateSpec<Frequency> frequency(uint16_t edges_per_cycle) {
    return PulseRateSpec<Frequency>(edges_per_cycle, 1);
}

/// The memory of one rate; it belongs to a `PulseRateSpec`.
template <class Q> class PulseRateState {
  public:
    [[gnu::always_inline]] Reading<Q> read(const PulseRateSpec<Q>& spec, detail::Leading factor,
                                           Instant now, const PulseSample& sample) {
        if (!sample.taken) {
            running_ = false;
            return reading_ = Reading<Q>();
        }
        if (!running_) {
            running_ = true;
            begin(now);
            edges_ = sample.edges;
            seen_ = 0;
            return reading_ = Reading<Q>();
        }
        const auto more = static_cast<uint16_t>(sample.edges - edges_);
        edges_ = sample.edges;
        if (spec.method() == PulseMethod::period) {
            if (more != 0 && seen_ < 2)
                seen_ = static_cast<uint8_t>(more > 1 ? 2 : seen_ + 1);
            by_period(spec, factor, now, sample, more != 0);
            return reading_;
        }
        // Added up pass by pass, so that one round of the counter too many is seen.
        counted_ = static_cast<uint16_t>(more > too_many - counted_ ? too_many : counted_ + more);
        if (now - since_ >= spec.window())
            by_window(spec, factor, now);
        return reading_;
    }

  private:
    void begin(Instant now) {
        since_ = now;
        counted_ = 0;
    }
    [[gnu::always_inline]] void take(const PulseRateSpec<Q>& spec, int32_t thousandths) {
        const Q value = Q::from_thousandths(thousandths);
        reading_ = value > spec.fastest() ? Reading<Q>::without_value(Health::out_of_range)
                                          : Reading<Q>::of_bounded(value);
    }
    [[gnu::always_inline]] void by_period(const PulseRateSpec<Q>& spec, detail::Leading factor,
                                          Instant now, const PulseSample& sample, bool moved) {
        if (moved) {
            since_ = now;
            // A period needs two edges in a row, seen since it stood still.
            if (seen_ == 2)
                take(spec, sample.period == 0 ? detail::largest_int32
                                              : detail::divided(factor.mantissa, factor.exponent,
                                                                sample.period, 1));
        } else if (seen_ != still && now - since_ >= spec.still_after()) {
            seen_ = still; // kept, though the counters wrap
            reading_ = Reading<Q>::of_bounded(Q{});
        }
        if (seen_ == still && moved)
            seen_ = 1;
    }
    [[gnu::always_inline]] void by_window(const PulseRateSpec<Q>& spec, detail::Leading factor,
                                          Instant now) {
        const Elapsed elapsed = now - since_;
        if (elapsed > 65_s) // passes paused: the counter may have wrapped meanwhile
            reading_ = Reading<Q>();
        else if (counted_ == too_many)
            reading_ = Reading<Q>::without_value(Health::out_of_range);
        else
            take(spec, detail::divided(factor.mantissa, factor.exponent,
                                       static_cast<uint16_t>(elapsed.thousandths()), counted_));
        begin(now);
    }

    static constexpr uint8_t still = 3;
    Reading<Q> reading_;
    Instant since_{};
    static constexpr uint16_t too_many = 0xffff;
    uint16_t counted_ = 0; ///< edges since the window began
    uint16_t edges_ = 0;
    uint8_t seen_ = 0; ///< edges since it stood still, up to two
    bool running_ = false;
};

/// A rate in a device. RAM: fifteen bytes.
template <const auto& Spec, bool = detail::is_constant<Spec>> class PulseRate {
    using Q = decltype(Spec.fastest());
    static_assert(Spec.edges_are_possible(), "a turn must have 1 to 1,000 edges");
    static_assert(Spec.times_are_possible(), "the window must lie between 100 ms and 60 s, "
                                             "still_after between 10 ms and 60 s");
    static_assert(Spec.fastest_is_possible(),
                  "the fastest rate must lie above 0, and up to 1,000,000");
    static_assert(
        Spec.window_is_possible(),
        "at its fastest more edges would come in one window than are counted, 65,000: make "
        "by_window shorter, or say how fast it can be: .fastest(...)");
    static constexpr detail::Leading factor = Spec.factor();

  public:
    /// The rate, or missing until two edges (or one window, or a standstill) have been seen.
    Reading<Q> read(Instant now, const PulseSample& sample) {
        return state_.read(Spec, factor, now, sample);
    }

  private:
    PulseRateState<Q> state_;
};
template <const auto& Spec> class PulseRate<Spec, false> : public detail::NotMade<Spec> {};

} // namespace zorilla
