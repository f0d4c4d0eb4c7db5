// SPDX-License-Identifier: MIT
/// \file
/// Moisture probes that are powered only while they are read, since current eats them.
#pragma once

#include "zorilla/sense/share.hpp"
#include "zorilla/units/one_sentence.hpp"
#include "zorilla/units/settable.hpp"
#include "zorilla/units/time.hpp"

#include <stdint.h>

namespace zorilla {

/// A probe by its dry and its wet code, how often it is read, and how long it settles.
///
///     constexpr auto probe = moisture_probe(620, 210).bits(10).every(15_min).settle(200_ms);
///     MoistureProbe<probe> stack;
///     const auto moisture = stack.read(now, sample);
///     board.set(power_pin, stack.power());
class MoistureSpec : public BetweenPoints<MoistureSpec> {
  public:
    /// The codes of the probe in dry and in wet material; either may be the higher.
    constexpr MoistureSpec(uint16_t dry, uint16_t wet) : BetweenPoints(dry, wet) {}

    /// How often it is read, 1 s to 24 days. Default: 10 min.
    constexpr MoistureSpec every(Duration d) const {
        return detail::with(*this, &MoistureSpec::every_, d);
    }
    /// How long it is powered before its sample counts, 0 to 1 min. Default: 100 ms.
    constexpr MoistureSpec settle(Duration d) const {
        return detail::with(*this, &MoistureSpec::settle_, d);
    }
    constexpr Duration every() const { return every_; }
    constexpr Duration settle() const { return settle_; }
    constexpr bool times_are_possible() const {
        return every_ >= 1_s && every_ <= 24_h * 24 && settle_ >= Duration{} && settle_ <= 1_min &&
               settle_ < every_;
    }
    constexpr bool part_is_possible() const {
        return points_are_possible() && times_are_possible();
    }

  private:
    Duration every_ = 10_min;
    Duration settle_ = 100_ms;
};

/// Starts a `MoistureSpec`: the codes read in dry and in wet material.
constexpr MoistureSpec moisture_probe(uint16_t dry, uint16_t wet) { return MoistureSpec(dry, wet); }

/// The memory of one probe; it belongs to a `MoistureSpec`.
class MoistureState {
  public:
    /// \param convert  a sample to its reading; asked only once the probe has settled
    template <class Convert>
    [[gnu::always_inline]] constexpr Reading<Percentage> read(const MoistureSpec& spec, Instant now,
                                                              Sample sample, Convert convert) {
        if (!powered_ && (!running_ || now - since_ >= spec.every())) {
            running_ = powered_ = true;
            since_ = now;
        }
        const Elapsed spent = now - since_;
        if (powered_ && sample.taken() && spent >= spec.settle()) {
            last_ = convert(sample);
            powered_ = false;
        } else if (powered_ && spent >= spec.settle() + 1_s) {
            last_ = Reading<Percentage>(); // a converter that delivers nothing
            // It waits no longer than that, so that a clock that wraps takes nothing back.
            since_ = now + (Duration{} - spec.settle() - 1_s);
        }
        return last_;
    }
    constexpr bool powered() const { return powered_; }

  private:
    Reading<Percentage> last_;
    Instant since_{}; ///< when it was last powered
    bool running_ = false;
    bool powered_ = false;
};

/// A moisture probe in a device. Between two reads its last reading stands; if no sample comes for
/// a second after it has settled, it is missing. RAM: eleven bytes.
template <const MoistureSpec& Spec, bool = detail::is_constant<Spec>>
class MoistureProbe : AnalogueTable<Spec> {
    static_assert(Spec.points_are_possible(),
                  "dry and wet must be codes of the converter, at least 10 apart: "
                  "moisture_probe(620, 210)");
    static_assert(
        Spec.times_are_possible(),
        "every must lie between 1 s and 24 days, settle between 0 and 1 min and below it");

  public:
    constexpr Reading<Percentage> read(Instant now, Sample sample) {
        return state_.read(Spec, now, sample, [this](Sample settled) {
            return within(AnalogueTable<Spec>::read(settled), 0_percent, 100_percent);
        });
    }
    /// Whether the probe has to be powered from this pass on. Keep its pin low otherwise.
    constexpr bool powered() const { return state_.powered(); }

  private:
    MoistureState state_;
};
template <const MoistureSpec& Spec>
class MoistureProbe<Spec, false> : public detail::NotMade<Spec> {};

} // namespace zorilla
