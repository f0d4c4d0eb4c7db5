// SPDX-License-Identifier: MIT
/// \file
/// One-wire humidity and temperature sensors: a frame of 40 bits, each a pulse on a single wire.
#pragma once

#include "zorilla/units/level.hpp"
#include "zorilla/units/one_sentence.hpp"
#include "zorilla/units/product.hpp"
#include "zorilla/units/reading.hpp"
#include "zorilla/units/settable.hpp"
#include "zorilla/units/temperature.hpp"
#include "zorilla/units/time.hpp"

#include <stdint.h>

namespace zorilla {

/// The five bytes of a frame: humidity, temperature, and their sum.
struct Frame {
    uint8_t bytes[5] = {};

    /// Whether the last byte is the sum of the others, modulo 256. Any single wrong bit is found;
    /// a frame of nothing but zeros, as a dead line delivers it, is not taken either.
    constexpr bool is_sound() const {
        const uint8_t any = static_cast<uint8_t>(bytes[0] | bytes[1] | bytes[2] | bytes[3]);
        return any != 0 &&
               bytes[4] == static_cast<uint8_t>(bytes[0] + bytes[1] + bytes[2] + bytes[3]);
    }
};

/// What came of an attempt to read such a sensor.
class FrameSample {
  public:
    /// No attempt was made in this pass.
    constexpr FrameSample() = default;
    /// 40 bits came; whether they are sound is looked at when they are read.
    constexpr explicit FrameSample(Frame frame) : frame_(frame), state_(State::bits) {}
    /// The sensor did not answer the start signal.
    static constexpr FrameSample silent() { return FrameSample(State::silent); }
    /// It answered, but its pulses make no frame.
    static constexpr FrameSample garbled() { return FrameSample(State::garbled); }

    constexpr bool tried() const { return state_ != State::not_tried; }
    constexpr bool answered() const { return state_ != State::silent && tried(); }
    constexpr bool has_frame() const { return state_ == State::bits; }
    constexpr const Frame& frame() const { return frame_; }

  private:
    enum class State : uint8_t { not_tried, silent, garbled, bits };
    constexpr explicit FrameSample(State state) : state_(state) {}
    Frame frame_{};
    State state_ = State::not_tried;
};

/// Builds a frame from pulse widths as they are captured on the pin, one at a time, so that nothing
/// has to be stored. The host asks by holding the pin low (`start_time`) and letting go. The sensor
/// then answers low and high for 80 us each; every bit is low for 50 us, and high for 26 us (0) or
/// 70 us (1); at last low for 50 us.
///
/// The windows allow for a clock that is 20 % off, and for 2 us of jitter; what falls between the
/// windows of 0 and 1 makes the frame garbled rather than wrong.
class FrameCapture {
  public:
    /// How long the host holds the pin low: 18 to 20 ms serves both codings.
    static constexpr Duration start_time = 18_ms;
    /// An answer begins within 40 us; after this long without a change it is over.
    static constexpr uint16_t silence_microseconds = 250;

    /// Takes one pulse. Those before the answer's own low of 80 us are passed over.
    constexpr void pulse(Level level, uint16_t microseconds) {
        if (place_ == waiting) {
            if (level == Level::low && in(microseconds, 62, 98))
                place_ = answered_low;
            return;
        }
        if (place_ == answered_low) {
            place_ = level == Level::high && in(microseconds, 62, 98) ? first_bit : spoilt;
            return;
        }
        if (place_ >= first_bit + 80) {
            // The line goes low once more, and then rests: more than that is a bit too many.
            if (place_ < spoilt && microseconds < silence_microseconds)
                place_ = static_cast<uint8_t>(place_ + 1);
            return;
        }
        const uint8_t step = static_cast<uint8_t>(place_ - first_bit);
        const bool is_low = (step & 1U) == 0;
        place_ = static_cast<uint8_t>(place_ + 1);
        if (is_low != (level == Level::low)) {
            place_ = spoilt;
        } else if (is_low) {
            if (!in(microseconds, 36, 68))
                place_ = spoilt;
        } else {
            uint8_t& byte = frame_.bytes[step >> 4];
            byte = static_cast<uint8_t>(byte << 1);
            if (in(microseconds, 52, 92))
                byte |= 1U;
            else if (!in(microseconds, 16, 38))
                place_ = spoilt;
        }
    }

    /// What has come, once the line has been quiet for `silence_microseconds`.
    constexpr FrameSample result() const {
        if (place_ == waiting)
            return FrameSample::silent();
        return place_ == first_bit + 80 || place_ == first_bit + 81 ? FrameSample(frame_)
                                                                    : FrameSample::garbled();
    }

  private:
    static constexpr uint8_t waiting = 0, answered_low = 1, first_bit = 2, closed = first_bit + 81,
                             spoilt = 255;
    static constexpr bool in(uint16_t x, uint16_t low, uint16_t high) {
        return x >= low && x <= high;
    }
    Frame frame_{};
    uint8_t place_ = waiting;
};

/// The same from a list of widths that begins with the level `first` and alternates.
constexpr FrameSample decode_pulses(const uint16_t* microseconds, uint16_t count, Level first) {
    FrameCapture capture;
    Level level = first;
    for (uint16_t i = 0; i < count; ++i) {
        capture.pulse(level, microseconds[i]);
        level = level == Level::low ? Level::high : Level::low;
    }
    return capture.result();
}

/// How the bytes stand for numbers.
enum class FrameCoding : uint8_t {
    whole,  ///< a byte of whole numbers and a byte of tenths each; sign in the last one's top bit
    tenths, ///< two bytes of tenths each; the sign is the top bit, not a complement
};

/// Both quantities of one sensor.
struct AirReading {
    Reading<RelativeHumidity> humidity;
    Reading<Temperature> temperature;

    static constexpr AirReading without_value(Health why) {
        return {Reading<RelativeHumidity>::without_value(why),
                Reading<Temperature>::without_value(why)};
    }
};

namespace detail {
/// What a frame holds: tenths, as long as it is healthy.
struct AirTenths {
    uint16_t humidity = 0;
    int16_t temperature = 0;
    Health health = Health::ok;

    [[gnu::always_inline]] constexpr AirReading reading() const {
        constexpr uint16_t hundred = 100;
        return {Reading<RelativeHumidity>::of_bounded(RelativeHumidity::from_thousandths(
                    static_cast<int32_t>(product(humidity, hundred)))),
                Reading<Temperature>::of_bounded(
                    Temperature::from_thousandths(product(temperature, hundred)))};
    }
};
[[gnu::always_inline]] constexpr AirTenths tenths_of(FrameCoding coding, const Frame& frame) {
    const uint8_t* b = frame.bytes;
    if (!frame.is_sound())
        return {0, 0, Health::bad_frame};
    uint16_t humidity = 0;
    uint16_t size = 0; // of the temperature
    bool below_zero = false;
    if (coding == FrameCoding::tenths) {
        humidity = static_cast<uint16_t>(uint16_t{b[0]} << 8 | b[1]);
        size = static_cast<uint16_t>((b[2] & 0x7fU) << 8U | b[3]);
        below_zero = (b[2] & 0x80U) != 0;
    } else {
        const auto tenth = static_cast<uint8_t>(b[3] & 0x7fU);
        if (b[1] > 9 || tenth > 9)
            return {0, 0, Health::bad_frame};
        humidity = static_cast<uint16_t>(b[0] * 10U + b[1]);
        size = static_cast<uint16_t>(b[2] * 10U + tenth);
        below_zero = (b[3] & 0x80U) != 0;
    }
    if (humidity > 1000 || size > (below_zero ? 400 : 800))
        return {0, 0, Health::out_of_range};
    const auto celsius = static_cast<int16_t>(size);
    return {humidity, static_cast<int16_t>(below_zero ? -celsius : celsius), Health::ok};
}
} // namespace detail

/// A frame to its two quantities: exact. Over 100 %RH, or beyond -40 to 80 degC, is out of range.
/// A frame that is not sound, or has a tenth above 9, is a bad frame.
[[gnu::always_inline]] constexpr AirReading decode_frame(FrameCoding coding, const Frame& frame) {
    const detail::AirTenths tenths = detail::tenths_of(coding, frame);
    return tenths.health == Health::ok ? tenths.reading()
                                       : AirReading::without_value(tenths.health);
}

/// Such a sensor, how often it may be read, and what is done about reads that fail.
///
///     constexpr auto air = humidity_frame(FrameCoding::tenths).every(5_s).tries(3);
///     HumidityFrame<air> litter;
///     const AirReading reading = litter.read(now, sample); // what has come, if anything has
///     if (litter.due(now)) // after that, since it counts from the last answer
///         ... send the start signal, capture the pulses ...
///
/// A failed read is told as what it is, and the next is due as after any other; after `tries`
/// failures in a row the sensor is missing. With `hold` the last good value stands in for failed
/// reads that long.
class HumidityFrameSpec {
  public:
    constexpr explicit HumidityFrameSpec(FrameCoding coding)
        : coding_(coding), every_(least_interval(coding)) {}

    /// The shortest interval that a sensor allows: read sooner it repeats itself, or hangs.
    static constexpr Duration least_interval(FrameCoding coding) {
        return coding == FrameCoding::whole ? 1_s : 2_s;
    }
    /// How often it is read; at least the least interval, at most 1 h.
    constexpr HumidityFrameSpec every(Duration d) const {
        return detail::with(*this, &HumidityFrameSpec::every_, d);
    }
    /// How many reads may fail in a row, 1 to 100, until the sensor is missing. Default: 3.
    constexpr HumidityFrameSpec tries(uint8_t n) const {
        return detail::with(*this, &HumidityFrameSpec::tries_, n);
    }
    /// How long the last good value may stand in. Default: not at all. At most 1 h.
    constexpr HumidityFrameSpec hold(Duration d) const {
        return detail::with(*this, &HumidityFrameSpec::hold_, d);
    }

    constexpr FrameCoding coding() const { return coding_; }
    constexpr Duration every() const { return every_; }
    constexpr Duration hold() const { return hold_; }
    constexpr uint8_t tries() const { return tries_; }
    constexpr bool every_is_possible() const {
        return every_ >= least_interval(coding_) && every_ <= 1_h;
    }
    constexpr bool tries_are_possible() const { return tries_ >= 1 && tries_ <= 100; }
    constexpr bool hold_is_possible() const { return hold_ >= Duration{} && hold_ <= 1_h; }
    /// After this long without any attempt a value is stale.
    constexpr Duration stale_after() const {
        return Duration::from_thousandths(every_.thousandths() * (int32_t{tries_} + 1) +
                                          hold_.thousandths()); // at most 101 h
    }

  private:
    FrameCoding coding_;
    Duration every_;
    Duration hold_{};
    uint8_t tries_ = 3;
};

/// Starts a `HumidityFrameSpec`; the data sheet, or a look at a frame, tells the coding.
constexpr HumidityFrameSpec humidity_frame(FrameCoding coding) { return HumidityFrameSpec(coding); }

/// The memory of one such sensor; it belongs to a `HumidityFrameSpec`.
class HumidityFrameState {
  public:
    /// Whether the next attempt may be made. The first is due the least interval after power-up,
    /// which the sensor needs to wake, however long `every` is.
    [[gnu::always_inline]] constexpr bool due(const HumidityFrameSpec& spec, Instant now) {
        begin(now);
        if (!due_ &&
            now - attempt_ >= (begun_ == Begun::asked ? spec.every() : least_interval(spec)))
            due_ = true; // kept, so that a clock that wraps takes nothing back
        return due_;
    }

    [[gnu::always_inline]] constexpr AirReading read(const HumidityFrameSpec& spec, Instant now,
                                                     const FrameSample& sample) {
        begin(now);
        if (sample.tried())
            attempted(spec, now, sample);
        else if (now - attempt_ > spec.stale_after())
            give_up(Health::stale);
        if (held_ && now - good_at_ > spec.hold())
            held_ = false;
        if (health_ == Health::ok || held_)
            return good_.reading();
        return AirReading::without_value(health_);
    }

    /// The last good values, however old; missing before there were any.
    constexpr AirReading last_good() const {
        return good_.health == Health::ok ? good_.reading()
                                          : AirReading::without_value(good_.health);
    }
    /// How old those are; right for ages below 24 days.
    constexpr Duration age(Instant now) const { return now - good_at_; }
    /// Whether they stand in for a read that failed.
    constexpr bool holds() const { return held_; }
    constexpr uint8_t failures() const { return failures_; }

  private:
    constexpr void begin(Instant now) {
        if (begun_ == Begun::no) {
            begun_ = Begun::waits;
            attempt_ = now;
        }
    }
    static constexpr Duration least_interval(const HumidityFrameSpec& spec) {
        return HumidityFrameSpec::least_interval(spec.coding());
    }
    [[gnu::always_inline]] constexpr void attempted(const HumidityFrameSpec& spec, Instant now,
                                                    const FrameSample& sample) {
        attempt_ = now;
        begun_ = Begun::asked;
        due_ = false;
        detail::AirTenths reading{0, 0, Health::missing};
        if (sample.has_frame())
            reading = detail::tenths_of(spec.coding(), sample.frame());
        else if (sample.answered())
            reading.health = Health::bad_frame;
        if (reading.health == Health::ok) {
            good_ = reading;
            good_at_ = now;
            failures_ = 0;
            health_ = Health::ok;
            held_ = false;
            return;
        }
        if (health_ == Health::ok)
            held_ = spec.hold() > Duration{};
        if (failures_ < spec.tries())
            ++failures_;
        health_ = reading.health;
        if (failures_ >= spec.tries() && health_ != Health::out_of_range)
            health_ = Health::missing;
    }
    constexpr void give_up(Health why) {
        if (health_ == Health::ok)
            health_ = why;
        held_ = false;
    }

    detail::AirTenths good_{0, 0, Health::missing};
    Instant good_at_{};
    Instant attempt_{};
    Health health_ = Health::missing;
    uint8_t failures_ = 0;
    enum class Begun : uint8_t { no, waits, asked } begun_ = Begun::no;
    bool due_ = false;
    bool held_ = false;
};

/// A one-wire humidity sensor in a device. RAM: 18 bytes.
template <const HumidityFrameSpec& Spec, bool = detail::is_constant<Spec>> class HumidityFrame {
    static_assert(Spec.every_is_possible(),
                  "such a sensor must not be read more often than every 1 s (whole numbers) or 2 s "
                  "(tenths), and should be once an hour: .every(5_s)");
    static_assert(Spec.tries_are_possible(), "tries must lie between 1 and 100");
    static_assert(Spec.hold_is_possible(), "a value may be held for at most 1 h");

  public:
    constexpr bool due(Instant now) { return state_.due(Spec, now); }
    [[gnu::always_inline]] constexpr AirReading read(Instant now, const FrameSample& sample) {
        return state_.read(Spec, now, sample);
    }
    constexpr AirReading last_good() const { return state_.last_good(); }
    constexpr Duration age(Instant now) const { return state_.age(now); }

  private:
    HumidityFrameState state_;
};
template <const HumidityFrameSpec& Spec>
class HumidityFrame<Spec, false> : public detail::NotMade<Spec> {};

} // namespace zorilla
