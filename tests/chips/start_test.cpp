// SPDX-License-Identifier: MIT
// What a chip does where nobody looks on the desk: as its power comes, while a wire storms, and
// with what was kept for another rig.
#include "bench/firmware.hpp"
#include "bench/moving.hpp"
#include "bench/rehearse/emulated.hpp"
#include "bench/rehearse/rehearse.hpp"
#include "rig/rig_file.hpp"
#include "tests/desk/process.hpp"
#include "tests/desk/rig_text.hpp"

#include <gtest/gtest.h>
#include <zorilla/board/stored.hpp>

namespace {

using namespace zorilla;
using desk::has;

const std::string examples = ZORILLA_SOURCE "/examples/";

std::string on(const std::string& example, const std::string& chip) {
    const std::string text = desk::read_all(examples + example + "/" + example + ".toml");
    const rig::RigFile file = rig::parse_rig(text);
    if (file.rig.chip == chip)
        return text;
    const bench::Move move = bench::move_of(file, text, *rig::chip_named(chip));
    EXPECT_EQ(move.problem, "");
    return move.text;
}

void build_in(const desk::Folder& folder, const rig::Rig& rig, const std::string& text) {
    for (const auto& [name, content] :
         bench::firmware_folder(rig, "rig", text, {100_ms, false}).files)
        folder.write(name, content);
    const bench::Built built = bench::build_firmware(*rig.chip_facts(), folder.path().string());
    ASSERT_EQ(built.problem + built.fits, "") << text;
}

// An output whose safe value is "on" must not come on for a pass, or for its min_on, since the
// converter has not been round yet and no echo is back.
TEST(Start, the_first_pass_reads_all_that_can_be_read) {
    struct Device {
        const char* example;
        const char* chip;
    };
    for (const auto& [example, chip] :
         {Device{"hen_house", "atmega328p"}, Device{"hen_house", "rp2040"},
          Device{"rain_barrel", "atmega328p"}, Device{"rain_barrel", "atmega2560"}}) {
        const std::string text = on(example, chip);
        const rig::RigFile file = rig::parse_rig(text);
        ASSERT_TRUE(file.mistakes.empty());
        const desk::Folder folder;
        build_in(folder, file.rig, text);
        bench::RehearsedRow row{0, std::vector<rig::Raw>(file.rig.senses.size())};
        for (size_t i = 0; i < file.rig.senses.size(); ++i)
            row.raws[i] = file.rig.senses[i].raw == rig::RawKind::code           ? rig::Raw(500)
                          : file.rig.senses[i].raw == rig::RawKind::microseconds ? rig::Raw(3000)
                          : file.rig.senses[i].raw == rig::RawKind::level        ? rig::Raw(1)
                                                                                 : rig::Raw();
        const bench::Rehearsal is = bench::rehearse(file.rig, folder.path().string(), {row}, 3000);
        EXPECT_TRUE(is.difference.empty()) << is.difference.front();
        EXPECT_GT(is.passes, 20U) << chip;
        for (const auto& [what, passes] : is.unhealthy)
            if (file.rig.senses[what.first].inputs.empty() &&
                (file.rig.senses[what.first].raw == rig::RawKind::code ||
                 file.rig.senses[what.first].raw == rig::RawKind::microseconds)) {
                EXPECT_NE(what.second, Health::missing)
                    << chip << ": " << file.rig.senses[what.first].name << ", " << passes
                    << " passes";
            }
    }
}

/// How many passes a firmware makes while a signal of so many hertz lies on pins.
struct Stormed {
    uint64_t passes = 0;
};
Stormed storm(const rig::Rig& rig, const std::string& folder, const std::vector<std::string>& pins,
              uint64_t hertz, uint64_t milliseconds) {
    const auto emulated = bench::emulate(*rig.chip_facts(), folder, rig.line);
    bench::EmulatedChip& chip = *emulated;
    for (const rig::Sense& sense : rig.senses)
        if (sense.raw == rig::RawKind::code)
            chip.set_code(500, static_cast<uint8_t>(std::stoi(sense.pin.substr(3))), 5000);
    Stormed out;
    chip.on_mark = [&out](uint8_t mark, uint64_t) { out.passes += mark == 2 ? 1 : 0; };
    const uint64_t half = chip.facts().hertz / hertz / 2;
    bool high = false;
    std::function<void()> flip = [&] {
        high = !high;
        for (const std::string& pin : pins)
            chip.put(pin, high);
        chip.in_cycles(half, flip);
    };
    chip.in_cycles(chip.cycles_per_ms() * 300, flip);
    const uint64_t until = milliseconds * chip.cycles_per_ms();
    while (chip.cycles() < until && chip.step()) {
    }
    return out;
}

TEST(Storm, on_every_edge_pin_at_once_holds_up_no_pass) {
    struct Device {
        const char* example;
        const char* chip;
    };
    for (const Device& device :
         {Device{"hen_house", "atmega328p"}, Device{"fume_hood", "atmega328p"},
          Device{"hen_house", "atmega2560"}, Device{"dew_heater", "attiny85"},
          Device{"fume_hood", "rp2040"}}) {
        const std::string text = on(device.example, device.chip);
        const rig::RigFile file = rig::parse_rig(text);
        ASSERT_TRUE(file.mistakes.empty()) << file.mistakes.front().text;
        std::vector<std::string> pins;
        for (const rig::Sense& sense : file.rig.senses)
            if (sense.raw == rig::RawKind::microseconds || sense.raw == rig::RawKind::frame ||
                sense.raw == rig::RawKind::edges)
                pins.push_back(sense.pin);
        ASSERT_FALSE(pins.empty()) << device.example;
        const desk::Folder folder;
        build_in(folder, file.rig, text);
        // Each edge is told to the RP2040's emulator, another program.
        const bool slow = file.rig.chip == "rp2040";
        for (const uint64_t hertz : {20'000U, 160'000U, 1'000'000U}) {
            if (slow && hertz != 160'000U)
                continue;
            const uint64_t length = slow ? 500 : 1000;
            const Stormed is = storm(file.rig, folder.path().string(), pins, hertz, length);
            EXPECT_GE(is.passes + 2, length / 100)
                << device.example << " on " << device.chip << " at " << hertz << " Hz";
            EXPECT_LE(is.passes, length / 100 + 1);
        }
    }
}

/// A storage of bytes.
struct Cells {
    static inline uint8_t bytes[64];
    static uint8_t read(uint16_t at) { return bytes[at]; }
    static void write(uint16_t at, uint8_t byte) { bytes[at] = byte; }
    static bool ready() { return true; }
};
template <uint32_t Meaning> struct Kept {
    static constexpr uint8_t byte_count = 2, version = static_cast<uint8_t>(Meaning);
    static constexpr uint16_t meaning = static_cast<uint16_t>(Meaning >> 8);
    uint8_t value = 0;
    void bytes_to(uint8_t* to) const { to[0] = to[1] = value; }
    void bytes_from(const uint8_t* from) { value = from[0]; }
};

TEST(Stored, of_another_meaning_with_the_same_version_is_not_taken) {
    for (uint8_t& byte : Cells::bytes)
        byte = 0xff;
    Kept<0x123456> mine{7};
    Stored<Kept<0x123456>, Cells> store;
    store.save(mine);
    while (store.step()) {
    }
    Kept<0x123456> again;
    EXPECT_EQ((Stored<Kept<0x123456>, Cells>().load(again)), StoredState::found);
    EXPECT_EQ(again.value, 7);
    Kept<0x129956> other;
    EXPECT_NE((Stored<Kept<0x129956>, Cells>().load(other)), StoredState::found);
    EXPECT_EQ(other.value, 0);
}

TEST(Firmware, gives_a_motor_that_ramps_a_pin_that_can_though_it_is_only_on_or_off) {
    const std::string rig =
        "[sense.key]\npart = \"digital_input\"\npin = \"PC3\"\nactive = \"low\"\n"
        "[drive.mover]\npart = \"pump\"\npin = \"PD3\"\nsafe = \"off\"\nramp = \"4 s\"\n"
        "claims = [ { when = \"key\", then = \"on\" } ]\n";
    const rig::RigFile file = rig::parse_rig(rig);
    ASSERT_TRUE(file.mistakes.empty()) << file.mistakes.front().text;
    const auto files = bench::firmware_folder(file.rig, "rig", rig, {100_ms, false}).files;
    EXPECT_TRUE(has(files.at("main.cpp"), "Dimmed<Board::pd3")) << files.at("main.cpp");
    // And a pin that cannot is a mistake.
    EXPECT_TRUE(has(desk::mistakes_of(desk::with(rig, "PD3", "PD4")), "PD4"));
}

} // namespace
