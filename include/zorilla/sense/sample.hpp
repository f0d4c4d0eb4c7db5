// SPDX-License-Identifier: MIT
/// \file
/// What an analogue pin delivers.
#pragma once

#include "zorilla/units/quantity.hpp"
#include "zorilla/units/reading.hpp"

#include <stdint.h>

namespace zorilla {

/// One code of an analogue-to-digital converter, or the lack of one.
///
/// A code `c` of a converter with `n` bits stands for a voltage of `c / 2^n` of its reference.
class Sample {
  public:
    /// No sample: the converter has not finished its first conversion, or a record has a gap.
    constexpr Sample() = default;

    /// A sample that was taken.
    constexpr explicit Sample(uint16_t code) : code_(code), taken_(true) {}

    constexpr bool taken() const { return taken_; }

    /// The code; 0 if no sample was taken.
    constexpr uint16_t code() const { return code_; }

  private:
    uint16_t code_ = 0;
    bool taken_ = false;
};

/// A code as it is, in counts, for who wants no other quantity: `above(512_counts)`. Without a
/// value where no sample was taken; no code is a fault.
constexpr Reading<Counts> read_counts(Sample sample) {
    return sample.taken() ? Reading<Counts>::of_bounded(
                                Counts::from_thousandths(int32_t{sample.code()} * 1000))
                          : Reading<Counts>();
}

} // namespace zorilla
