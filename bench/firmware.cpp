// SPDX-License-Identifier: MIT
#include "bench/firmware.hpp"

#include "bench/plot.hpp"
#include "bench/process.hpp"
#include "bench/wiring.hpp"
#include "rig/emit/cpp.hpp"
#include "rig/text/names.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <filesystem>
#include <fstream>
#include <sstream>

namespace zorilla::bench {

namespace {

constexpr const char* sums = ".written";
/// FNV-1a, 64 bits: enough to see that somebody has changed a file.
std::string sum_of(std::string_view text) {
    uint64_t sum = 0xcbf2'9ce4'8422'2325;
    for (const char c : text)
        sum = (sum ^ static_cast<uint8_t>(c)) * 0x100'0000'01b3;
    return fmt::format("{:016x}", sum);
}

std::string cmake_of(const ChipFacts& chip, const std::string& name) {
    const bool is_avr = chip.port_at != nullptr;
    return fmt::format(R"(# Builds {0} for the {1}: cmake -B build && cmake --build build
cmake_minimum_required(VERSION 3.25)
project({0} NONE)
find_package(Zorilla REQUIRED)
get_target_property(zorilla Zorilla::core INTERFACE_INCLUDE_DIRECTORIES)
)",
                       name, chip.title) +
           (is_avr ? fmt::format(R"(find_program(CLANG NAMES clang++-19 clang++ REQUIRED)
# The linker must not shrink calls (-mno-relax): clang's jumps within a function are not adjusted.
add_custom_command(
    OUTPUT firmware.elf firmware.hex
    COMMAND ${{CLANG}} --target=avr -mmcu={} -std=c++17 -Os -mno-relax -fno-exceptions
            -fno-rtti -ffunction-sections -fdata-sections -Wl,--gc-sections
            -isystem /usr/lib/avr/include -I${{zorilla}} ${{PROJECT_SOURCE_DIR}}/main.cpp -o firmware.elf
    COMMAND avr-objcopy -O ihex -R .eeprom firmware.elf firmware.hex
    DEPENDS main.cpp device.hpp
    VERBATIM)
add_custom_target(firmware ALL DEPENDS firmware.hex)
)",
                                 chip.core)
                   : fmt::format(R"(find_program(ARM_GCC NAMES arm-none-eabi-g++ REQUIRED)
add_custom_command(
    OUTPUT firmware.elf firmware.bin
    COMMAND ${{ARM_GCC}} -mcpu={} -mthumb -std=c++17 -Os -fno-exceptions -fno-rtti
            -ffunction-sections -fdata-sections -Wl,--gc-sections --specs=nano.specs -nostartfiles
            -I${{zorilla}} -T ${{zorilla}}/zorilla/board/rp2040/memory.ld
            ${{PROJECT_SOURCE_DIR}}/main.cpp -o firmware.elf
    COMMAND arm-none-eabi-objcopy -O binary firmware.elf firmware.bin
    DEPENDS main.cpp device.hpp
    VERBATIM)
# zorilla firmware --build makes a firmware.uf2 of it too.
add_custom_target(firmware ALL DEPENDS firmware.bin)
)",
                                 chip.core));
}

/// What a file of the folder holds; unlike an input, it may be written anew.
std::string held_by(const std::string& path) {
    std::ifstream file(path, std::ios::binary);
    std::ostringstream out;
    out << file.rdbuf();
    return out.str();
}

/// Notes how each file was written.
void sum_up(FirmwareFolder& folder) {
    std::string all;
    for (const auto& [file, content] : folder.files)
        all += fmt::format("{} {}\n", sum_of(content), file);
    folder.files[sums] = all;
}

} // namespace

FirmwareFolder firmware_folder(const rig::Rig& rig, const std::string& stem, std::string_view text,
                               const rig::FirmwarePlan& plan) {
    FirmwareFolder out;
    std::string name = rig::plain_name(stem);
    if (rig::is_cpp_word(name) || name == "zorilla")
        name += "_rig";
    const rig::Firmware firmware = rig::firmware_of(rig, name, text, plan);
    out.gaps = firmware.gaps;
    if (!out.gaps.empty())
        return out;
    out.files = {
        {"device.hpp", firmware.device},
        {"main.cpp", firmware.main},
        {"CMakeLists.txt", cmake_of(*rig.chip_facts(), name)},
        {"wiring.md", wiring_page(rig)},
        {"wiring.svg", plot::output_of("dot -Tsvg", wiring_dot(rig), "Graphviz", "graphviz")}};
    sum_up(out);
    return out;
}

FirmwareFolder looking_folder(const std::string& main) {
    FirmwareFolder out;
    out.files = {{"main.cpp", main}};
    sum_up(out);
    return out;
}

std::string_view purpose_of(const std::string& file) {
    return file == "device.hpp"   ? "what it senses, decides and drives"
           : file == "main.cpp"   ? "its pins, and the loop"
           : file == "wiring.md"  ? "which part goes to which leg of the chip, and through what"
           : file == "wiring.svg" ? "the same as a picture"
                                  : "builds it where the library is installed";
}

std::string changed_by_hand(const std::string& folder, const FirmwareFolder& written) {
    const auto path = [&folder](const std::string& file) { return folder + "/" + file; };
    std::map<std::string, std::string> known;
    if (std::filesystem::exists(path(sums))) {
        std::istringstream list(held_by(path(sums)));
        for (std::string sum, file; list >> sum >> file;)
            known[file] = sum;
    }
    for (const auto& [file, content] : written.files) {
        if (file == sums || !std::filesystem::exists(path(file)))
            continue;
        const std::string there = held_by(path(file));
        if (there != content && known[file] != sum_of(there))
            return path(file);
    }
    return {};
}

} // namespace zorilla::bench
