// SPDX-License-Identifier: MIT
/// \file
/// A quick calibration on the device itself: a reading is moved (one point) or moved and stretched
/// (two points) so that it agrees with what is known to be true there.
#pragma once

#include "zorilla/units/reading.hpp"
#include "zorilla/units/temperature.hpp"

#include <stdint.h>

namespace zorilla {

/// A reading moved by what somebody has set on the device, such as a `said_setting`; one without a
/// value stays as it is, and one that is moved out of its numbers is out of range.
template <class Q, class Gap>
constexpr Reading<Q> trimmed(Reading<Q> reading, const Reading<Gap>& by) {
    if (!reading.ok())
        return reading;
    if (!by.ok())
        return Reading<Q>::without_value(by.health());
    return Reading<Q>::of(Q::from_thousandths(
        detail::add(reading.value_or(Q{}).thousandths(), by.value_or(Gap{}).thousandths())));
}

/// What became of setting a trim. Where it is not `done`, the trim is as it was before.
enum class TrimResult : uint8_t {
    done,
    unhealthy, ///< the reading has no value
    too_close, ///< the two points are less than five units (5 K, 5 %RH ...) apart
    too_much,  ///< it would stretch to less than half, or to more than one and a half; or a value
               ///< runs into the end of its numbers
};

/// Gain and offset on a reading.
///
///     Trim<Temperature> trim;                        // changes nothing until it is set
///     const auto plain = probe.read(sample);
///     const auto roost = trim.pass(plain);           // in every pass
///     ...
///     trim.one_point(plain, 0_degC);                 // a button was pressed: it is in ice water
///
/// Both calls take the reading as it is without the trim. A two-point trim meets both points to
/// half a thousandth. RAM: 12 bytes, and as many to store (`Stored`).
/// Cost on the ATmega328P: one product of 32 by 32 bits to 64.
template <class Q> class Trim {
  public:
    /// How many bytes `bytes_to` writes and `bytes_from` reads.
    static constexpr uint8_t byte_count = 12;
    /// To be raised when what these bytes mean changes.
    static constexpr uint8_t version = 1;
    /// How far apart two points must be read, in thousandths of the unit.
    static constexpr int32_t least_span = 5000;

    constexpr Trim() = default;

    /// Moves all readings by as much as this one is off. A gain that was set stays.
    constexpr TrimResult one_point(Reading<Q> reading, Q truth) {
        if (!reading.ok())
            return TrimResult::unhealthy;
        const int32_t read = reading.value_or(Q{}).thousandths();
        return set(read, truth.thousandths(), slope_);
    }

    /// Moves and stretches so that both readings become what they should be.
    // By reference, since clang 19 for the ATmega328P goes wrong where arguments need the stack.
    constexpr TrimResult two_point(const Reading<Q>& reading, Q truth, const Reading<Q>& other,
                                   Q other_truth) {
        if (!reading.ok() || !other.ok())
            return TrimResult::unhealthy;
        const int32_t read = reading.value_or(Q{}).thousandths();
        const int64_t span = int64_t{other.value_or(Q{}).thousandths()} - read;
        const int64_t true_span = int64_t{other_truth.thousandths()} - truth.thousandths();
        if ((span < 0 ? -span : span) < least_span)
            return TrimResult::too_close;
        // From half to one and a half, both excluded, so that the slope fits into 32 bits.
        const int64_t more = true_span - span;
        if ((more < 0 ? -more : more) * 2 >= (span < 0 ? -span : span))
            return TrimResult::too_much;
        return set(read, truth.thousandths(), slope_of(more, span));
    }

    /// Takes the trim off again.
    constexpr void clear() { *this = Trim(); }
    constexpr bool is_set() const { return offset_ != 0 || slope_ != 0; }

    /// The reading as it should be; one without a value stays as it is, and one that is moved out
    /// of its numbers is out of range.
    constexpr Reading<Q> pass(Reading<Q> reading) const {
        if (!reading.ok())
            return reading;
        const int32_t value = reading.value_or(Q{}).thousandths();
        int32_t moved = detail::add(value, offset_);
        if (slope_ != 0)
            moved = detail::add(moved, stretched(value));
        return Reading<Q>::of(Q::from_thousandths(moved));
    }

    /// Writes the trim, to be stored. \param to  `byte_count` bytes
    constexpr void bytes_to(uint8_t* to) const {
        const int32_t all[] = {pivot_, offset_, slope_};
        for (const int32_t number : all)
            for (uint8_t i = 0; i < 4; ++i)
                *to++ = static_cast<uint8_t>(static_cast<uint32_t>(number) >> (8 * i));
    }
    /// Takes the trim from bytes that `bytes_to` has written.
    constexpr void bytes_from(const uint8_t* from) {
        int32_t* const all[] = {&pivot_, &offset_, &slope_};
        for (int32_t* number : all) {
            uint32_t bits = 0;
            for (uint8_t i = 0; i < 4; ++i)
                bits |= uint32_t{*from++} << (8 * i);
            *number = static_cast<int32_t>(bits);
        }
    }

  private:
    /// more / span in units of 2^-32; the quotient is less than a half either way.
    static constexpr int32_t slope_of(int64_t more, int64_t span) {
        // In two steps of 16 bits, so that nothing runs over.
        const bool negative = (more < 0) != (span < 0);
        const int64_t over = more < 0 ? -more : more;
        const int64_t under = span < 0 ? -span : span;
        const int64_t first = over * 65'536 / under;
        const int64_t rest = over * 65'536 % under;
        int64_t slope = first * 65'536 + (rest * 65'536 + under / 2) / under;
        if (slope > detail::largest_int32)
            slope = detail::largest_int32;
        return static_cast<int32_t>(negative ? -slope : slope);
    }
    /// (value - pivot) times the slope, rounded.
    constexpr int32_t stretched(int32_t value) const {
        const int64_t from_pivot = int64_t{value} - pivot_;
        return static_cast<int32_t>((from_pivot * slope_ + (int64_t{1} << 31)) >> 32);
    }
    constexpr TrimResult set(int32_t read, int32_t truth, int32_t slope) {
        const int64_t offset = int64_t{truth} - read;
        if (offset > detail::largest_int32 || offset < detail::smallest_int32)
            return TrimResult::too_much;
        pivot_ = read;
        offset_ = static_cast<int32_t>(offset);
        slope_ = slope;
        return TrimResult::done;
    }

    int32_t pivot_ = 0;
    int32_t offset_ = 0;
    int32_t slope_ = 0; ///< gain less one, in units of 2^-32
};

} // namespace zorilla
