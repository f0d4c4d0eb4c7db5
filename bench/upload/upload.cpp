// SPDX-License-Identifier: MIT
#include "bench/upload/upload.hpp"

#include "bench/port.hpp"
#include "bench/process.hpp"
#include "rig/text/files.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <poll.h>
#include <sys/file.h>
#include <sys/ioctl.h>
#include <termios.h>
#include <unistd.h>

#include <array>
#include <cerrno>
#include <chrono>
#include <cstring>
#include <map>
#include <optional>
#include <sstream>
#include <thread>
#include <tuple>

namespace zorilla::bench {

namespace {

using std::chrono::milliseconds;

std::optional<speed_t> speed_of(int baud) {
    const std::map<int, speed_t> speeds = {
        {9600, B9600},      {19'200, B19200},   {38'400, B38400},   {57'600, B57600},
        {115'200, B115200}, {230'400, B230400}, {500'000, B500000}, {1'000'000, B1000000}};
    const auto found = speeds.find(baud);
    return found == speeds.end() ? std::nullopt : std::optional(found->second);
}

/// The line to a boot loader, to ask who is there before anything is written.
class Asking {
  public:
    ~Asking() {
        if (port_ >= 0)
            close(port_);
    }
    /// \return  why it cannot be opened; empty if it can
    std::string open(const std::string& path, speed_t speed) {
        // NOLINTNEXTLINE: open has a third argument only with O_CREAT
        port_ = ::open(path.c_str(), O_RDWR | O_NOCTTY | O_NONBLOCK | O_CLOEXEC);
        if (port_ < 0)
            return std::strerror(errno);
        termios settings{};
        if (tcgetattr(port_, &settings) != 0)
            return "it is no serial port";
        if (flock(port_, LOCK_EX | LOCK_NB) != 0 && errno == EWOULDBLOCK)
            return "another program reads it, such as zorilla capture; end that first";
        cfmakeraw(&settings);
        settings.c_cflag |= CLOCAL | CREAD | HUPCL; // who opens it next resets the chip again
        cfsetspeed(&settings, speed);
        tcsetattr(port_, TCSANOW, &settings);
        return {};
    }
    /// A pulse on DTR, which a capacitor hands to the chip's reset. Where there is no such line,
    /// the one who stands in for a board takes the opening as a reset.
    void reset() {
        const int lines = TIOCM_DTR | TIOCM_RTS;
        ioctl(port_, TIOCMBIC, &lines);
        std::this_thread::sleep_for(milliseconds(100));
        ioctl(port_, TIOCMBIS, &lines);
        std::this_thread::sleep_for(milliseconds(100));
        tcflush(port_, TCIOFLUSH);
    }
    /// What comes back of a command: its end is known by its length.
    std::string ask(std::string_view command, size_t length) {
        if (write(port_, command.data(), command.size()) < 0)
            return {};
        std::string out;
        const auto until = std::chrono::steady_clock::now() + milliseconds(300);
        while (out.size() < length && std::chrono::steady_clock::now() < until) {
            pollfd poller{port_, POLLIN, 0};
            std::array<char, 64> buffer{};
            if (poll(&poller, 1, 20) > 0)
                if (const ssize_t got = read(port_, buffer.data(), buffer.size()); got > 0)
                    out.append(buffer.data(), static_cast<size_t>(got));
        }
        return out;
    }

  private:
    int port_ = -1;
};

/// What avrdude calls a chip.
std::string_view part_of(std::string_view chip) {
    return chip == "atmega2560" ? "m2560" : chip == "attiny85" ? "t85" : "m328p";
}

const std::string answers_in_sync = "\x14\x10";

/// Why nothing may be written; empty if the right chip answers.
std::string who_is_there(const UploadPlan& plan) {
    const auto speed = speed_of(plan.baud);
    if (!speed)
        return fmt::format("{} baud is no speed of a boot loader; most have 115200 or 57600",
                           plan.baud);
    // A busy machine may come too late for the boot loader, which waits for half a second only.
    constexpr int resets = 3;
    const std::string wanted = "\x14\x1e\x95\x0f\x10";
    std::string heard, said;
    bool answers = false;
    for (int i = 0; i < resets && said.size() < wanted.size(); ++i) {
        Asking line;
        if (const std::string reason = line.open(plan.port, *speed); !reason.empty())
            return cannot_be_opened(plan.port, reason);
        line.reset();
        bool in_step = false;
        for (int tries = 0; tries < 3 && !in_step; ++tries) {
            const std::string now = line.ask("0 ", 2);
            in_step = now.size() >= 2 && now.substr(now.size() - 2) == answers_in_sync;
            heard += now;
        }
        if (in_step)
            said = line.ask("u ", 5);
        answers = answers || in_step;
    }
    if (!answers)
        return fmt::format(
            "{}: {} at {} baud. Look at these:\n"
            "  is another program reading the port, such as zorilla capture? End it\n"
            "  does the boot loader have another speed? Try --baud {}\n"
            "  does the board reset when the port is opened? If not, press its button as you start "
            "this\n"
            "  has the chip a boot loader at all? If not, use a programmer, and say which: "
            "--programmer NAME",
            plan.port,
            heard.empty() ? "nobody answers"
                          : "what answers is no boot loader, or has another speed,",
            plan.baud, plan.baud == 115'200 ? 57'600 : 115'200);
    if (said == wanted)
        return {};
    std::string signature;
    for (size_t i = 1; i + 1 < said.size(); ++i)
        signature += fmt::format(" {:02x}", static_cast<uint8_t>(said[i]));
    return fmt::format("{}: the chip there has the signature{}; the ATmega328P, for which the "
                       "program was built, has 1e 95 0f",
                       plan.port, signature.empty() ? " none" : signature);
}

/// Asks a programmer for the fuse that holds the level, in its last three bits.
BrownOut brown_out_of(const UploadPlan& plan, const std::string& avrdude) {
    const bool tiny = plan.chip == "attiny85";
    const char* const fuse = tiny ? "hfuse" : "efuse";
    BrownOut out;
    out.wanted = tiny ? 2700 : 4300; // at 8 and at 16 MHz
    const auto [status, said] = run_process(fmt::format("{} -q -q -U {}:r:-:h", avrdude, fuse));
    // It stands alone in a line.
    std::istringstream lines(said);
    unsigned value = 0;
    for (std::string line; status == 0 && std::getline(lines, line);)
        if (line.compare(0, 2, "0x") == 0 && line.size() <= 4) {
            value = static_cast<unsigned>(std::stoul(line, nullptr, 16));
            out.known = true;
        }
    if (!out.known)
        return out;
    const unsigned level = value & 7U;
    out.millivolts = level == 4 ? 4300 : level == 5 ? 2700 : level == 6 ? 1800 : 0;
    out.set = fmt::format("{} -U {}:w:0x{:02x}:m", avrdude, fuse, (value & ~7U) | (tiny ? 5U : 4U));
    return out;
}

} // namespace

uint32_t bytes_of_hex(const std::string& path) {
    std::istringstream lines(rig::read_file(path));
    uint32_t out = 0, number = 0;
    bool ended = false;
    for (std::string line; std::getline(lines, line) && !ended;) {
        ++number;
        while (!line.empty() && line.back() == '\r')
            line.pop_back();
        // A colon, the count, the address, the kind, and a sum.
        if (line.size() < 11 || line[0] != ':' ||
            line.find_first_not_of("0123456789ABCDEFabcdef", 1) != std::string::npos)
            throw rig::InputError(fmt::format("{}:{}: is no line of a hex file; upload takes the "
                                              "firmware.hex that zorilla firmware --build makes",
                                              path, number));
        if (line.substr(7, 2) == "00")
            out += static_cast<uint32_t>(std::stoul(line.substr(1, 2), nullptr, 16));
        ended = line.substr(7, 2) == "01";
    }
    if (!ended)
        throw rig::InputError(fmt::format("{}: has no end; it was not written to its end, or is no "
                                          "hex file",
                                          path));
    return out;
}

Uploaded upload(const UploadPlan& plan) {
    Uploaded out;
    out.bytes = bytes_of_hex(plan.hex);
    const bool boots = plan.programmer.empty();
    constexpr uint32_t beside_boot_loader = 32'256;
    if (boots && out.bytes > beside_boot_loader) {
        out.problem = fmt::format("{}: its {} bytes leave no room for the boot loader, which needs "
                                  "512; with a programmer (--programmer NAME) they have",
                                  plan.hex, out.bytes);
        return out;
    }
    if (run_process("avrdude -v").first == 127) {
        out.problem = "to upload, install avrdude (apt-get install avrdude)";
        return out;
    }
    if (boots) {
        out.problem = who_is_there(plan);
        if (!out.problem.empty())
            return out;
    }
    std::string avrdude = fmt::format("avrdude -p {} -c {}", part_of(plan.chip),
                                      shell_word(boots ? "stk500v1" : plan.programmer));
    if (!plan.port.empty())
        avrdude += " -P " + shell_word(plan.port);
    // A boot loader does not erase the chip, and tells its signature only in the way that was just
    // asked.
    if (boots)
        avrdude += fmt::format(" -b {} -D -F", plan.baud);
    const std::string command = avrdude + " -q -U flash:w:" + shell_word(plan.hex) + ":i";
    auto [status, said] = run_process(command);
    // The boot loader may have given up before avrdude came.
    if (boots && status != 0) {
        out.problem = who_is_there(plan);
        if (!out.problem.empty())
            return out;
        std::tie(status, said) = run_process(command);
    }
    if (status != 0) {
        std::istringstream lines(said);
        out.problem = "avrdude could not write it:";
        for (std::string line; std::getline(lines, line);)
            if (line.find("error") != std::string::npos)
                out.problem += "\n  " + line;
        if (!boots)
            out.problem += "\navrdude -c ? lists the programmers that it knows";
    } else if (!boots) {
        out.brown_out = brown_out_of(plan, avrdude);
    }
    return out;
}

} // namespace zorilla::bench
