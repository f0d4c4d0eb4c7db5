// SPDX-License-Identifier: MIT
/// \file
/// An RP2040 in the emulator, which is a program of its own behind a pipe (rp2040.mjs).
#pragma once

#include "bench/rehearse/emulated.hpp"

#include <optional>
#include <set>
#include <string>
#include <vector>

namespace zorilla::bench {

class Rp2040Chip : public EmulatedChip {
  public:
    /// \param image  the program as it lies in the flash  \param line  which it uses, by its name
    /// Throws rig::InputError where the emulator's package is not there; where node is not, what is
    /// asked of it does.
    Rp2040Chip(const std::string& image, const std::string& line);
    ~Rp2040Chip() override;

    /// Runs up to the next event, or the next thing that is due, or a millisecond.
    bool step() override;
    uint64_t cycles() const override { return cycles_; }
    uint64_t asleep() const override { return asleep_; }
    uint32_t stack() const override { return stack_; }
    void set_code(int64_t code, uint8_t channel, int64_t full_scale) override;
    void set_reference(uint32_t) override {}
    void put(const std::string& pin, bool high) override;
    bool is_high(const std::string& pin) const override;
    void watch(const std::string& pin, std::function<void(bool high)> changed) override;
    void watch_drive(const std::string& pin, std::function<void(bool drives)> changed) override;
    void receive(char c) override;
    uint8_t memory(uint32_t address) const override;
    void set_memory(uint32_t address, uint8_t byte) override;
    bool aligns() const override { return true; }
    double share_of(const std::string& pin) const override;
    double hertz_of(const std::string& pin) const override;
    double pulse_of(const std::string& pin) const override;
    void in_cycles(uint64_t cycles, std::function<void()> action) override;

    /// What came out of its line since this was asked last.
    std::string take_serial();
    /// How often its watchdog has begun it anew.
    int resets() const { return resets_; }
    /// The plug is pulled, and put back in.
    void unplug() { tell("unplug"); }
    void plug() { tell("plug"); }
    /// The power goes in the middle of the write to the flash after so many more.
    void cut_after(int writes) { tell("cut " + std::to_string(writes)); }
    /// The power comes back.
    void restart() { tell("reset"); }
    std::string flash(uint32_t from, uint32_t count) const;

  private:
    struct Output;
    Output output_of(const std::string& pin) const;
    int number_of(const std::string& pin) const;
    void tell(const std::string& command) const;
    std::string ask(const std::string& command) const;
    [[noreturn]] static void has_ended();

    int in_ = -1, out_ = -1, process_ = -1; ///< of the other program
    mutable std::string coming_;
    uint64_t cycles_ = 0, asleep_ = 0;
    uint32_t stack_ = 0;
    int resets_ = 0;
    std::map<int, std::function<void(bool)>> watched_, watched_drives_;
    mutable std::string window_; ///< of its memory, as it was last looked at
    mutable uint32_t window_at_ = 0;
};

} // namespace zorilla::bench
