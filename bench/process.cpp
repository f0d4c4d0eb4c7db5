// SPDX-License-Identifier: MIT
#include "bench/process.hpp"

#include <sys/wait.h>

#include <array>
#include <cstdio>

namespace zorilla::bench {

std::string shell_word(const std::string& text) {
    std::string out = "'";
    for (const char c : text)
        out += c == '\'' ? std::string("'\\''") : std::string(1, c);
    return out + "'";
}

std::pair<int, std::string> run_process(const std::string& command) {
    std::string out;
    FILE* pipe = popen((command + " 2>&1").c_str(), "r");
    if (pipe == nullptr)
        return {127, "no process can be started"};
    std::array<char, 4096> buffer{};
    while (const size_t count = fread(buffer.data(), 1, buffer.size(), pipe))
        out.append(buffer.data(), count);
    const int status = pclose(pipe);
    return {WIFEXITED(status) ? WEXITSTATUS(status) : 128, out};
}

} // namespace zorilla::bench
