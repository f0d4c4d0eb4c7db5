// SPDX-License-Identifier: MIT
/// \file
/// Filters between a sensor and what is decided with it, all of a fixed size. A reading that is not
/// healthy goes straight through, so that no filter holds up a fault, and the filter begins anew
/// with the next healthy one.
#pragma once

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
