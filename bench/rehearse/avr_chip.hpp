// SPDX-License-Identifier: MIT
/// \file
/// An AVR in the emulator, cycle by cycle.
#pragma once

#include "bench/rehearse/emulated.hpp"

#include <memory>
#include <utility>
#include <vector>

struct avr_t;
struct avr_int_vector_t;

namespace zorilla::bench {

class AvrChip : public EmulatedChip {
  public:
    /// Loads a firmware of an ATmega328P. Throws std::runtime_error if it cannot be read.
    explicit AvrChip(const std::string& elf);
    AvrChip(const ChipFacts& facts, const std::string& elf);
    /// An ATmega328P with a program as it lies in the flash.
    explicit AvrChip(std::vector<uint8_t> flash);
    ~AvrChip() override;

    /// Executes one instruction, or sleeps until something happens.
    bool step() override;
    /// Runs on for so many milliseconds of the chip's time.
    void run_for(uint32_t milliseconds);
    /// Runs until the program ends.
    void run_to_end();

    uint64_t cycles() const override;
    uint64_t asleep() const override { return asleep_; }
    uint32_t stack() const override;
    /// The lowest that its stack has reached down to.
    uint16_t lowest_stack() const { return lowest_stack_; }
    uint32_t milliseconds() const { return static_cast<uint32_t>(cycles() / cycles_per_ms()); }

    /// The voltage on a channel of the converter, with a supply of 5,000 mV.
    void set_millivolts(uint32_t millivolts, uint8_t channel = 0);
    void set_code(int64_t code, uint8_t channel, int64_t full_scale = 5000) override {
        set_millivolts(static_cast<uint32_t>((code * full_scale + full_scale / 2) / 1023), channel);
    }
    void set_reference(uint32_t millivolts) override;
    void put(const std::string& pin, bool high) override;
    /// Whether a pin is driven to a level.
    bool drives(const std::string& pin) const;
    bool is_high(const std::string& pin) const override;
    void in_cycles(uint64_t cycles, std::function<void()> action) override;
    void watch(const std::string& pin, std::function<void(bool high)> changed) override;
    void watch_drive(const std::string& pin, std::function<void(bool drives)> changed) override;
    /// Its registers are the first bytes of its memory.
    uint8_t memory(uint32_t address) const override;
    /// Past the program.
    void set_memory(uint32_t address, uint8_t byte) override;
    bool aligns() const override { return false; }
    void receive(char c) override;
    double share_of(const std::string& pin) const override;
    double hertz_of(const std::string& pin) const override;
    double pulse_of(const std::string& pin) const override;

    /// The bytes that outlive a loss of power.
    std::vector<uint8_t> eeprom() const;
    void set_eeprom(const std::vector<uint8_t>& bytes);

    /// What came out of the serial line.
    const std::string& serial() const { return serial_; }
    /// The same, and forgets it.
    std::string take_serial() { return std::exchange(serial_, {}); }
    /// Which of its lines; 0 until this is called.
    void listen_to(int line);

    /// Bytes that the program reads from GPIOR0, one after the other; 0 when they are used up.
    void feed(std::vector<uint8_t> bytes) {
        in_ = std::move(bytes);
        next_in_ = 0;
    }
    /// Bytes that the program has written to GPIOR1.
    const std::vector<uint8_t>& collected() const { return out_; }

  private:
    explicit AvrChip(const ChipFacts& facts);
    void listen_to_bits();
    void run_timer_1();
    void tell_edges();
    uint16_t port_of(const std::string& pin) const;
    struct Output;
    Output output_of(const std::string& pin) const;
    uint32_t compare_of(const Output& output) const;

    /// A pin whose edges the emulator does not tell of by itself.
    struct Edged {
        avr_t* avr;
        std::shared_ptr<avr_int_vector_t> vector;
        uint16_t mask_at;
        uint8_t bit;
        uint32_t level;
    };
    std::vector<std::unique_ptr<Edged>> edged_;
    /// The pins of a port that something outside holds, and at which levels; a bit each.
    struct Held {
        uint8_t pins = 0, levels = 0;
    };
    std::map<char, Held> held_;
    struct Watched {
        std::function<void(bool)> changed;
        int level = 0;
    };
    std::map<std::string, Watched> watched_, watched_drives_;
    avr_t* avr_ = nullptr;
    char line_ = '0';
    uint64_t asleep_ = 0;
    uint16_t lowest_stack_ = 0xffff;
    std::string serial_;
    int bits_left_ = 0; ///< of a character that comes by a timer
    uint8_t bits_ = 0;
    uint64_t timer_1_ = 0; ///< which setting of that timer is the newest
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
