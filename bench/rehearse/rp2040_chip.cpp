// SPDX-License-Identifier: MIT
#include "bench/rehearse/rp2040_chip.hpp"

#include "bench/rehearse/rp2040_script.hpp"
#include "rig/model/chip.hpp"
#include "rig/text/files.hpp"

#include <fmt/format.h>

#include <sys/wait.h>
#include <unistd.h>

#include <algorithm>
#include <csignal>
#include <filesystem>
#include <sstream>

namespace zorilla::bench {

namespace {

constexpr uint32_t window_size = 256;

std::string hex_to_bytes(const std::string& hex) {
    std::string out;
    for (size_t i = 0; i + 1 < hex.size(); i += 2)
        out += static_cast<char>(std::stoi(hex.substr(i, 2), nullptr, 16));
    return out;
}

} // namespace

Rp2040Chip::Rp2040Chip(const std::string& image, const std::string& line)
    : EmulatedChip(*rig::chip_named("rp2040")) {
    const std::string modules = emulator_modules();
    int to[2], from[2];
    if (pipe(to) != 0 || pipe(from) != 0)
        throw rig::InputError("no pipe can be made to the emulator");
    // A program that has ended is told by what it does not answer.
    std::signal(SIGPIPE, SIG_IGN);
    process_ = fork();
    if (process_ == 0) {
        dup2(to[0], STDIN_FILENO);
        dup2(from[1], STDOUT_FILENO);
        for (const int file : {to[0], to[1], from[0], from[1]})
            close(file);
        const std::string script(emulator_script());
        execlp("node", "node", "--input-type=module", "-e", script.c_str(), modules.c_str(),
               image.c_str(), line.c_str(), static_cast<char*>(nullptr));
        _exit(127);
    }
    close(to[0]);
    close(from[1]);
    in_ = to[1];
    out_ = from[0];
}

Rp2040Chip::~Rp2040Chip() {
    close(in_);
    close(out_);
    waitpid(process_, nullptr, 0);
}

void Rp2040Chip::has_ended() {
    throw rig::InputError(
        "the emulator of the rp2040 has ended; is node there? Install it (apt-get "
        "install nodejs)");
}

void Rp2040Chip::tell(const std::string& command) const {
    const std::string line = command + "\n";
    for (size_t at = 0; at < line.size();) {
        const ssize_t count = write(in_, line.data() + at, line.size() - at);
        if (count <= 0)
            has_ended();
        at += static_cast<size_t>(count);
    }
}

std::string Rp2040Chip::ask(const std::string& command) const {
    tell(command);
    size_t end;
    while ((end = coming_.find('\n')) == std::string::npos) {
        char buffer[4096];
        const ssize_t count = read(out_, buffer, sizeof buffer);
        if (count <= 0)
            has_ended();
        coming_.append(buffer, static_cast<size_t>(count));
    }
    std::string out = coming_.substr(0, end);
    coming_.erase(0, end + 1);
    return out;
}

bool Rp2040Chip::step() {
    const uint64_t due = do_what_is_due();
    const uint64_t until = cycles_ + cycles_per_ms();
    std::istringstream answer(ask(fmt::format("go {}", due == 0 ? until : std::min(due, until))));
    window_.clear();
    std::string event;
    int number = 0, level = 0;
    answer >> event;
    if (event == "mark" || event == "pin" || event == "drive")
        answer >> number;
    if (event == "pin" || event == "drive")
        answer >> level;
    answer >> cycles_ >> asleep_ >> stack_;
    if (event == "mark" && on_mark)
        on_mark(static_cast<uint8_t>(number), cycles_);
    if (event == "pin")
        watched_[number](level == 1);
    if (event == "drive")
        watched_drives_[number](level == 1);
    resets_ += event == "reset" ? 1 : 0;
    do_what_is_due();
    return true;
}

void Rp2040Chip::in_cycles(uint64_t cycles, std::function<void()> action) {
    due_in(cycles_ + cycles, std::move(action));
}

int Rp2040Chip::number_of(const std::string& pin) const {
    return static_cast<int>(rig::pin_named(facts(), pin) - facts().pins);
}

void Rp2040Chip::set_code(int64_t code, uint8_t channel, int64_t) {
    tell(fmt::format("adc {} {}", channel, code));
}
void Rp2040Chip::put(const std::string& pin, bool high) {
    tell(fmt::format("put {} {}", number_of(pin), high ? 1 : 0));
}
void Rp2040Chip::watch(const std::string& pin, std::function<void(bool high)> changed) {
    watched_[number_of(pin)] = std::move(changed);
    tell(fmt::format("watch {}", number_of(pin)));
}
void Rp2040Chip::watch_drive(const std::string& pin, std::function<void(bool drives)> changed) {
    watched_drives_[number_of(pin)] = std::move(changed);
    tell(fmt::format("watchdrive {}", number_of(pin)));
}
void Rp2040Chip::receive(char c) { tell(fmt::format("hear {:02x}", static_cast<uint8_t>(c))); }
void Rp2040Chip::set_memory(uint32_t address, uint8_t byte) {
    window_.clear();
    tell(fmt::format("poke {} {}", address, byte));
}
uint8_t Rp2040Chip::memory(uint32_t address) const {
    if (window_.empty() || address < window_at_ || address >= window_at_ + window_size) {
        window_at_ = address;
        window_ = hex_to_bytes(ask(fmt::format("peek {} {}", address, window_size)));
    }
    return static_cast<uint8_t>(window_.at(address - window_at_));
}
std::string Rp2040Chip::take_serial() { return hex_to_bytes(ask("said")); }
std::string Rp2040Chip::flash(uint32_t from, uint32_t count) const {
    return hex_to_bytes(ask(fmt::format("flash {} {}", from, count)));
}

/// A pin, and the slice behind it.
struct Rp2040Chip::Output {
    int level = 0, drives = 0, function = 0;
    double high = 0, period = 1, divisor = 1;
    bool is_made() const { return function == 4; }
};
Rp2040Chip::Output Rp2040Chip::output_of(const std::string& pin) const {
    Output out;
    std::istringstream answer(ask(fmt::format("pin {}", number_of(pin))));
    answer >> out.level >> out.drives >> out.function >> out.high >> out.period >> out.divisor;
    return out;
}

bool Rp2040Chip::is_high(const std::string& pin) const { return output_of(pin).level == 1; }
double Rp2040Chip::share_of(const std::string& pin) const {
    const Output is = output_of(pin);
    return is.is_made() ? std::min(is.high / is.period, 1.0) : is.level;
}
double Rp2040Chip::hertz_of(const std::string& pin) const {
    const Output is = output_of(pin);
    const bool swings = is.is_made() && is.high > 0 && is.high < is.period;
    return swings ? facts().hertz / is.divisor / is.period : 0;
}
double Rp2040Chip::pulse_of(const std::string& pin) const {
    const Output is = output_of(pin);
    return is.is_made() ? is.high * is.divisor * 1e6 / facts().hertz : 0;
}

} // namespace zorilla::bench
