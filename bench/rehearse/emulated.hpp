// SPDX-License-Identifier: MIT
/// \file
/// An emulated chip, as a rehearsal sees it: pins, time, and memory.
#pragma once

#include <zorilla/board/chips/chip.hpp>

#include <cstdint>
#include <functional>
#include <map>
#include <memory>
#include <string>

namespace zorilla::bench {

class EmulatedChip {
  public:
    explicit EmulatedChip(const ChipFacts& facts) : facts_(facts) {}
    virtual ~EmulatedChip() = default;
    EmulatedChip(const EmulatedChip&) = delete;
    EmulatedChip& operator=(const EmulatedChip&) = delete;

    const ChipFacts& facts() const { return facts_; }
    uint64_t cycles_per_us() const { return facts_.hertz / 1'000'000; }
    uint64_t cycles_per_ms() const { return facts_.hertz / 1'000; }

    /// Goes on by a little, at most to the next thing that is due. False once the program ended.
    virtual bool step() = 0;
    virtual uint64_t cycles() const = 0;
    /// How many of them it has slept.
    virtual uint64_t asleep() const = 0;
    /// The most that its stack has taken, in bytes.
    virtual uint32_t stack() const = 0;

    /// Puts a voltage on a channel of which its converter makes just this code.
    /// \param full_scale  mV
    virtual void set_code(int64_t code, uint8_t channel, int64_t full_scale) = 0;
    /// The voltage on its pin for a reference, in mV.
    virtual void set_reference(uint32_t millivolts) = 0;
    /// The level that something outside puts on a pin, such as "PD2".
    virtual void put(const std::string& pin, bool high) = 0;
    /// The level that it puts there itself, whatever a timer does.
    virtual bool is_high(const std::string& pin) const = 0;
    /// Calls for each change of the level that a pin shows, also by a timer.
    virtual void watch(const std::string& pin, std::function<void(bool high)> changed) = 0;
    /// Calls when it begins to drive a pin, and when it lets it go.
    virtual void watch_drive(const std::string& pin, std::function<void(bool drives)> changed) = 0;
    /// A character comes in on its line.
    virtual void receive(char c) = 0;

    /// A byte of its memory.
    virtual uint8_t memory(uint32_t address) const = 0;
    virtual void set_memory(uint32_t address, uint8_t byte) = 0;
    /// Whether numbers in memory lie where their size divides.
    virtual bool aligns() const = 0;

    /// For how much of its time a pin is high, by the timer behind it.
    virtual double share_of(const std::string& pin) const = 0;
    /// How often it swings in a second, where a timer makes it; 0: not at all.
    virtual double hertz_of(const std::string& pin) const = 0;
    /// How long it is high at a time, in us, where a timer makes it.
    virtual double pulse_of(const std::string& pin) const = 0;

    /// Does something in so many cycles, exactly then.
    virtual void in_cycles(uint64_t cycles, std::function<void()> action) = 0;

    /// Called as a pass begins (1) and as it is over (2), and when.
    std::function<void(uint8_t mark, uint64_t cycle)> on_mark;

  protected:
    void due_in(uint64_t cycle, std::function<void()> action) {
        due_.emplace(cycle, std::move(action));
    }
    /// Does what is due. \return  the cycle of the next; 0 if there is none
    uint64_t do_what_is_due() {
        while (!due_.empty() && due_.begin()->first <= cycles()) {
            const std::function<void()> action = std::move(due_.begin()->second);
            due_.erase(due_.begin());
            action();
        }
        return due_.empty() ? 0 : due_.begin()->first;
    }

    uint64_t next_due() const { return due_.begin()->first; }

  private:
    const ChipFacts& facts_;
    std::multimap<uint64_t, std::function<void()>> due_;
};

/// The chip of a folder with a firmware that was built. Throws rig::InputError if it cannot be
/// emulated here.
/// \param line  which of the chip's it uses, by its name
std::unique_ptr<EmulatedChip> emulate(const ChipFacts& facts, const std::string& folder,
                                      const std::string& line);

} // namespace zorilla::bench
