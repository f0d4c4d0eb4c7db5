// SPDX-License-Identifier: MIT
// An ATmega328P at 16 MHz in the emulator, cycle by cycle.
#pragma once

#include <array>
#include <cstdint>
#include <functional>
#include <memory>
#include <string>
#include <vector>

struct avr_t;

namespace chips {

class Atmega328p {
  public:
    /// Loads a firmware. Throws std::runtime_error if it cannot be read.
    explicit Atmega328p(const std::string& elf);
    ~Atmega328p();

    /// Executes one instruction, or sleeps until something happens. False once the program ended.
    bool step();
    /// Runs on for so many milliseconds of the chip's time.
    void run_for(uint32_t milliseconds);
    /// Runs until the program ends.
    void run_to_end();

    uint64_t cycles() const;
    uint32_t milliseconds() const { return static_cast<uint32_t>(cycles() / 16'000); }

    /// The voltage on ADC0, with a supply of 5,000 mV.
    void set_millivolts(uint32_t millivolts);
    /// Whether PB0 is driven to a level, and to which.
    bool drives_pb0() const;
    bool pb0_is_high() const;

    /// The bytes that outlive a loss of power.
    std::vector<uint8_t> eeprom() const;
    void set_eeprom(const std::vector<uint8_t>& bytes);

    /// What came out of the serial line.
    const std::string& serial() const { return serial_; }

    /// Bytes that the program reads from GPIOR0, one after the other; 0 when they are used up.
    void feed(std::vector<uint8_t> bytes) { in_ = std::move(bytes); }
    /// Bytes that the program has written to GPIOR1.
    const std::vector<uint8_t>& collected() const { return out_; }
    /// Called with what the program writes to GPIOR2, and when.
    std::function<void(uint8_t mark, uint64_t cycle)> on_mark;

  private:
    avr_t* avr_ = nullptr;
    std::string serial_;
    std::vector<uint8_t> in_;
    size_t next_in_ = 0;
    std::vector<uint8_t> out_;
};

/// What a firmware takes of the chip, by the section sizes of its file.
struct Size {
    uint32_t flash = 0; ///< code, constants and initial values
    uint32_t ram = 0;   ///< variables, without the stack
};
Size size_of(const std::string& elf);

} // namespace chips
