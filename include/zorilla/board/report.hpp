// SPDX-License-Identifier: MIT
/// \file
/// One line of text for the serial port, written at once and sent a character at a time, so that
/// reporting never holds up a pass.
#pragma once

#include "zorilla/units/program_memory.hpp"
#include "zorilla/units/quantity.hpp"
#include "zorilla/units/reading.hpp"

#include <stdint.h>

/// A text kept in program memory: `ZORILLA_TEXT(" degC")`.
#define ZORILLA_TEXT(literal)                                                                      \
    ([]() {                                                                                        \
        ZORILLA_PROGRAM_MEMORY static const char text[] = literal;                                 \
        return ::zorilla::ProgramText{text};                                                       \
    }())

namespace zorilla {

/// Where a text in program memory begins.
struct ProgramText {
    const char* begin;
};

/// The name of a health, as it is written everywhere.
inline ProgramText name_of(Health health) {
    // One text after the other, in the order of the enumeration.
    const char* at = ZORILLA_TEXT("ok\0missing\0open circuit\0short circuit\0out of range\0"
                                  "warming up\0stale\0bad frame\0no echo\0too near\0too far\0"
                                  "implausible\0stuck")
                         .begin;
    for (auto left = static_cast<uint8_t>(health); left > 0; --left)
        while (detail::load_character(at++) != '\0') {
        }
    return ProgramText{at};
}

/// A line of at most `Size` characters; what does not fit is cut off.
template <uint8_t Size> class Report {
  public:
    /// Whether the last line has been sent, so that the next may be written.
    bool done() const { return sent_ == length_; }

    void clear() { sent_ = length_ = 0; }

    // Kept out of line: on a small chip each copy would cost more than the call.
    [[gnu::noinline]] void put(char c) {
        if (length_ < Size)
            text_[length_++] = c;
    }

    [[gnu::noinline]] void put(ProgramText words) {
        for (const char* at = words.begin; const char c = detail::load_character(at); ++at)
            put(c);
    }

    /// A whole number; with `after_point` above 0, a point before that many last digits.
    [[gnu::noinline]] void put_number(uint32_t number, uint8_t after_point = 0) {
        // Counting down powers of ten: a third of the size of the chip's general division.
        ZORILLA_PROGRAM_MEMORY static const uint32_t powers[] = {
            1, 10, 100, 1'000, 10'000, 100'000, 1'000'000, 10'000'000, 100'000'000, 1'000'000'000};
        bool begun = false;
        // Most numbers have at most five digits, and need not be asked for more.
        for (uint8_t place = number >> 16 == 0 && after_point < 5 ? 5 : 10; place-- > 0;) {
            const uint32_t power = detail::load_long(&powers[place]);
            char digit = '0';
            for (; number >= power; number -= power)
                ++digit;
            if (digit != '0' || place <= after_point)
                begun = true;
            if (begun)
                put(digit);
            if (place == after_point && place > 0)
                put('.');
        }
    }

    /// A value in thousandths, such as `-3.250`, and its unit; or what is wrong with it.
    template <class Q> void put_reading(Reading<Q> reading, ProgramText unit) {
        if (reading.ok()) {
            const int32_t thousandths = reading.value_or(Q{}).thousandths();
            if (thousandths < 0)
                put('-');
            put_number(detail::size_of_number(thousandths), 3);
        }
        put(reading.ok() ? unit : name_of(reading.health()));
    }

    /// Hands the next character to `Board`, if there is one and the line is free.
    template <class Board> void send() {
        if (!done() && Board::send(next()))
            went();
    }

  protected:
    char next() const { return text_[sent_]; }
    void went() { ++sent_; }

  private:
    char text_[Size];
    uint8_t length_ = 0;
    uint8_t sent_ = 0;
};

} // namespace zorilla
