// SPDX-License-Identifier: MIT
/// \file
/// What outputs can be, of any part, and as text: off or on, a duty, a colour, a tone, a stage.
#pragma once

#include <zorilla/drive/drive.hpp>

#include <cstdint>
#include <string>
#include <string_view>

namespace zorilla::rig {

/// What kind of values an output has.
enum class ValueKind : uint8_t { on_off, duty, colour, tone, stage };

/// The value of an output whose kind is known only at run time.
class AnyValue {
  public:
    constexpr AnyValue() = default;
    constexpr AnyValue(OnOff v) : bits_(v == on ? 1 : 0) {}
    constexpr AnyValue(Duty v) : bits_(v.of_255()) {}
    constexpr AnyValue(Colour v)
        : bits_(uint32_t{v.red.of_255()} << 16 | uint32_t{v.green.of_255()} << 8 |
                v.blue.of_255()) {}
    constexpr AnyValue(Tone v) : bits_(v.hertz) {}
    constexpr AnyValue(Stage v) : bits_(v.number()) {}
    /// What `bits` of another has given.
    static constexpr AnyValue from_bits(uint32_t bits) {
        AnyValue out;
        out.bits_ = bits;
        return out;
    }

    /// Whether it is anything but off, dark or silent.
    constexpr bool any() const { return bits_ != 0; }
    constexpr uint32_t bits() const { return bits_; }
    constexpr OnOff on_off() const { return any() ? on : off; }
    constexpr Duty duty() const { return byte(0); }
    constexpr Colour colour() const { return {byte(16), byte(8), byte(0)}; }
    constexpr Tone tone() const { return {static_cast<uint16_t>(bits_)}; }
    constexpr Stage stage() const { return Stage(static_cast<uint8_t>(bits_)); }

    /// How much of all that it could be: of a duty and a colour's brightest part in 255ths, of the
    /// others all or nothing.
    uint8_t share(ValueKind kind) const;
    /// The most that an output of a kind can be: on, full, white; of the others, as they are.
    bool is_full(ValueKind kind) const { return share(kind) == 255; }

    /// Whether it, or a part of it, is more than nothing and less than all.
    bool is_between(ValueKind kind) const;

    friend constexpr bool operator==(AnyValue a, AnyValue b) { return a.bits_ == b.bits_; }
    friend constexpr bool operator!=(AnyValue a, AnyValue b) { return !(a == b); }

  private:
    constexpr Duty byte(int shift) const {
        return Duty::from_255ths(static_cast<uint8_t>(bits_ >> shift));
    }
    uint32_t bits_ = 0;
};

/// "on", "40 %", "red 100 %, green 40 %", "880 Hz", "stage 2"; "off" where there is nothing.
std::string to_text(AnyValue value, ValueKind kind);

/// A value read from text, or a sentence that says what is wrong and what to write instead.
struct ValueText {
    AnyValue value;
    std::string problem;
};
ValueText parse_value(std::string_view text, ValueKind kind);

/// A plausible value of a kind, as it is written.
std::string_view example_of(ValueKind kind);

} // namespace zorilla::rig
