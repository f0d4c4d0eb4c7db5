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
/// What is left for the stack at least; of little RAM a quarter.
uint32_t least_stack(const ChipFacts& chip) { return std::min(chip.ram / 4, 300U); }

/// FNV-1a, 64 bits: enough to see that somebody has changed a file.
std::string sum_of(std::string_view text) {
    uint64_t sum = 0xcbf2'9ce4'8422'2325;
    for (const char c : text)
        sum = (sum ^ static_cast<uint8_t>(c)) * 0x100'0000'01b3;
    return fmt::format("{:016x}", sum);
}

std::string cmake_of(const ChipFacts& chip, const std::string& name) {
    return fmt::format(R"(# Builds {0} for the {1}: cmake -B build && cmake --build build
cmake_minimum_required(VERSION 3.25)
project({0} NONE)
find_package(Zorilla REQUIRED)
get_target_property(zorilla Zorilla::core INTERFACE_INCLUDE_DIRECTORIES)
find_program(CLANG NAMES clang++-19 clang++ REQUIRED)
# The linker must not shrink calls (-mno-relax): clang's jumps within a function are not adjusted.
add_custom_command(
    OUTPUT firmware.elf firmware.hex
    COMMAND ${{CLANG}} --target=avr -mmcu={2} -std=c++17 -Os -mno-relax -fno-exceptions
            -fno-rtti -ffunction-sections -fdata-sections -Wl,--gc-sections
            -isystem /usr/lib/avr/include -I${{zorilla}} ${{PROJECT_SOURCE_DIR}}/main.cpp -o firmware.elf
    COMMAND avr-objcopy -O ihex -R .eeprom firmware.elf firmware.hex
    DEPENDS main.cpp device.hpp
    VERBATIM)
add_custom_target(firmware ALL DEPENDS firmware.hex)
)",
                       name, chip.title, chip.core);
}

/// What a file of the folder holds; unlike an input, it may be written anew.
std::string held_by(const std::string& path) {
    std::ifstream file(path, std::ios::binary);
    std::ostringstream out;
    out << file.rdbuf();
    return out.str();
}

/// Where the library's headers are: beside the tool as it is installed, or where it was built.
std::string headers() {
    std::error_code error;
    const std::filesystem::path tool = std::filesystem::read_symlink("/proc/self/exe", error);
    for (const std::filesystem::path& place :
         {tool.parent_path().parent_path() / "include", std::filesystem::path(ZORILLA_HEADERS)})
        if (std::filesystem::exists(place / "zorilla/zorilla.hpp", error))
            return place.string();
    return {};
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

Built build_firmware(const ChipFacts& chip, const std::string& folder) {
    Built out;
    const std::string include = headers();
    if (include.empty()) {
        out.problem = "the library's headers are not found beside this tool; install it with its "
                      "headers (cmake --install)";
        return out;
    }
    const std::string elf = folder + "/firmware.elf";
    const auto [status, said] = run_process(
        fmt::format("clang++-19 --target=avr -mmcu={} -std=c++17 -Os -mno-relax -fno-exceptions ",
                    chip.core) +
        "-fno-rtti -ffunction-sections -fdata-sections -Wl,--gc-sections -Wall -Wextra "
        "-isystem /usr/lib/avr/include -I" +
        shell_word(include) + " " + shell_word(folder + "/main.cpp") + " -o " + shell_word(elf));
    if (status != 0) {
        const bool missing = said.find("not found") != std::string::npos;
        out.problem = missing ? "to build firmware, install clang-19, avr-libc and binutils-avr "
                                "(apt-get install clang-19 avr-libc binutils-avr)"
                              : fmt::format("{}/main.cpp does not compile:\n{}", folder, said);
        return out;
    }
    // in r30, SPL; in r31, SPH: it makes room on the stack for arguments of a call.
    if (held_by(elf).find("\xed\xb7\xfe\xb7") != std::string::npos) {
        out.problem =
            fmt::format("{}: clang has put arguments of a call on the stack, which it does "
                        "wrong for this chip: pass large ones by reference, or fewer of "
                        "them (docs/firmware.md)",
                        elf);
        return out;
    }
    const auto [sized, sizes] = run_process("avr-size -A " + shell_word(elf));
    const auto [copied, why] = run_process("avr-objcopy -O ihex -R .eeprom " + shell_word(elf) +
                                           " " + shell_word(folder + "/firmware.hex"));
    if (sized != 0 || copied != 0) {
        out.problem = "to build firmware, install binutils-avr (apt-get install binutils-avr): " +
                      (copied != 0 ? why : sizes);
        return out;
    }
    std::istringstream lines(sizes);
    std::string section;
    for (std::string line; std::getline(lines, line);) {
        std::istringstream fields(line);
        uint32_t size = 0;
        if (!(fields >> section >> size))
            continue;
        if (section == ".text" || section == ".data")
            out.flash += size;
        if (section == ".data" || section == ".bss")
            out.ram += size;
    }
    if (out.flash > chip.flash)
        out.fits = fmt::format("it takes {} bytes of flash, and the chip has {}: leave parts out, "
                               "or give tables a smaller \"range\" or less \"accuracy\"",
                               out.flash, chip.flash);
    else if (out.ram + least_stack(chip) > chip.ram)
        out.fits = fmt::format("its variables take {} bytes of RAM, which leaves less than {} of "
                               "{} for the stack: leave parts out",
                               out.ram, least_stack(chip), chip.ram);
    return out;
}

} // namespace zorilla::bench
