// SPDX-License-Identifier: MIT
/// \file
/// Filters between a sensor and what is decided with it, all of a fixed size. A reading that is not
/// healthy goes straight through, so that no filter holds up a fault, and the filter begins anew
/// with the next healthy one.
#pragma once

#include "zorilla/sense/powers.hpp"
#include "zorilla/sense/sample.hpp"
#include "zorilla/units/reading.hpp"
#include "zorilla/units/temperature.hpp"
#include "zorilla/units/time.hpp"

#include <stdint.h>

namespace zorilla {

/// The median of the last `N` readings (3 to 15, odd), which no single spike can move. Until there
/// are as many, the median of those there are. RAM: 4 N + 2 bytes.
///
///     Median<5, Temperature> calm;
///     const auto roost = calm.pass(probe.read(sample));
template <uint8_t N, class Q> class Median {
    static_assert(N >= 3 && N <= 15 && N % 2 == 1,
                  "a median is of 3 to 15 readings, an odd number");

  public:
    constexpr Reading<Q> pass(Reading<Q> reading) { return pass(reading, N); }

    /// The same over the last `size` readings, at most `N`; for the desk.
    constexpr Reading<Q> pass(Reading<Q> reading, uint8_t size) {
        if (!reading.ok()) {
            count_ = 0;
            return reading;
        }
        if (count_ == 0)
            next_ = 0;
        values_[next_] = reading.value_or(Q{});
        next_ = next_ + 1 == size ? uint8_t{0} : static_cast<uint8_t>(next_ + 1);
        if (count_ < size)
            ++count_;
        // The value with as many below it as above; of an even number, the lower of both middles.
        const auto half = static_cast<uint8_t>((count_ - 1) / 2);
        for (uint8_t i = 0; i < count_; ++i) {
            uint8_t below = 0;
            uint8_t same = 0;
            for (uint8_t j = 0; j < count_; ++j) {
                if (values_[j] < values_[i])
                    ++below;
                else if (values_[j] == values_[i])
                    ++same;
            }
            if (below <= half && half < below + same)
                return Reading<Q>::of_bounded(values_[i]);
        }
        return reading;
    }

  private:
    Q values_[N] = {};
    uint8_t count_ = 0;
    uint8_t next_ = 0;
};

namespace detail {

/// (1 - e^-u) / u in units of 2^-15, u from 0 to 1 in units of 2^-15.
struct ShareOfStepCurve {
    static constexpr uint16_t first = 0, last = 0x8000;
    static constexpr int32_t error = 4;
    static constexpr int32_t widest = 9;
    constexpr int32_t value_at(uint16_t u) const {
        // Its power series: 1 - u/2 + u^2/6 - ...
        const int64_t one = int64_t{1} << 30;
        const int64_t x = int64_t{u} << 15;
        int64_t sum = one;
        for (int64_t n = 12; n > 1; --n)
            sum = one - x * sum / n / one;
        return static_cast<int32_t>(sum >> 15);
    }
};

/// 1 - e^-u in units of 2^-15, u from 0 to 16 in units of 2^-12.
struct StepCurve {
    static constexpr uint16_t first = 0, last = 0xffff;
    static constexpr int32_t error = 12;
    static constexpr int32_t widest = 8;
    constexpr int32_t value_at(uint16_t u) const {
        return static_cast<int32_t>(0x8000 -
                                    (natural_exponential(20 * ln_two - (int64_t{u} << 18)) >> 5));
    }
};

/// The share of the way to a new value that is made in a time: 1 - e^(-time / constant). Relative
/// error below 2^-11.
template <class Lazy = void> Leading share_of_step(uint32_t milliseconds, uint32_t constant) {
    const Leading top = Leading::of(milliseconds);
    const Leading reciprocal = reciprocal_of(constant);
    const uint32_t wide_u = product(top.mantissa, reciprocal.mantissa);
    Leading u = Leading::of(wide_u);
    u.exponent = static_cast<int8_t>(u.exponent + top.exponent + reciprocal.exponent);
    if (milliseconds >= constant) {
        u.exponent = static_cast<int8_t>(u.exponent + 12);
        const int32_t wide = shifted(u.mantissa, u.exponent);
        const auto argument = static_cast<uint16_t>(wide > 0xffff ? 0xffff : wide);
        Leading out =
            Leading::of(static_cast<uint32_t>(FunctionTable<Late<StepCurve, Lazy>>::at(argument)));
        out.exponent = static_cast<int8_t>(out.exponent - 15);
        return out;
    }
    const int8_t exponent = u.exponent;
    u.exponent = static_cast<int8_t>(exponent + 15);
    const int32_t wide = shifted(u.mantissa, u.exponent);
    const auto bend = static_cast<uint16_t>(FunctionTable<Late<ShareOfStepCurve, Lazy>>::at(
        static_cast<uint16_t>(wide > 0x8000 ? 0x8000 : wide)));
    return {static_cast<uint16_t>(product(u.mantissa, bend) >> 15), exponent};
}

} // namespace detail

/// Exponential smoothing with a time constant: after a step, 63 % of the way are made in that time,
/// however often, and however evenly, readings come. RAM: 17 bytes.
///
///     Smoothing<Temperature> calm(30_s);
///     const auto roost = calm.pass(now, probe.read(sample));
template <class Q> class Smoothing {
  public:
    /// \param constant  1 ms to 24 days
    constexpr explicit Smoothing(Duration constant) : constant_(constant) {}

    Reading<Q> pass(Instant now, Reading<Q> reading) {
        if (!reading.ok()) {
            running_ = false;
            return reading;
        }
        const int64_t target = int64_t{reading.value_or(Q{}).thousandths()} * 65'536;
        const auto time = static_cast<uint32_t>((now - since_).thousandths());
        since_ = now;
        if (!running_) {
            running_ = true;
            state_ = target;
        } else if (time > 0) {
            const detail::Leading share =
                detail::share_of_step<>(time, static_cast<uint32_t>(constant_.thousandths()));
            // At most a share of one: the exponent is -15 or below.
            state_ += (((target - state_) >> 8) * share.mantissa) >> (-share.exponent - 8);
        }
        return Reading<Q>::of_bounded(
            Q::from_thousandths(static_cast<int32_t>((state_ + 32'768) >> 16)));
    }

  private:
    Duration constant_;
    int64_t state_ = 0; ///< in units of 2^-16 thousandths
    Instant since_{};
    bool running_ = false;
};

/// More bits from a noisy converter: `4^Extra` samples are added up to one with `Extra` bits more,
/// 1 to 3 of them. It needs noise of about one count, which most converters have. RAM: 11 bytes.
///
///     constexpr auto probe = thermistor(10_kohm, 3950_K).pull_up(10_kohm).bits(12);
///     Oversampling<2> finer(40); // 16 samples of 10 bits
///     const Sample sample = finer.pass(Wires::read<Probe>());
///
/// Between two full sums the sample is not taken. Where the samples of one sum lie further apart
/// than the spread, as at a wire that is just breaking, the sum would be a lie: not taken either.
template <uint8_t Extra> class Oversampling {
    static_assert(Extra >= 1 && Extra <= 3, "oversampling gives 1 to 3 extra bits");

  public:
    /// \param spread  the most counts that noise makes, from peak to peak
    constexpr explicit Oversampling(uint16_t spread) : spread_(spread) {}

    constexpr Sample pass(Sample sample) { return pass(sample, Extra); }

    /// The same for `extra` bits, at most `Extra`; for the desk.
    constexpr Sample pass(Sample sample, uint8_t extra) {
        if (!sample.taken()) {
            count_ = 0;
            return Sample();
        }
        const uint16_t code = sample.code();
        if (count_ == 0) {
            sum_ = 0;
            least_ = most_ = code;
        }
        sum_ += code;
        least_ = code < least_ ? code : least_;
        most_ = code > most_ ? code : most_;
        if (++count_ < 1U << 2 * extra)
            return Sample();
        count_ = 0;
        return most_ - least_ > spread_ ? Sample() : Sample(static_cast<uint16_t>(sum_ >> extra));
    }

  private:
    uint32_t sum_ = 0;
    uint16_t spread_;
    uint16_t least_ = 0;
    uint16_t most_ = 0;
    uint8_t count_ = 0;
};

/// A gate against spikes: a reading that has moved faster than what is measured can move is
/// implausible. If it stays where it jumped to for `settle`, the jump was real. RAM: 22 bytes.
///
///     RateGate<Temperature> gate(5_K, 30_s); // at most 5 K a minute, and 5 K in any case
///     const auto roost = gate.pass(now, probe.read(sample));
template <class Q> class RateGate {
    using Gap = decltype(Q{} - Q{});

  public:
    /// \param per_minute  the fastest change in a minute; a jump of a hundredth of it is always let
    ///     through, so that the last digit's tremble is none
    /// \param settle      after so long a jump is believed
    constexpr RateGate(Gap per_minute, Duration settle)
        : per_minute_(per_minute), settle_(settle) {}

    constexpr Reading<Q> pass(Instant now, Reading<Q> reading) {
        if (!reading.ok()) {
            running_ = jumped_ = false;
            return reading;
        }
        const Q value = reading.value_or(Q{});
        if (!running_ || near(now, value)) {
            running_ = true;
            jumped_ = false;
            last_ = value;
            since_ = now;
            return reading;
        }
        if (!jumped_) {
            jumped_ = true;
            jumped_at_ = now;
        }
        if (now - jumped_at_ >= settle_) {
            jumped_ = false;
            last_ = value;
            since_ = now;
            return reading;
        }
        return Reading<Q>::without_value(Health::implausible);
    }

  private:
    constexpr bool near(Instant now, Q value) const {
        const Gap way = value < last_ ? last_ - value : value - last_;
        const auto limit = static_cast<uint32_t>(per_minute_.thousandths());
        auto time = static_cast<uint32_t>((now - since_).thousandths());
        time = time > 60'000 ? 60'000 : time;
        // In sixtieths of a second, so that the product stays within 32 bits.
        const uint32_t ticks = time / 1000 * 60 + time % 1000 * 3 / 50;
        const uint32_t allowed = limit < 1'000'000 ? limit * ticks / 3600 : limit / 3600 * ticks;
        return static_cast<uint32_t>(way.thousandths()) <= allowed + limit / 100;
    }

    Gap per_minute_;
    Duration settle_;
    Q last_{};
    Instant since_{};
    Instant jumped_at_{};
    bool running_ = false;
    bool jumped_ = false;
};

/// Rides out what a sensor misses now and then: while a reading is not healthy, the last good value
/// stands in for it, for so long; then its health is told. `age` says how old it is. RAM: 14 bytes.
///
///     Hold<Length> ridden(2_s);
///     const auto level = ridden.pass(now, eye.read(echo, air));
template <class Q> class Hold {
  public:
    /// \param longest  how long a value may stand in, 1 ms to 1 h; 0: not at all
    constexpr explicit Hold(Duration longest) : longest_(longest) {}

    constexpr Reading<Q> pass(Instant now, Reading<Q> reading) {
        if (reading.ok()) {
            last_ = reading;
            good_at_ = now;
            holds_ = false;
            return reading;
        }
        // Given up for good, so that a clock that wraps does not bring an old value back.
        if (last_.ok() && now - good_at_ > longest_)
            last_ = Reading<Q>();
        holds_ = last_.ok();
        return holds_ ? last_ : reading;
    }
    /// Whether the last reading stands in for one that was missed.
    constexpr bool holds() const { return holds_; }
    /// How old it is, while it does.
    constexpr Duration age(Instant now) const { return now - good_at_; }

  private:
    Duration longest_;
    Reading<Q> last_;
    Instant good_at_{};
    bool holds_ = false;
};

/// Tells a reading that has not moved for longer than a live sensor holds still, and bridges
/// samples that are missing, for a while. A value stuck inside its range cannot be told otherwise.
/// RAM: 22 bytes.
///
///     Watch<Temperature> watch(2_h, 5_s); // stuck after two hours; stale after five seconds
///     const auto roost = watch.pass(now, probe.read(sample));
template <class Q> class Watch {
  public:
    /// \param stuck_after  to the last digit the same for this long: stuck. 0: never
    /// \param stale_after  a missing sample leaves the last value standing this long, then it is
    ///     stale. 0: missing at once
    constexpr Watch(Duration stuck_after, Duration stale_after)
        : stuck_after_(stuck_after), stale_after_(stale_after) {}

    constexpr Reading<Q> pass(Instant now, Reading<Q> reading) {
        if (reading.health() == Health::missing && stale_after_ > Duration{}) {
            if (last_.ok() && now - good_at_ > stale_after_)
                last_ = Reading<Q>::without_value(Health::stale);
            return last_;
        }
        if (!reading.ok()) {
            last_ = Reading<Q>();
            return reading;
        }
        good_at_ = now;
        if (!last_.ok() || last_.value_or(Q{}) != reading.value_or(Q{})) {
            moved_at_ = now;
            stuck_ = false;
        } else if (stuck_after_ > Duration{} && now - moved_at_ >= stuck_after_) {
            stuck_ = true; // kept, so that a clock that wraps does not free it
        }
        last_ = reading;
        return stuck_ ? Reading<Q>::without_value(Health::stuck) : reading;
    }

  private:
    Duration stuck_after_;
    Duration stale_after_;
    Reading<Q> last_;
    Instant moved_at_{};
    Instant good_at_{};
    bool stuck_ = false;
};

} // namespace zorilla
