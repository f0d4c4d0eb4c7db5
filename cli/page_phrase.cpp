// SPDX-License-Identifier: MIT
#include "cli/page_phrase.hpp"

#include "bench/web/door.hpp"
#include "cli/live_device.hpp"
#include "rig/text/files.hpp"

#include <termios.h>
#include <unistd.h>

#include <cstdio>

namespace zorilla::cli {

namespace {

/// What somebody types without its being shown.
std::string typed() {
    termios before{};
    tcgetattr(STDIN_FILENO, &before);
    termios hidden = before;
    hidden.c_lflag &= ~static_cast<tcflag_t>(ECHO);
    tcsetattr(STDIN_FILENO, TCSAFLUSH, &hidden);
    std::fputs("A pass phrase for the page, of at least eight characters: ", stderr);
    std::string out;
    for (int c = std::getchar(); c != '\n' && c != EOF; c = std::getchar())
        out += static_cast<char>(c);
    tcsetattr(STDIN_FILENO, TCSAFLUSH, &before);
    std::fputc('\n', stderr);
    return out;
}

} // namespace

std::string page_phrase(const std::string& address, const std::string& file) {
    std::string out;
    if (!file.empty())
        out = first_line(file);
    else if (bench::web_plan(address, "").is_only_here())
        return "";
    else if (isatty(STDIN_FILENO) != 0)
        out = typed();
    else
        throw rig::InputError("--page " + address +
                              ": others can reach that; give a file with a pass phrase, such as "
                              "--page-phrase phrase.txt");
    if (out.size() < 8)
        throw rig::InputError((file.empty() ? std::string("--page") : file) +
                              ": a pass phrase has at least eight characters");
    return out;
}

} // namespace zorilla::cli
