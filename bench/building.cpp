// SPDX-License-Identifier: MIT
// A folder with firmware, compiled.
#include "bench/firmware.hpp"
#include "bench/process.hpp"
#include "rig/text/files.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <filesystem>
#include <fstream>
#include <sstream>

namespace zorilla::bench {

namespace {

/// What is left for the stack at least; of little RAM a quarter.
uint32_t least_stack(const ChipFacts& chip) { return std::min(chip.ram / 4, 300U); }

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

/// How a family of chips is compiled for.
struct Tools {
    std::string compiler; ///< up to the folders of headers
    std::string prefix;   ///< of what looks at the result
    std::string packages;
    std::vector<std::string> flash, ram; ///< the sections of each
};
Tools tools_of(const ChipFacts& chip, const std::string& include) {
    const std::string common = "-std=c++17 -Os -fno-exceptions -fno-rtti -ffunction-sections "
                               "-fdata-sections -Wl,--gc-sections -Wall -Wextra ";
    if (chip.port_at != nullptr)
        return {fmt::format("clang++-19 --target=avr -mmcu={} {}-mno-relax "
                            "-isystem /usr/lib/avr/include ",
                            chip.core, common),
                "avr-",
                "clang-19 avr-libc binutils-avr",
                {".text", ".data"},
                {".data", ".bss"}};
    return {fmt::format("arm-none-eabi-g++ -mcpu={} -mthumb {}--specs=nano.specs -nostartfiles "
                        "-T {} ",
                        chip.core, common, shell_word(include + "/zorilla/board/rp2040/memory.ld")),
            "arm-none-eabi-",
            "gcc-arm-none-eabi libstdc++-arm-none-eabi-newlib",
            {".boot", ".vectors", ".text", ".data"},
            {".data", ".bss"}};
}

std::string content_of(const std::string& path) {
    std::ifstream file(path, std::ios::binary);
    std::ostringstream out;
    out << file.rdbuf();
    return out.str();
}

void append(std::string& out, uint32_t word) {
    for (int i = 0; i < 4; ++i)
        out += static_cast<char>(word >> 8 * i);
}

bool is_among(const std::string& word, const std::vector<std::string>& all) {
    return std::find(all.begin(), all.end(), word) != all.end();
}

} // namespace

std::string uf2_of(const std::string& image) {
    constexpr uint32_t payload = 256, flash = 0x1000'0000, family = 0xe48b'ff56;
    const auto blocks = static_cast<uint32_t>((image.size() + payload - 1) / payload);
    std::string out;
    for (uint32_t i = 0; i < blocks; ++i) {
        std::string data = image.substr(size_t{i} * payload, payload);
        data.resize(476, '\0');
        append(out, 0x0a32'4655);
        append(out, 0x9e5d'5157);
        append(out, 0x2000); // the family stands in it
        append(out, flash + i * payload);
        append(out, payload);
        append(out, i);
        append(out, blocks);
        append(out, family);
        out += data;
        append(out, 0x0ab1'6f30);
    }
    return out;
}

Built build_firmware(const ChipFacts& chip, const std::string& folder) {
    Built out;
    const std::string include = headers();
    if (include.empty()) {
        out.problem = "the library's headers are not found beside this tool; install it with its "
                      "headers (cmake --install)";
        return out;
    }
    const Tools tools = tools_of(chip, include);
    const bool is_avr = chip.port_at != nullptr;
    const std::string elf = folder + "/firmware.elf";
    const auto [status, said] =
        run_process(tools.compiler + "-I" + shell_word(include) + " " +
                    shell_word(folder + "/main.cpp") + " -o " + shell_word(elf));
    if (status != 0) {
        const bool missing = said.find("not found") != std::string::npos;
        out.problem = missing ? fmt::format("to build firmware, install {0} (apt-get install {0})",
                                            tools.packages)
                              : fmt::format("{}/main.cpp does not compile:\n{}", folder, said);
        return out;
    }
    // in r30, SPL; in r31, SPH: it makes room on the stack for arguments of a call.
    if (is_avr && content_of(elf).find("\xed\xb7\xfe\xb7") != std::string::npos) {
        out.problem =
            fmt::format("{}: clang has put arguments of a call on the stack, which it does "
                        "wrong for this chip: pass large ones by reference, or fewer of "
                        "them (docs/firmware.md)",
                        elf);
        return out;
    }
    const auto [sized, sizes] = run_process(tools.prefix + "size -A " + shell_word(elf));
    const auto [copied, why] =
        run_process(tools.prefix + (is_avr ? "objcopy -O ihex -R .eeprom " + shell_word(elf) + " " +
                                                 shell_word(folder + "/firmware.hex")
                                           : "objcopy -O binary " + shell_word(elf) + " " +
                                                 shell_word(folder + "/firmware.bin")));
    if (sized != 0 || copied != 0) {
        out.problem =
            fmt::format("to build firmware, install {0} (apt-get install {0}): ", tools.packages) +
            (copied != 0 ? why : sizes);
        return out;
    }
    out.file = "firmware.hex";
    if (!is_avr) {
        out.file = "firmware.uf2";
        rig::OutputFile file(folder + "/firmware.uf2");
        file.write(uf2_of(content_of(folder + "/firmware.bin")));
        file.commit();
    }
    std::istringstream lines(sizes);
    std::string section;
    for (std::string line; std::getline(lines, line);) {
        std::istringstream fields(line);
        uint32_t size = 0;
        if (!(fields >> section >> size))
            continue;
        out.flash += is_among(section, tools.flash) ? size : 0;
        out.ram += is_among(section, tools.ram) ? size : 0;
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
