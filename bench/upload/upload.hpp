// SPDX-License-Identifier: MIT
/// \file
/// A program onto a chip, by avrdude.
#pragma once

#include <cstdint>
#include <string>

namespace zorilla::bench {

struct UploadPlan {
    std::string hex;  ///< the program, as an Intel hex file
    std::string port; ///< of the board's boot loader, or of the programmer; may be empty for that
    int baud = 115'200;
    std::string chip = "atmega328p";
    std::string programmer; ///< as avrdude calls it; empty: the chip's own boot loader
};

/// Below which voltage a chip holds itself in reset, as its fuses say: without it a chip whose
/// supply goes may write what it likes, also to what is to be kept. (Data sheets of the chips: fuse
/// bytes, in the chapter on memory programming, and BODLEVEL, in that on electrical
/// characteristics.)
struct BrownOut {
    bool known = false;
    int millivolts = 0; ///< 0: it is off
    int wanted = 0;     ///< at 5 V: from where on it is good for its clock, or the level next to it
    std::string set;    ///< what sets it
};

struct Uploaded {
    std::string problem; ///< and what to look at
    uint32_t bytes = 0;  ///< written, and read back
    BrownOut brown_out;  ///< by a programmer; a boot loader cannot read it
};

/// How many bytes a program has. \throws rig::InputError  if that is no hex file
uint32_t bytes_of_hex(const std::string& path);

/// Resets the chip, asks for its signature, writes, and compares.
Uploaded upload(const UploadPlan& plan);

} // namespace zorilla::bench
