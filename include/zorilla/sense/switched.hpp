// SPDX-License-Identifier: MIT
/// \file
/// Inputs that are yes or no: contacts and buttons, and analogue levels that mean a switch.
#pragma once

#include "zorilla/sense/sample.hpp"
#include "zorilla/units/level.hpp"
#include "zorilla/units/one_sentence.hpp"
#include "zorilla/units/quantity.hpp"
#include "zorilla/units/settable.hpp"
#include "zorilla/units/time.hpp"
#include "zorilla/units/truth.hpp"

#include <stdint.h>

namespace zorilla {

/// The level of a pin as it was read, or that it was not.
class LevelSample {
  public:
    constexpr LevelSample() = default;
    constexpr explicit LevelSample(Level level) : level_(level), taken_(true) {}
    constexpr bool taken() const { return taken_; }
    constexpr Level level() const { return level_; }

  private:
    Level level_ = Level::low;
    bool taken_ = false;
};

/// A contact or button: which level means yes, and how long its contacts bounce.
///
///     constexpr auto hatch = digital_input(active_low).debounce(20_ms); // to ground, pulled up
///     DigitalInput<hatch> open;
///     const Truth is_open = open.read(now, Wires::read<HatchPin>());
///
/// A wire that is off cannot be told from a contact that is open: wire it so that the one that
/// matters closes the contact.
class DigitalInputSpec {
  public:
    constexpr explicit DigitalInputSpec(Level active) : active_(active) {}
    /// A level counts once it has held this long, 0 to 10 s. Default: 20 ms.
    constexpr DigitalInputSpec debounce(Duration d) const {
        return detail::with(*this, &DigitalInputSpec::debounce_, d);
    }
    constexpr Level active() const { return active_; }
    constexpr Duration debounce() const { return debounce_; }
    constexpr bool debounce_is_possible() const {
        return debounce_ >= Duration{} && debounce_ <= 10_s;
    }

  private:
    Level active_;
    Duration debounce_ = 20_ms;
};
constexpr DigitalInputSpec digital_input(Level active) { return DigitalInputSpec(active); }

/// The memory of one input; it belongs to a `DigitalInputSpec`.
class DigitalInputState {
  public:
    /// Yes, no, or unknown before a level has held long enough, and while none is read.
    [[gnu::always_inline]] constexpr Truth read(const DigitalInputSpec& spec, Instant now,
                                                LevelSample sample) {
        if (!sample.taken()) {
            moving_ = true;
            truth_ = Truth::unknown;
            level_ = none;
            return truth_;
        }
        const auto level = static_cast<uint8_t>(sample.level());
        if (level != level_) {
            level_ = level;
            since_ = now;
            moving_ = true;
        }
        // Once settled it is not looked at again: the clock may wrap meanwhile.
        if (moving_ && now - since_ >= spec.debounce()) {
            moving_ = false;
            truth_ = truth_of(level == static_cast<uint8_t>(spec.active()));
        }
        return truth_;
    }

  private:
    static constexpr uint8_t none = 2;

    Instant since_{};
    Truth truth_ = Truth::unknown;
    uint8_t level_ = none; ///< as it was last seen
    bool moving_ = false;
};

/// Such an input in a device. RAM: seven bytes.
template <const DigitalInputSpec& Spec, bool = detail::is_constant<Spec>> class DigitalInput {
    static_assert(Spec.debounce_is_possible(), "the debounce time must lie between 0 and 10 s");

  public:
    constexpr Truth read(Instant now, LevelSample sample) { return state_.read(Spec, now, sample); }

  private:
    DigitalInputState state_;
};
template <const DigitalInputSpec& Spec>
class DigitalInput<Spec, false> : public detail::NotMade<Spec> {};

/// An analogue pin that means a switch: yes from one voltage up, no from a lower one down, and in
/// the grey zone between them as it was.
///
///     constexpr auto wet = analogue_level(1.2_V, 2.8_V).reference(5_V);
///     AnalogueLevel<wet> bilge;
///     const Truth is_wet = bilge.read(sample);
class AnalogueLevelSpec {
  public:
    /// \param low   no up to this voltage
    /// \param high  yes from this voltage on
    constexpr AnalogueLevelSpec(Voltage low, Voltage high) : low_(low), high_(high) {}
    /// The converter's reference, 0.5 to 10 V.
    constexpr AnalogueLevelSpec reference(Voltage v) const {
        return detail::with(*this, &AnalogueLevelSpec::reference_, v);
    }
    /// The width of the converter, 8 to 16 bits. Default: 10.
    constexpr AnalogueLevelSpec bits(uint8_t converter_bits) const {
        return detail::with(*this, &AnalogueLevelSpec::bits_, converter_bits);
    }
    /// Which side means yes. Default: high.
    constexpr AnalogueLevelSpec active(Level level) const {
        return detail::with(*this, &AnalogueLevelSpec::active_, level);
    }

    constexpr bool bits_are_possible() const { return bits_ >= 8 && bits_ <= 16; }
    constexpr bool reference_is_possible() const {
        return reference_ >= 0.5_V && reference_ <= 10_V;
    }
    /// Whether the grey zone lies within the converter and is at least four codes wide.
    constexpr bool zone_is_possible() const {
        return low_ > 0_V && high_ < reference_ && high_ > low_ && high_code() - low_code() >= 4;
    }
    constexpr bool is_possible() const {
        return bits_are_possible() && reference_is_possible() && zone_is_possible();
    }
    constexpr Level active() const { return active_; }
    constexpr uint16_t full_scale() const {
        return static_cast<uint16_t>((uint32_t{1} << bits_) - 1);
    }
    /// The highest code that is low, and the lowest that is high.
    constexpr uint16_t low_code() const { return code_of(low_); }
    constexpr uint16_t high_code() const {
        const uint16_t below = code_of(high_);
        const bool exact = int64_t{below} * reference_.thousandths() == int64_t{high_.thousandths()}
                                                                            << bits_;
        return exact ? below : static_cast<uint16_t>(below + 1);
    }

  private:
    constexpr uint16_t code_of(Voltage v) const {
        return reference_.thousandths() <= 0
                   ? uint16_t{0}
                   : static_cast<uint16_t>((int64_t{v.thousandths()} << bits_) /
                                           reference_.thousandths());
    }
    Voltage low_;
    Voltage high_;
    Voltage reference_{};
    uint8_t bits_ = 10;
    Level active_ = active_high;
};
constexpr AnalogueLevelSpec analogue_level(Voltage low, Voltage high) {
    return AnalogueLevelSpec(low, high);
}

/// The memory of one such pin.
class AnalogueLevelState {
  public:
    /// Yes, no, or unknown while no sample is taken, and until one lies outside the grey zone.
    [[gnu::always_inline]] constexpr Truth read(uint16_t low_code, uint16_t high_code, Level active,
                                                Sample sample) {
        if (!sample.taken())
            truth_ = Truth::unknown;
        else if (sample.code() >= high_code)
            truth_ = truth_of(active == active_high);
        else if (sample.code() <= low_code)
            truth_ = truth_of(active == active_low);
        return truth_;
    }

  private:
    Truth truth_ = Truth::unknown;
};

/// Such a pin in a device. RAM: one byte.
template <const AnalogueLevelSpec& Spec, bool = detail::is_constant<Spec>> class AnalogueLevel {
    static_assert(Spec.bits_are_possible(), "the converter must have 8 to 16 bits: .bits(10)");
    static_assert(Spec.reference_is_possible(),
                  "say against which voltage the converter measures, from 0.5 to 10 V: "
                  ".reference(5_V)");
    static_assert(
        !Spec.reference_is_possible() || Spec.zone_is_possible(),
        "the lower voltage must lie above 0, the higher below the reference, and at least "
        "four codes between them");

  public:
    constexpr Truth read(Sample sample) {
        return state_.read(low_code, high_code, Spec.active(), sample);
    }

  private:
    static constexpr uint16_t low_code = Spec.low_code();
    static constexpr uint16_t high_code = Spec.high_code();
    AnalogueLevelState state_;
};
template <const AnalogueLevelSpec& Spec>
class AnalogueLevel<Spec, false> : public detail::NotMade<Spec> {};

} // namespace zorilla
