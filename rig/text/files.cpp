// SPDX-License-Identifier: MIT
#include "rig/text/files.hpp"

#include <fmt/format.h>

#include <cerrno>
#include <csignal>
#include <cstring>
#include <fcntl.h>
#include <filesystem>
#include <optional>
#include <set>
#include <sys/stat.h>
#include <unistd.h>

namespace zorilla::rig {

namespace {

/// Files by device and inode: what they are called does not matter.
using Identity = std::pair<dev_t, ino_t>;
std::set<Identity> read_files;
std::set<std::string> written_files;

std::optional<Identity> identity_of(const std::string& path) {
    struct stat is {};
    if (stat(path.c_str(), &is) != 0 || !S_ISREG(is.st_mode))
        return std::nullopt;
    return Identity{is.st_dev, is.st_ino};
}

// What is to be removed when a signal ends the program: plain memory, since a handler may touch
// nothing else.
constexpr size_t slots = 8;
char temporary_paths[slots][4096];

void remove_and_end(int signal) {
    for (const auto& path : temporary_paths)
        if (path[0] != '\0')
            unlink(path);
    struct sigaction action {};
    action.sa_handler = SIG_DFL;
    sigaction(signal, &action, nullptr);
    raise(signal);
}

void remove_on_signals() {
    static bool done = false;
    if (done)
        return;
    done = true;
    for (const int signal : {SIGINT, SIGTERM, SIGHUP}) {
        struct sigaction before {};
        sigaction(signal, nullptr, &before);
        if (before.sa_handler != SIG_DFL)
            continue; // ignored, or somebody else ends the program
        struct sigaction action {};
        action.sa_handler = remove_and_end;
        sigaction(signal, &action, nullptr);
    }
}

} // namespace

TemporaryFile::TemporaryFile(std::string pattern) : path_(std::move(pattern)) {
    remove_on_signals();
    while (slot_ < slots && temporary_paths[slot_][0] != '\0')
        ++slot_;
    descriptor_ = mkostemp(path_.data(), O_CLOEXEC);
    if (descriptor_ < 0)
        throw InputError(fmt::format("{}: cannot be written: {}", path_, std::strerror(errno)));
    if (slot_ < slots && path_.size() < sizeof temporary_paths[slot_])
        std::memcpy(temporary_paths[slot_], path_.c_str(), path_.size() + 1);
}
TemporaryFile::~TemporaryFile() {
    if (!path_.empty())
        unlink(path_.c_str());
    if (slot_ < slots)
        temporary_paths[slot_][0] = '\0';
    if (descriptor_ >= 0)
        close(descriptor_);
}
bool TemporaryFile::rename_to(const std::string& path) {
    if (std::rename(path_.c_str(), path.c_str()) != 0)
        return false;
    if (slot_ < slots)
        temporary_paths[slot_][0] = '\0';
    path_.clear();
    return true;
}

void check_output(const std::string& path) {
    const auto identity = identity_of(path);
    if (identity && read_files.count(*identity) != 0)
        throw InputError(fmt::format("{}: is read by this very command, and would be lost; choose "
                                     "another name",
                                     path));
    std::error_code ignored;
    if (written_files.count(std::filesystem::weakly_canonical(path, ignored).string()) != 0)
        throw InputError(
            fmt::format("{}: is written by this command already; choose another name", path));
}

std::string one_line(std::string_view text) {
    std::string out;
    for (const char c : text)
        out += static_cast<unsigned char>(c) < 0x20 || c == 0x7f ? ' ' : c;
    return out;
}

std::FILE* open_to_read(const std::string& path) {
    std::error_code ignored;
    if (std::filesystem::is_directory(path, ignored))
        throw InputError(fmt::format("{}: this is a directory, not a file", path));
    std::FILE* file = std::fopen(path.c_str(), "rbe");
    if (file == nullptr)
        throw InputError(fmt::format("{}: cannot be opened: {}", path, std::strerror(errno)));
    if (const auto identity = identity_of(path))
        read_files.insert(*identity);
    return file;
}

std::string read_file(const std::string& path) {
    std::FILE* file = open_to_read(path);
    std::string text;
    char chunk[1 << 16];
    size_t got = 0;
    while (text.size() <= largest_file && (got = std::fread(chunk, 1, sizeof chunk, file)) > 0)
        text.append(chunk, got);
    const bool failed = std::ferror(file) != 0;
    const int why = errno;
    std::fclose(file);
    if (failed)
        throw InputError(fmt::format("{}: cannot be read: {}", path, std::strerror(why)));
    if (text.size() > largest_file)
        throw InputError(fmt::format("{}: is larger than {} MiB, and cannot be what is wanted here",
                                     path, largest_file >> 20));
    return text;
}

OutputFile::OutputFile(std::string path, bool replaces) : path_(std::move(path)), target_(path_) {
    if (!replaces)
        check_output(path_);
    std::error_code ignored;
    const auto status = std::filesystem::status(path_, ignored);
    if (std::filesystem::is_directory(status))
        throw InputError(fmt::format("{}: this is a directory, not a file", path_));
    const bool there = std::filesystem::exists(status);
    if (there && !std::filesystem::is_regular_file(status)) {
        file_ = std::fopen(path_.c_str(), "wbe");
        if (file_ == nullptr)
            throw InputError(fmt::format("{}: cannot be written: {}", path_, std::strerror(errno)));
        return;
    }
    // A file that may not be written is not replaced either.
    if (there && access(path_.c_str(), W_OK) != 0)
        throw InputError(fmt::format("{}: cannot be written: {}", path_, std::strerror(errno)));
    target_ = std::filesystem::weakly_canonical(path_, ignored).string();
    if (target_.empty())
        target_ = path_;
    try {
        temporary_ = std::make_unique<TemporaryFile>(target_ + ".XXXXXX");
    } catch (const InputError&) {
        throw InputError(fmt::format("{}: cannot be written: {}", path_, std::strerror(errno)));
    }
    struct stat is {};
    const mode_t mask = umask(0);
    umask(mask);
    fchmod(temporary_->descriptor(),
           stat(target_.c_str(), &is) == 0 ? is.st_mode & 07777 : 0666 & ~mask);
    file_ = fdopen(dup(temporary_->descriptor()), "wb");
    if (file_ == nullptr)
        fail();
    written_files.insert(target_);
}

OutputFile::~OutputFile() {
    if (file_ != nullptr)
        std::fclose(file_);
    written_files.erase(target_);
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
    if (temporary_ && !temporary_->rename_to(target_))
        fail();
}

} // namespace zorilla::rig
