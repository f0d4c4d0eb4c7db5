// SPDX-License-Identifier: MIT
#include "bench/rehearse/board.hpp"

#include "bench/rehearse/avr_chip.hpp"

#include <algorithm>
#include <chrono>
#include <thread>

namespace zorilla::bench {

namespace {

using Clock = std::chrono::steady_clock;
using std::chrono::milliseconds;

/// How long a boot loader waits for somebody to speak to it, and between two commands. It is
/// counted in naps: while a busy machine runs neither this nor the one who speaks, no time passes.
constexpr milliseconds patience{500}, longest_silence{1000}, nap{2};
/// A character at 38,400 baud takes so many cycles of 16 MHz.
constexpr uint64_t character = 4'167;

} // namespace

/// \return  whether the reader is still there, and the program is to start
bool Board::load(const std::function<bool()>& stop) {
    boot_.reset();
    milliseconds silent{0};
    while (!stop() && line_.is_read() && !line_.is_read_by_another()) {
        const std::string came = line_.take();
        if (!came.empty()) {
            silent = milliseconds(0);
            if (!line_.put(boot_.take(came), stop))
                return false;
        } else if (silent > (boot_.was_asked() ? longest_silence : patience)) {
            return true;
        } else {
            std::this_thread::sleep_for(nap);
            silent += nap;
        }
    }
    return false;
}

void Board::run(double pace, const std::function<bool()>& stop) {
    AvrChip chip(boot_.flash());
    const auto feed = [&] {
        for (const auto& [channel, code] : pins_.codes)
            chip.set_code(code(turn_), channel);
    };
    const auto begin = Clock::now();
    std::string coming;
    uint64_t next_character = 0, next_feed = 0;
    while (!stop() && line_.is_read() && !line_.is_read_by_another()) {
        const auto until = static_cast<uint64_t>(
            std::chrono::duration<double>(Clock::now() - begin).count() * pace * 16e6);
        // Not more at a time than a reader would notice.
        const uint64_t stride = std::min(until, chip.cycles() + 1'600'000);
        while (chip.cycles() < stride) {
            if (chip.cycles() >= next_feed) {
                feed();
                next_feed = chip.cycles() + 160'000;
            }
            if (!coming.empty() && chip.cycles() >= next_character) {
                chip.receive(coming.front());
                coming.erase(0, 1);
                next_character = chip.cycles() + character;
            }
            if (!chip.step())
                return;
        }
        const std::string said = chip.take_serial();
        if (!said.empty() && !line_.put(said, stop))
            return;
        coming += line_.take();
        if (chip.cycles() >= until)
            std::this_thread::sleep_for(milliseconds(5));
    }
}

bool Board::serve(double pace, const std::function<bool()>& stop) {
    line_.turn_to_reader();
    const auto is_blank = [this] {
        return std::all_of(boot_.flash().begin(), boot_.flash().end(),
                           [](uint8_t byte) { return byte == 0xff; });
    };
    bool starts = load(stop);
    // An erased flash does nothing until the chip has come to the boot loader behind it again.
    while (starts && is_blank())
        starts = load(stop);
    if (!starts || boot_.was_asked())
        return false;
    run(pace, stop);
    ++turn_;
    return true;
}

} // namespace zorilla::bench
