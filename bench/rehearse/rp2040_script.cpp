// SPDX-License-Identifier: MIT
#include "bench/rehearse/rp2040_script.hpp"

#include "rig/text/files.hpp"

#include <filesystem>

// NOLINTBEGIN: the assembler reads a file as it is; there is no other way to that yet.
asm(".section .rodata\n"
    ".global zorilla_emulator\n"
    "zorilla_emulator:\n"
    ".incbin \"" ZORILLA_EMULATOR "\"\n"
    ".global zorilla_emulator_end\n"
    "zorilla_emulator_end:\n"
    ".previous\n");
extern "C" const char zorilla_emulator[], zorilla_emulator_end[];
// NOLINTEND

namespace zorilla::bench {

std::string_view emulator_script() {
    return {zorilla_emulator, static_cast<size_t>(zorilla_emulator_end - zorilla_emulator)};
}

std::string emulator_modules() {
    std::error_code error;
    for (const std::filesystem::path& place :
         {std::filesystem::path("node_modules"), std::filesystem::path(ZORILLA_NODE_MODULES)})
        if (std::filesystem::exists(place / "rp2040js", error))
            return std::filesystem::absolute(place).string();
    throw rig::InputError("to run an rp2040 on the desk, install node and, in this folder, its "
                          "emulator (apt-get install nodejs npm; npm install rp2040js)");
}

} // namespace zorilla::bench
