// SPDX-License-Identifier: MIT
/// \file
/// The boot loader of a board that is not there, or a programmer beside it: what it answers to whom
/// programs it, in the protocol STK500 version 1 (Atmel, application note AVR061).
#pragma once

#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

namespace zorilla::bench {

class BootLoader {
  public:
    /// \param signature  of the chip; an ATmega328P has 1e 95 0f
    explicit BootLoader(std::vector<uint8_t> signature = {0x1e, 0x95, 0x0f})
        : signature_(std::move(signature)) {}

    /// A programmer, who hands the chip its own commands on, so that signature and fuses can be
    /// read (ATmega328P, data sheet, serial programming instruction set).
    void be_programmer(uint8_t extended_fuse) { extended_fuse_ = extended_fuse; }

    /// Bytes that came in; what it answers.
    std::string take(std::string_view bytes);
    /// Whether anybody has spoken to it.
    bool was_asked() const { return asked_; }
    /// Each reset begins anew; the flash stays.
    void reset();

    /// The flash below the boot loader itself.
    const std::vector<uint8_t>& flash() const { return flash_; }
    static constexpr size_t room = 32'256;

  private:
    size_t length_of_command() const;
    std::string answer();
    uint8_t of_chip() const;

    std::vector<uint8_t> signature_;
    std::vector<uint8_t> flash_ = std::vector<uint8_t>(room, 0xff);
    std::string waiting_; ///< of a command that is not whole yet
    size_t address_ = 0;
    int extended_fuse_ = -1; ///< none: a boot loader
    bool asked_ = false;
};

} // namespace zorilla::bench
