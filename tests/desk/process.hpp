// SPDX-License-Identifier: MIT
// Runs a program as a user does, and a place for its files.
#pragma once

#include <fmt/format.h>
#include <sys/wait.h>
#include <unistd.h>

#include <algorithm>
#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <sstream>
#include <string>
#include <string_view>

namespace desk {

inline std::string read_all(const std::filesystem::path& path) {
    std::ifstream file(path, std::ios::binary);
    std::ostringstream out;
    out << file.rdbuf();
    return out.str();
}

/// A directory that goes away with the test.
class Folder {
  public:
    Folder() {
        std::string pattern = std::filesystem::temp_directory_path() / "zorilla-test-XXXXXX";
        path_ = mkdtemp(pattern.data());
    }
    ~Folder() { std::filesystem::remove_all(path_); }
    Folder(const Folder&) = delete;
    Folder& operator=(const Folder&) = delete;

    std::string operator/(std::string_view name) const { return path_ / name; }
    std::string write(std::string_view name, std::string_view text) const {
        std::ofstream(path_ / name, std::ios::binary) << text;
        return path_ / name;
    }
    const std::filesystem::path& path() const { return path_; }

  private:
    std::filesystem::path path_;
};

struct Outcome {
    int status;
    std::string out;
    std::string err;
};

/// Runs a shell command line.
inline Outcome shell(const std::string& command) {
    const Folder folder;
    const int status = std::system(
        fmt::format("( {} ) > '{}' 2> '{}' < /dev/null", command, folder / "out", folder / "err")
            .c_str());
    return {WIFEXITED(status) ? WEXITSTATUS(status) : 128 + WTERMSIG(status),
            read_all(folder / "out"), read_all(folder / "err")};
}

/// Runs the command-line tool with these arguments, already quoted for a shell.
inline Outcome zorilla(const std::string& arguments) {
    return shell(std::string(ZORILLA_TOOL) + " " + arguments);
}

inline bool has(const std::string& text, std::string_view part) {
    return text.find(part) != std::string::npos;
}

inline long lines_of(const std::string& text) {
    return static_cast<long>(std::count(text.begin(), text.end(), '\n'));
}

} // namespace desk
