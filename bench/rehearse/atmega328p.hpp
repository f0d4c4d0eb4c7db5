// SPDX-License-Identifier: MIT
/// \file
/// An ATmega328P at 16 MHz in the emulator, cycle by cycle.
#pragma once

#include <cstdint>
#include <functional>
#include <map>
#include <string>
#include <utility>
#include <vector>

struct avr_t;

namespace zorilla::bench {

class Atmega328p {
  public:
    /// Loads a firmware. Throws std::runtime_error if it cannot be read.
    explicit Atmega328p(const std::string& elf);
    /// With a program as it lies in the flash.
    explicit Atmega328p(std::vector<uint8_t> flash);
    ~Atmega328p();

    /// Executes one instruction, or sleeps until something happens. False once the program ended.
    bool step();
    /// Runs on for so many milliseconds of the chip's time.
    void run_for(uint32_t milliseconds);
    /// Runs until the program ends.
    void run_to_end();

    uint64_t cycles() const;
    /// How many of them it has slept.
    uint64_t asleep() const { return asleep_; }
    /// The lowest that its stack has reached down to.
    uint16_t lowest_stack() const { return lowest_stack_; }
    uint32_t milliseconds() const { return static_cast<uint32_t>(cycles() / 16'000); }

    /// The voltage on a channel of the converter, with a supply of 5,000 mV.
    void set_millivolts(uint32_t millivolts, uint8_t channel = 0);
    /// The same, of which its converter makes just this code. \param full_scale  in millivolts
    void set_code(int64_t code, uint8_t channel, int64_t full_scale = 5000) {
        set_millivolts(static_cast<uint32_t>((code * full_scale + full_scale / 2) / 1023), channel);
    }
    /// The voltage on its pin for a reference.
    void set_reference(uint32_t millivolts);
    /// The level that something outside puts on a pin, such as "PD2".
    void put(const std::string& pin, bool high);
    /// Whether a pin is driven to a level, and to which: its output latch, whatever a timer does.
    bool drives(const std::string& pin) const;
    bool is_high(const std::string& pin) const;
    /// Does something in so many cycles, exactly then.
    void in_cycles(uint64_t cycles, std::function<void()> action);
    /// Calls for each change of the level that a pin shows, also by a timer.
    void watch(const std::string& pin, std::function<void(bool high)> changed);
    /// A byte of its memory: its registers are the first 256.
    uint8_t memory(uint16_t address) const;
    /// Puts a byte there, past the program.
    void set_memory(uint16_t address, uint8_t byte);
    /// A character comes in on its serial line.
    void receive(char c);

    /// The bytes that outlive a loss of power.
    std::vector<uint8_t> eeprom() const;
    void set_eeprom(const std::vector<uint8_t>& bytes);

    /// What came out of the serial line.
    const std::string& serial() const { return serial_; }
    /// The same, and forgets it.
    std::string take_serial() { return std::exchange(serial_, {}); }

    /// Bytes that the program reads from GPIOR0, one after the other; 0 when they are used up.
    void feed(std::vector<uint8_t> bytes) {
        in_ = std::move(bytes);
        next_in_ = 0;
    }
    /// Bytes that the program has written to GPIOR1.
    const std::vector<uint8_t>& collected() const { return out_; }
    /// Called with what the program writes to GPIOR2, and when.
    std::function<void(uint8_t mark, uint64_t cycle)> on_mark;

  private:
    Atmega328p();
    uint64_t do_what_is_due();
    std::multimap<uint64_t, std::function<void()>> due_;
    struct Watched {
        std::function<void(bool)> changed;
        int level = 0;
    };
    std::map<std::string, Watched> watched_;
    avr_t* avr_ = nullptr;
    uint64_t asleep_ = 0;
    uint16_t lowest_stack_ = 0xffff;
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

} // namespace zorilla::bench
