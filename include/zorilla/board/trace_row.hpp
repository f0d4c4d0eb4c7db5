// SPDX-License-Identifier: MIT
/// \file
/// What a device has read, as a row of a trace: what it sends can be captured, run and explained on
/// the desk as it is.
///
///     CheckedRow<40> row;
///     row.begin(now, 0x3f2a);
///     put_raw(row, Wires::read<Roost>());
///     ...
///     row.send<Wires>(); // between passes: a character
#pragma once

#include "zorilla/board/report.hpp"
#include "zorilla/drive/output.hpp"
#include "zorilla/sense/humidity_frame.hpp"
#include "zorilla/sense/pulses.hpp"
#include "zorilla/sense/ranger.hpp"
#include "zorilla/sense/sample.hpp"
#include "zorilla/sense/switched.hpp"

namespace zorilla {

/// A text of program memory, sent a character at a time: the header of a trace.
class ProgramLine {
  public:
    explicit ProgramLine(ProgramText text) : next_(text.begin) {}
    /// Hands the next character to `Board`, if the line is free; false once all are sent.
    template <class Board> bool send() {
        const char c = detail::load_character(next_);
        if (c == '\0')
            return false;
        if (Board::send(c))
            ++next_;
        return true;
    }

  private:
    const char* next_;
};

/// When a row is due that does not come with each pass: with the first one, and then evenly.
///
///     Reporting reporting;
///     if (row.done() && reporting.due(now, 1_s))
///         row.begin(now, 0x3f2a);
///
/// RAM: five bytes.
class Reporting {
  public:
    /// Asked in each pass in which a row could begin. \param every  at most 24 days
    bool due(Instant now, Duration every) {
        const bool late = begun_ && now - last_ >= every + every;
        if (begun_ && now - last_ < every)
            return false;
        last_ = begun_ && !late ? last_ + every : now;
        begun_ = true;
        return true;
    }

  private:
    Instant last_{};
    bool begun_ = false;
};

/// The check of a row with one more character: the polynomial of ITU-T V.41, bits from the highest
/// on, without a table. Whatever up to 16 bits in a row are wrong, it tells.
constexpr uint16_t next_check(uint16_t check, char c) {
    auto x = static_cast<uint8_t>(check >> 8 ^ static_cast<uint8_t>(c));
    x = static_cast<uint8_t>(x ^ x >> 4);
    // In bytes: a small chip shifts 16 bits one by one.
    const auto high = static_cast<uint8_t>(static_cast<uint8_t>(check) ^ x << 4 ^ x >> 3);
    const auto low = static_cast<uint8_t>(x ^ x << 5);
    return static_cast<uint16_t>(high << 8 | low);
}

/// What the checks of a device's rows begin with, of the number in its header.
constexpr uint16_t check_start(uint32_t number) {
    return static_cast<uint16_t>(number >> 16 ^ number);
}

/// Seconds, to the millisecond.
template <uint8_t Size> void put_time(Report<Size>& row, Instant now) {
    row.put_number(now.milliseconds(), 3);
}
/// A comma and a code; nothing behind the comma where none was taken.
template <uint8_t Size> void put_raw(Report<Size>& row, Sample sample) {
    row.put(',');
    if (sample.taken())
        row.put_number(sample.code());
}
/// Microseconds, or "none" where none came.
template <uint8_t Size> void put_raw(Report<Size>& row, Echo echo) {
    row.put(',');
    if (echo.heard())
        row.put_number(echo.microseconds());
    else if (echo.taken())
        row.put(ZORILLA_TEXT("none"));
}
/// 0 or 1.
template <uint8_t Size> void put_raw(Report<Size>& row, LevelSample level) {
    row.put(',');
    if (level.taken())
        row.put(level.level() == Level::high ? '1' : '0');
}
/// All edges so far, modulo 65,536.
template <uint8_t Size> void put_raw(Report<Size>& row, const PulseSample& pulses) {
    row.put(',');
    if (pulses.taken)
        row.put_number(pulses.edges);
}
/// Ten hexadecimal digits, or "none" where the sensor did not answer. What was garbled stands as a
/// frame whose sum is wrong: it is as bad.
template <uint8_t Size> void put_raw(Report<Size>& row, const FrameSample& sample) {
    row.put(',');
    if (!sample.tried())
        return;
    if (!sample.answered()) {
        row.put(ZORILLA_TEXT("none"));
        return;
    }
    const auto digit = [](uint8_t n) { return static_cast<char>(n < 10 ? '0' + n : 'a' + n - 10); };
    for (uint8_t i = 0; i < 5; ++i) {
        const uint8_t byte = sample.has_frame() ? sample.frame().bytes[i] : i == 4 ? 1 : 0;
        row.put(digit(byte >> 4));
        row.put(digit(byte & 15));
    }
}

// What an output is: 0 or 1, a duty in 255ths, a stage, hertz, or the three bytes of a colour as
// one number.
template <uint8_t Size> void put_output(Report<Size>& row, uint32_t number) {
    row.put(',');
    row.put_number(number);
}
template <uint8_t Size> void put_output(Report<Size>& row, OnOff value) {
    put_output(row, uint32_t{value == on ? 1U : 0U});
}
template <uint8_t Size> void put_output(Report<Size>& row, Duty value) {
    put_output(row, uint32_t{value.of_255()});
}
template <uint8_t Size> void put_output(Report<Size>& row, Stage value) {
    put_output(row, uint32_t{value.number()});
}
template <uint8_t Size> void put_output(Report<Size>& row, Tone value) {
    put_output(row, uint32_t{value.hertz});
}
template <uint8_t Size> void put_output(Report<Size>& row, Colour value) {
    put_output(
        row, uint32_t{value.red.of_255()} << 16 |
                 static_cast<uint16_t>(uint16_t{value.green.of_255()} << 8 | value.blue.of_255()));
}

/// A row with its check behind it, worked out while it goes out, so that a pass does not pay for
/// it. \tparam Size  of the longest row with its check and its end
template <uint8_t Size> class CheckedRow : public Report<Size> {
  public:
    /// Whether the last one has been sent, so that the next may begin.
    bool done() const { return !open_ && Report<Size>::done(); }
    /// \param start  what the check begins with: `check_start` of the number in the header
    void begin(Instant now, uint16_t start) {
        this->clear();
        check_ = start;
        open_ = true;
        put_time(*this, now);
    }
    /// Hands the next character to `Board`, if there is one and the line is free.
    template <class Board> void send() {
        if (Report<Size>::done()) {
            if (!open_)
                return;
            open_ = false;
            this->put(',');
            for (uint8_t i = 0; i < 4; ++i) {
                const auto digit = static_cast<uint8_t>(check_ >> 12);
                this->put(static_cast<char>(digit < 10 ? '0' + digit : 'a' + digit - 10));
                check_ = static_cast<uint16_t>(check_ << 4);
            }
            this->put('\n');
        }
        const char c = this->next();
        if (Board::send(c)) {
            this->went();
            if (open_)
                check_ = next_check(check_, c);
        }
    }

  private:
    uint16_t check_ = 0;
    bool open_ = false;
};

} // namespace zorilla
