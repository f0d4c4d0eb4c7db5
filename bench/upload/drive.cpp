// SPDX-License-Identifier: MIT
#include "bench/upload/drive.hpp"

#include "rig/text/files.hpp"

#include <fmt/format.h>

#include <fcntl.h>
#include <mntent.h>
#include <unistd.h>

#include <cstdio>
#include <filesystem>
#include <fstream>

namespace zorilla::bench {

namespace {

constexpr const char* info = "INFO_UF2.TXT";

/// Its Board-ID; empty if it is no such drive.
std::string board_of(const std::string& path) {
    std::ifstream file(path + "/" + info);
    for (std::string line; std::getline(file, line);)
        if (line.rfind("Board-ID:", 0) == 0) {
            std::string out = line.substr(9);
            out.erase(0, out.find_first_not_of(' '));
            return out.substr(0, out.find_last_not_of(" \r") + 1);
        }
    return {};
}

std::vector<std::string> mounted() {
    std::vector<std::string> out;
    FILE* const list = setmntent("/proc/mounts", "r");
    if (list == nullptr)
        return out;
    while (const mntent* const one = getmntent(list))
        if (std::string_view(one->mnt_type) == "vfat" || std::string_view(one->mnt_type) == "msdos")
            out.emplace_back(one->mnt_dir);
    endmntent(list);
    return out;
}

} // namespace

std::vector<Drive> drives(const std::string& under) {
    std::vector<std::string> places = mounted();
    std::error_code error;
    if (!under.empty()) {
        places = {under};
        for (const auto& entry : std::filesystem::directory_iterator(under, error))
            places.push_back(entry.path().string());
    }
    std::vector<Drive> out;
    for (const std::string& place : places)
        if (const std::string board = board_of(place); !board.empty())
            out.push_back({place, board});
    return out;
}

size_t copy_to_drive(const std::string& uf2, const Drive& drive) {
    const std::string blocks = rig::read_file(uf2);
    const bool is_one =
        blocks.size() >= 512 && blocks.size() % 512 == 0 && blocks.compare(0, 4, "UF2\n") == 0;
    if (!is_one)
        throw rig::InputError(uf2 + ": is no .uf2 file; zorilla firmware --build writes one for an "
                                    "rp2040");
    if (drive.board.rfind("RPI-RP2", 0) != 0)
        throw rig::InputError(fmt::format("{}: says that it is a \"{}\", and the program is for an "
                                          "RP2040",
                                          drive.path, drive.board));
    const std::string path = drive.path + "/" + std::filesystem::path(uf2).filename().string();
    const int file = open(path.c_str(), O_WRONLY | O_CREAT | O_TRUNC, 0644);
    if (file < 0)
        throw rig::InputError(
            fmt::format("{}: cannot be written; may you write to that drive?", path));
    size_t at = 0;
    while (at < blocks.size()) {
        const ssize_t count = write(file, blocks.data() + at, blocks.size() - at);
        if (count <= 0)
            break;
        at += static_cast<size_t>(count);
    }
    // The chip starts with the last block, and its drive is gone: then this fails, and need not.
    fsync(file);
    close(file);
    if (at < blocks.size())
        throw rig::InputError(
            fmt::format("{}: only {} of {} bytes could be written", path, at, blocks.size()));
    return blocks.size() / 2;
}

} // namespace zorilla::bench
