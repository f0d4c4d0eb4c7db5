// SPDX-License-Identifier: MIT
#include "rig/files.hpp"

#include <fmt/format.h>

#include <cerrno>
#include <cstring>
#include <filesystem>
#include <unistd.h>

namespace zorilla::rig {

std::FILE* open_to_read(const std::string& path) {
    std::error_code ignored;
    if (std::filesystem::is_directory(path, ignored))
        throw InputError(fmt::format("{}: this is a directory, not a file", path));
    std::FILE* file = std::fopen(path.c_str(), "rb");
    if (file == nullptr)
        throw InputError(fmt::format("{}: cannot be opened: {}", path, std::strerror(errno)));
    return file;
}

std::string read_file(const std::string& path) {
    std::FILE* file = open_to_read(path);
    std::string text;
    char chunk[1 << 16];
    size_t got = 0;
    while ((got = std::fread(chunk, 1, sizeof chunk, file)) > 0)
        text.append(chunk, got);
    const bool failed = std::ferror(file) != 0;
    const int why = errno;
    std::fclose(file);
    if (failed)
        throw InputError(fmt::format("{}: cannot be read: {}", path, std::strerror(why)));
    return text;
}

OutputFile::OutputFile(std::string path) : path_(std::move(path)), temporary_(path_) {
    std::error_code ignored;
    const auto status = std::filesystem::status(path_, ignored);
    direct_ = std::filesystem::exists(status) && !std::filesystem::is_regular_file(status);
    if (std::filesystem::is_directory(status))
        throw InputError(fmt::format("{}: this is a directory, not a file", path_));
    if (!direct_)
        temporary_ += fmt::format(".{}.part", getpid());
    file_ = std::fopen(temporary_.c_str(), "wb");
    if (file_ == nullptr)
        throw InputError(fmt::format("{}: cannot be written: {}", path_, std::strerror(errno)));
}

OutputFile::~OutputFile() {
    if (file_ != nullptr)
        std::fclose(file_);
    if (!direct_ && !temporary_.empty())
        std::remove(temporary_.c_str());
}

void OutputFile::fail() {
    throw InputError(fmt::format("{}: cannot be written: {}; nothing was left under this name",
                                 path_, std::strerror(errno)));
}

void OutputFile::write(std::string_view text) {
    if (std::fwrite(text.data(), 1, text.size(), file_) != text.size())
        fail();
}

void OutputFile::commit() {
    const bool flushed = std::fflush(file_) == 0;
    const bool closed = std::fclose(file_) == 0;
    file_ = nullptr;
    if (!flushed || !closed)
        fail();
    if (!direct_ && std::rename(temporary_.c_str(), path_.c_str()) != 0)
        fail();
    temporary_.clear();
}

} // namespace zorilla::rig
