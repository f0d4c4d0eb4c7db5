// SPDX-License-Identifier: MIT
/// \file
/// What a sensor's pin has delivered in one pass, whatever the sensor, as a trace holds it.
#pragma once

#include <zorilla/sense/humidity_frame.hpp>
#include <zorilla/sense/ranger.hpp>
#include <zorilla/sense/sample.hpp>
#include <zorilla/sense/switched.hpp>

#include <cstdint>

namespace zorilla::rig {

/// What kind of raw input a sensor has, and so the unit of its column in a trace.
enum class RawKind : uint8_t {
    code,         ///< a code of the converter
    microseconds, ///< the width of a pulse, or the time between two
    frame,        ///< 40 bits, as ten hexadecimal digits
    level,        ///< 0 or 1
    edges,        ///< how many edges were counted in all
};

/// The unit of such a column: "code", "us", "frame", "level", "edges".
constexpr const char* unit_of(RawKind kind) {
    constexpr const char* names[] = {"code", "us", "frame", "level", "edges"};
    return names[static_cast<uint8_t>(kind)];
}

/// One raw input.
class Raw {
  public:
    constexpr Raw() = default;
    constexpr explicit Raw(int64_t bits) : bits_(bits) {}
    constexpr explicit Raw(Sample sample) : bits_(sample.taken() ? sample.code() : not_taken) {}
    /// It was asked, and did not answer.
    static constexpr Raw silent() { return Raw(no_answer); }

    constexpr bool taken() const { return bits_ != not_taken; }
    constexpr bool is_silent() const { return bits_ == no_answer; }
    /// The number; negative if there is none.
    constexpr int64_t bits() const { return bits_; }

    constexpr Sample sample() const {
        return bits_ < 0 ? Sample() : Sample(static_cast<uint16_t>(bits_));
    }
    constexpr Echo echo() const {
        return !taken()                    ? Echo()
               : is_silent() || bits_ == 0 ? Echo::none()
                                           : Echo(static_cast<uint16_t>(bits_));
    }
    constexpr LevelSample level() const {
        return bits_ < 0 ? LevelSample() : LevelSample(bits_ != 0 ? Level::high : Level::low);
    }
    constexpr FrameSample frame() const {
        if (bits_ < 0)
            return is_silent() ? FrameSample::silent() : FrameSample();
        Frame frame;
        for (int i = 0; i < 5; ++i)
            frame.bytes[i] = static_cast<uint8_t>(bits_ >> (8 * (4 - i)));
        return FrameSample(frame);
    }

  private:
    static constexpr int64_t not_taken = -1, no_answer = -2;
    int64_t bits_ = not_taken;
};

} // namespace zorilla::rig
