// SPDX-License-Identifier: MIT
/// \file
/// A folder with the firmware of a rig: written, looked after, and built.
#pragma once

#include "rig/emit/device.hpp"

#include <map>
#include <string>
#include <vector>

namespace zorilla::bench {

struct FirmwareFolder {
    std::map<std::string, std::string> files;
    std::vector<rig::Firmware::Gap> gaps; ///< with one of these there are no files
};

/// \param stem  of the rig file's name  \param text  the file
FirmwareFolder firmware_folder(const rig::Rig& rig, const std::string& stem, std::string_view text,
                               const rig::FirmwarePlan& plan = {});

/// The same of a program without a device. \param main  its main.cpp
FirmwareFolder looking_folder(const std::string& main);

/// What a file of the folder is for.
std::string_view purpose_of(const std::string& file);

/// A file that would be overwritten though a person has written or changed it; empty if none.
std::string changed_by_hand(const std::string& folder, const FirmwareFolder& written);

/// The blocks of a program for a drive, as boot loaders offer it: 256 bytes each, with where they
/// go. \param image  as it lies in the flash from its start
std::string uf2_of(const std::string& image);

struct Built {
    std::string problem; ///< why it could not be built
    uint32_t flash = 0, ram = 0;
    std::string file; ///< what goes onto the chip, in the folder
    std::string fits; ///< why it does not fit the chip; empty if it does
};
/// Compiles a folder to firmware.elf in it, and to what goes onto the chip.
Built build_firmware(const ChipFacts& chip, const std::string& folder);

} // namespace zorilla::bench
