// SPDX-License-Identifier: MIT
/// \file
/// The line from the outside: commands, one a line, each answered (docs/serial-line.md).
///
///     LineInput boost(10_min, said_full);
///     Answer obey(Command command) {
///         if (command.is(ZORILLA_TEXT("set")) && command.is(ZORILLA_TEXT("boost")))
///             return boost.set(command, now);
///         return Answer::no_command;
///     }
///     ...
///     if (const char* line = Wires::line())
///         answer = ProgramLine(text_of(obey(Command(line))));
#pragma once

#include "zorilla/board/report.hpp"
#include "zorilla/sense/said.hpp"
#include "zorilla/units/time.hpp"

#include <stdint.h>

namespace zorilla {

/// Collects characters to lines of at most 64, one at a time; whatever comes, it changes nothing
/// else. RAM: 69 bytes.
class LineIn {
  public:
    static constexpr uint8_t size = 64;

    /// A character. \param damaged  whether it, or one before it, was lost on the way
    [[gnu::always_inline]] void take(char c, bool damaged) {
        const bool ends = c == '\n' || c == '\r';
        const uint8_t length = length_;
        // Only what can be printed is text; anything else is noise.
        const bool odd = static_cast<uint8_t>(c - ' ') > '~' - ' ';
        if (damaged || done_ || (odd && !ends) || (!ends && length >= size)) {
            if (lost_ < 255)
                lost_ = static_cast<uint8_t>(lost_ + 1);
            skips_ = true; // the rest of that line means nothing
        }
        if (ends && skips_) {
            skips_ = false;
            if (!done_)
                length_ = 0;
            return;
        }
        if (skips_ || (ends && length == 0))
            return;
        text_[length] = ends ? '\0' : c;
        if (ends)
            done_ = true;
        else
            length_ = static_cast<uint8_t>(length + 1);
    }
    /// A line without its end; null while there is none. The next comes once this one is done.
    const char* line() const { return done_ ? text_ : nullptr; }
    void done() {
        length_ = 0;
        __asm__ volatile("" ::: "memory");
        done_ = false;
    }
    /// How many characters were lost, up to 255.
    uint8_t lost() const { return lost_; }

  private:
    char text_[size + 1] = {};
    volatile uint8_t length_ = 0, lost_ = 0;
    volatile bool done_ = false, skips_ = false;
};

/// What became of a command.
enum class Answer : uint8_t { ok, no_command, no_name, no_value, no_time, too_much };
/// "ok", or "no: " and why, with the end of the line.
inline ProgramText text_of(Answer answer) {
    switch (answer) {
    case Answer::ok: break;
    case Answer::no_command: return ZORILLA_TEXT("no: set, clear, header or who\n");
    case Answer::no_name: return ZORILLA_TEXT("no: nothing is called that\n");
    case Answer::no_value: return ZORILLA_TEXT("no: on, off or a number is due\n");
    case Answer::no_time: return ZORILLA_TEXT("no: end it with a time: for 90 s\n");
    case Answer::too_much: return ZORILLA_TEXT("no: outside of what it may be\n");
    }
    return ZORILLA_TEXT("ok\n");
}

/// A line, word by word.
class Command {
  public:
    explicit Command(const char* text) : next_(text) {}

    /// Whether the next word is this one; if so, goes past it.
    [[gnu::noinline]] bool is(ProgramText word) {
        const char* at = next_;
        for (const char* of = word.begin;; ++of, ++at) {
            const char c = detail::load_character(of);
            if (c == '\0')
                break;
            if (c != *at)
                return false;
        }
        return *at == '\0' || *at == ' ' ? past(at) : false;
    }
    /// A number of at most nine digits, as thousandths: "4.25" is 4250. What is finer is refused.
    [[gnu::noinline]] bool number(int32_t& thousandths) {
        const char* at = next_;
        const bool negative = *at == '-';
        at += negative ? 1 : 0;
        int32_t out = 0;
        uint8_t digits = 0, after = 0;
        bool point = false;
        for (;; ++at) {
            if (*at == '.' && !point && digits > 0) {
                point = true;
                continue;
            }
            if (*at < '0' || *at > '9')
                break;
            if (digits == 9 || after == 3)
                return false;
            out = out * 10 + (*at - '0');
            ++digits;
            after = static_cast<uint8_t>(after + (point ? 1 : 0));
        }
        for (; after < 3; ++after) {
            if (out > 214'000'000)
                return false;
            out *= 10;
        }
        if (digits == 0 || (*at != '\0' && *at != ' '))
            return false;
        thousandths = negative ? -out : out;
        return past(at);
    }
    /// Whether this word is all that there still is.
    bool is_only(ProgramText word) { return is(word) && ends(); }
    /// Whether there is nothing more.
    bool ends() const { return *next_ == '\0'; }

  private:
    bool past(const char* at) {
        next_ = *at == ' ' ? at + 1 : at;
        return true;
    }
    const char* next_;
};

/// Something that is said over the line: on or off, or a share in percent; for a time, after which
/// it is off, or nothing, again. RAM: 17 bytes.
class LineInput {
  public:
    /// \param longest  how long it holds at most, and if no time is said; up to 24 days
    /// \param largest  1 for on and off, or `said_full` for percent
    constexpr LineInput(Duration longest, uint16_t largest)
        : longest_(longest), for_(longest), largest_(largest) {}

    /// "on", "off", or a number (of percent, with or without "%"); then "for 90 s" (or min, or h)
    /// or nothing.
    [[gnu::noinline]] Answer set(Command& command, Instant now) {
        const bool is_switch = largest_ == 1;
        int32_t value = 0;
        if (command.is(ZORILLA_TEXT("on"))) {
            value = full();
        } else if (!command.is(ZORILLA_TEXT("off"))) {
            if (!command.number(value))
                return Answer::no_value;
            if (!is_switch)
                command.is(ZORILLA_TEXT("%"));
        }
        // A switch is on or off, and nothing between.
        if (value < 0 || value > full() || (is_switch && value != 0 && value != full()))
            return Answer::too_much;
        int32_t time = longest_.thousandths();
        if (!command.ends()) {
            if (!command.is(ZORILLA_TEXT("for")) || !command.number(time) || time <= 0)
                return Answer::no_time;
            const int32_t unit = command.is(ZORILLA_TEXT("h"))     ? 3600
                                 : command.is(ZORILLA_TEXT("min")) ? 60
                                                                   : 1;
            if (unit == 1)
                command.is(ZORILLA_TEXT("s"));
            if (!command.ends())
                return Answer::no_time;
            if (time > longest_.thousandths() / unit)
                return Answer::too_much;
            time *= unit;
        }
        code_ = static_cast<uint16_t>(is_switch ? (value != 0 ? 1 : 0) : value / 100);
        for_ = Duration::from_thousandths(time);
        since_ = now;
        is_set_ = true;
        return Answer::ok;
    }
    void clear() { is_set_ = false; }

    /// What was said, in a pass; none if nobody said anything, or its time is over.
    Sample sample(Instant now) {
        if (is_set_ && now - since_ >= for_)
            is_set_ = false;
        return is_set_ ? Sample(code_) : Sample();
    }
    /// The same as a level: low if nobody said anything.
    LevelSample level(Instant now) {
        const Sample said = sample(now);
        return LevelSample(said.taken() && said.code() != 0 ? Level::high : Level::low);
    }

  private:
    constexpr int32_t full() const { return largest_ == 1 ? 1000 : int32_t{largest_} * 100; }

    Instant since_{};
    Duration longest_, for_;
    uint16_t largest_, code_ = 0;
    bool is_set_ = false;
};

namespace detail {
/// A number from one end to the other, as a code.
[[gnu::noinline]] inline Answer set_setting(Command& command, int32_t from, int32_t to,
                                            int32_t step, uint16_t& code) {
    int32_t value = 0;
    if (!command.number(value) || !command.ends())
        return Answer::no_value;
    if (value < from || value > to)
        return Answer::too_much;
    code = SettingSpec{from, to, step}.code(value);
    return Answer::ok;
}
} // namespace detail

/// A value that is set over the line, within its ends; `Settings` keeps it. RAM: two bytes.
///
///     constexpr auto warm_at = setting(4_degC, 12_degC, 6_degC);
///     LineSetting<warm_at> kept_warm_at;
template <const SettingSpec& Spec> class LineSetting {
    static_assert(Spec.is_possible(), "a setting goes from one value up to another, and usually "
                                      "lies between them");

  public:
    /// A number in the unit in which readings are counted, such as degC; to the nearest step.
    Answer set(Command& command) {
        return detail::set_setting(command, Spec.from, Spec.to, Spec.step, code_);
    }
    /// As it usually is.
    void clear() { code_ = Spec.usual; }
    Sample sample() const { return Sample(code_); }

    void to_bytes(uint8_t*& to) const {
        *to++ = static_cast<uint8_t>(code_);
        *to++ = static_cast<uint8_t>(code_ >> 8);
    }
    /// What cannot be is left as it is.
    void from_bytes(const uint8_t*& from) {
        const auto code = static_cast<uint16_t>(from[0] | from[1] << 8);
        from += 2;
        if (code <= Spec.last())
            code_ = code;
    }

  private:
    uint16_t code_ = Spec.usual;
};

/// All settings of a device, to be `Stored`.
/// \tparam Meaning  stands for what they mean; of another one's bytes 1 in 16,777,216 is taken
template <uint32_t Meaning, auto&... All> struct Settings {
    static constexpr uint8_t byte_count = 2 * sizeof...(All),
                             version = static_cast<uint8_t>(Meaning);
    static constexpr uint16_t meaning = static_cast<uint16_t>(Meaning >> 8);
    void bytes_to(uint8_t* to) const { (All.to_bytes(to), ...); }
    void bytes_from(const uint8_t* from) { (All.from_bytes(from), ...); }
};

} // namespace zorilla
