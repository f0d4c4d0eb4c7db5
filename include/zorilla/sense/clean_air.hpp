// SPDX-License-Identifier: MIT
/// \file
/// Calibrating a gas sensor in clean air.
#pragma once

#include "zorilla/sense/gas.hpp"
#include "zorilla/units/one_sentence.hpp"

#include <stdint.h>

namespace zorilla {

/// The guided step that finds a gas sensor's R0 in clean air: warm it up, put it into clean air,
/// and hand it samples. It listens for a time and refuses a signal that still drifts.
///
///     CleanAir<nose> step(now);
///     step.add(now, sample); // in each pass
///     if (step.state() == CleanAirState::done)
///         ammonia.set_zero(step.zero());
enum class CleanAirState : uint8_t {
    listening, ///< not over yet
    done,      ///< `zero()` may be used
    drifting,  ///< the resistance still moves by more than 2 %: wait longer, and begin again
    unhealthy, ///< a wire is off or shorted: mend it, and begin again
};

class CleanAirStep {
  public:
    constexpr explicit CleanAirStep(Duration listen) : listen_(listen) {}

    [[gnu::always_inline]] void add(const CodeRange& range, const PowerLaw& law, Instant now,
                                    Sample sample) {
        if (state_ != CleanAirState::listening || !sample.taken())
            return;
        if (!running_) {
            running_ = true;
            since_ = now;
        }
        if (range.health_of(sample) != Health::ok) {
            state_ = CleanAirState::unhealthy;
            return;
        }
        const Elapsed heard = now - since_;
        const int32_t third = listen_.thousandths() / 3;
        const uint8_t part = heard.thousandths() < third       ? 0
                             : heard.thousandths() < 2 * third ? 1
                                                               : 2;
        if (counts_[part] < 0x7fff) {
            sums_[part] += law.log_of_ratio(sample.code());
            ++counts_[part];
        }
        if (heard >= listen_)
            finish();
    }
    CleanAirState state() const { return state_; }
    /// log2(Rs / load) in units of 2^-11.
    int16_t log_of_layer() const { return log_; }

  private:
    void finish() {
        state_ = CleanAirState::drifting;
        int16_t means[3] = {};
        for (uint8_t i = 0; i < 3; ++i) {
            if (counts_[i] == 0)
                return; // too few samples to tell
            means[i] = static_cast<int16_t>(sums_[i] / counts_[i]);
        }
        const int16_t most = 58; // 2 %: 2048 log2(1.02)
        for (uint8_t i = 0; i < 2; ++i)
            if (means[i] - means[2] > most || means[2] - means[i] > most)
                return;
        log_ = means[2];
        state_ = CleanAirState::done;
    }

    Duration listen_;
    Instant since_{};
    int32_t sums_[3] = {};
    int16_t counts_[3] = {};
    int16_t log_ = 0;
    bool running_ = false;
    CleanAirState state_ = CleanAirState::listening;
};

/// That step for a device's sensor.
template <const GasSpec& Spec, bool = detail::is_constant<Spec>> class CleanAir {
    static constexpr CodeRange range = Spec.code_range();
    static constexpr PowerLaw law = Spec.law();

  public:
    /// \param listen  how long, 10 s to 1 h
    constexpr explicit CleanAir(Duration listen = 60_s) : step_(listen) {}
    void add(Instant now, Sample sample) { step_.add(range, law, now, sample); }
    CleanAirState state() const { return step_.state(); }
    /// R0, once done; within 0.5 %.
    Resistance zero() const { return zero_of(Spec, step_.log_of_layer()); }

    [[gnu::always_inline]] static Resistance zero_of(const GasSpec& spec, int16_t log_of_layer) {
        constexpr int32_t up = 65'536 / 2048;
        const auto log = static_cast<int32_t>(
            detail::log2_of(static_cast<uint32_t>(spec.load().thousandths())) -
            detail::log2_of(static_cast<uint32_t>(spec.clean_air().thousandths())) +
            int32_t{detail::log2_of(uint32_t{1000})} + log_of_layer);
        return Resistance::from_thousandths(detail::power_of_two(log * up));
    }

  private:
    CleanAirStep step_;
};
template <const GasSpec& Spec> class CleanAir<Spec, false> : public detail::NotMade<Spec> {};

} // namespace zorilla
