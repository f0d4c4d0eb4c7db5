// SPDX-License-Identifier: MIT
// What an RP2040 alone has: a boot block, a drive for its program, kept bytes in its flash, and
// USB.
#include "bench/firmware.hpp"
#include "bench/rehearse/rp2040_chip.hpp"
#include "rig/rig_file.hpp"
#include "tests/desk/process.hpp"

#include <zorilla/board/rp2040/flash.hpp>

#include <gtest/gtest.h>

#include <algorithm>
#include <cstdlib>
#include <cstring>
#include <filesystem>
#include <random>
#include <sstream>

namespace {

using namespace zorilla;
using desk::has;

bool is_deep() { return std::getenv("ZORILLA_DEEP") != nullptr; }

/// A rig of a thermistor, a switch over the line, a setting that is kept, and a lamp.
const std::string lamp = R"([board]
chip = "rp2040"
[sense.roost]
part = "thermistor"
pin = "ADC0"
nominal = "10 kohm"
beta = "3950 K"
pull_up = "10 kohm"
range = ["-30 degC", "80 degC"]
[sense.wanted]
part = "line_setting"
value = "4 degC"
from = "0 degC"
to = "20 degC"
[decide.cold]
of = "roost"
below = "4 degC"
release = "6 degC"
[decide.low]
of = "wanted"
below = "3 degC"
release = "5 degC"
[drive.heat_lamp]
part = "relay"
pin = "GPIO2"
active = "high"
safe = "off"
claims = [ { when = "cold or low", then = "on" } ]
)";

/// It, built once, and an emulated chip with it.
struct Lamp {
    explicit Lamp(const char* pass = "100 ms", const std::string& text = lamp) {
        const rig::RigFile file = rig::parse_rig(text);
        EXPECT_TRUE(file.mistakes.empty()) << file.mistakes.front().text;
        const rig::Rig& rig = file.rig;
        for (const auto& [name, content] :
             bench::firmware_folder(rig, "lamp", text,
                                    {Duration::from_thousandths(std::atoi(pass)), true})
                 .files)
            folder.write(name, content);
        built = bench::build_firmware(*rig.chip_facts(), folder.path().string());
        EXPECT_EQ(built.problem, "");
        chip = std::make_unique<bench::Rp2040Chip>(folder / "firmware.bin", "usb");
        chip->set_code(1700, 0, 3300);
        chip->on_mark = [this, every = std::atoi(pass)](uint8_t mark, uint64_t cycle) {
            if (mark != 1)
                return;
            if (last != 0 && passes++ > 2 &&
                cycle - last > (static_cast<uint64_t>(every) + 5) * chip->cycles_per_ms())
                ++late;
            last = cycle;
        };
    }
    void run(uint64_t milliseconds) {
        const uint64_t until = chip->cycles() + milliseconds * chip->cycles_per_ms();
        while (chip->cycles() < until)
            chip->step();
        said += chip->take_serial();
    }
    void type(const std::string& text) {
        for (const char c : text)
            chip->receive(c);
    }

    desk::Folder folder;
    bench::Built built;
    std::unique_ptr<bench::Rp2040Chip> chip;
    std::string said;
    uint64_t last = 0, passes = 0, late = 0;
};

uint32_t word_of(const std::string& bytes, size_t at) {
    uint32_t out = 0;
    for (int i = 3; i >= 0; --i)
        out = out << 8 | static_cast<uint8_t>(bytes.at(at + static_cast<size_t>(i)));
    return out;
}

TEST(Rp2040, begins_with_a_block_whose_sum_is_right_and_comes_as_blocks_of_the_format) {
    const Lamp is;
    const std::string image = desk::read_all(is.folder / "firmware.bin");
    uint32_t sum = 0xffff'ffff;
    for (size_t i = 0; i < 252; ++i) {
        sum ^= static_cast<uint32_t>(static_cast<uint8_t>(image[i])) << 24;
        for (int bit = 0; bit < 8; ++bit)
            sum = (sum & 0x8000'0000U) != 0 ? sum << 1 ^ 0x04c1'1db7U : sum << 1;
    }
    EXPECT_EQ(word_of(image, 252), sum);
    EXPECT_EQ(word_of(image, 256), 0x2004'2000U) << "the first vector is the stack's";

    const std::string drive = desk::read_all(is.folder / "firmware.uf2");
    ASSERT_EQ(drive.size() % 512, 0U);
    const auto blocks = static_cast<uint32_t>(drive.size() / 512);
    std::string again;
    for (uint32_t i = 0; i < blocks; ++i) {
        const size_t at = size_t{i} * 512;
        EXPECT_EQ(word_of(drive, at), 0x0a32'4655U);
        EXPECT_EQ(word_of(drive, at + 4), 0x9e5d'5157U);
        EXPECT_EQ(word_of(drive, at + 8), 0x2000U);
        EXPECT_EQ(word_of(drive, at + 12), 0x1000'0000U + 256 * i);
        EXPECT_EQ(word_of(drive, at + 16), 256U);
        EXPECT_EQ(word_of(drive, at + 20), i);
        EXPECT_EQ(word_of(drive, at + 24), blocks);
        EXPECT_EQ(word_of(drive, at + 28), 0xe48b'ff56U);
        EXPECT_EQ(word_of(drive, at + 508), 0x0ab1'6f30U);
        again += drive.substr(at + 32, 256);
    }
    EXPECT_EQ(again.substr(0, image.size()), image);
    EXPECT_LT(again.size(), image.size() + 256);
}

TEST(Rp2040, is_uploaded_to_its_drive_and_to_no_other) {
    const Lamp is;
    const std::string uf2 = is.folder / "firmware.uf2";
    for (const char* made : {"other", "drive/again"})
        std::filesystem::create_directories(is.folder.path() / made);
    const auto upload = [&](const std::string& drive) {
        return desk::zorilla("upload " + uf2 + " --drive " + drive);
    };
    const desk::Outcome none = upload(is.folder.path().string());
    EXPECT_EQ(none.status, 2);
    EXPECT_TRUE(has(none.err, "hold the board's BOOTSEL button while you plug it in")) << none.err;
    is.folder.write("other/INFO_UF2.TXT", "UF2 Bootloader v1.0\r\nBoard-ID: SAMD21\r\n");
    EXPECT_TRUE(has(upload(is.folder / "other").err, "says that it is a \"SAMD21\""));
    is.folder.write("drive/INFO_UF2.TXT",
                    "UF2 Bootloader v3.0\r\nModel: some board\r\nBoard-ID: RPI-RP2\r\n");
    const desk::Outcome done = upload(is.folder / "drive");
    EXPECT_EQ(done.status, 0) << done.err;
    EXPECT_EQ(desk::read_all(is.folder / "drive/firmware.uf2"), desk::read_all(uf2));
    is.folder.write("drive/again/INFO_UF2.TXT", "Board-ID: RPI-RP2\r\n");
    EXPECT_TRUE(has(upload(is.folder / "drive").err, "there are 2 such drives"));
    is.folder.write("half.uf2", desk::read_all(uf2).substr(0, 700));
    EXPECT_TRUE(has(desk::zorilla("upload " + (is.folder / "half.uf2") + " --drive " +
                                  (is.folder / "drive/again"))
                        .err,
                    "is no .uf2 file"));
}

TEST(Rp2040, is_built_without_an_emulator_and_rehearsed_only_with_one) {
    const desk::Folder folder;
    const std::string rig = folder.write("lamp.toml", lamp),
                      trace = folder.write("t.csv", "time (s),roost (code)\n0,1700\n1,1700\n");
    // All that it takes, but no node.
    const std::string path = fmt::format("mkdir {0}/bin && ln -s /usr/bin/arm-none-eabi-* "
                                         "$(command -v dot) $(command -v sh) {0}/bin "
                                         "&& PATH={0}/bin " ZORILLA_TOOL " ",
                                         folder.path().string());
    const desk::Outcome built =
        desk::shell(path + "firmware " + rig + " --out " + (folder / "f") + " --build");
    EXPECT_EQ(built.status, 0) << built.err;
    EXPECT_TRUE(
        has(built.out, "not measured: the emulator of the rp2040 has ended; is node there?"))
        << built.out;
    std::filesystem::remove_all(folder.path() / "bin");
    const desk::Outcome rehearsed =
        desk::shell(path + "rehearse " + rig + " --trace " + trace + " --for '1 s'");
    EXPECT_EQ(rehearsed.status, 2);
    EXPECT_TRUE(has(rehearsed.err, "apt-get install nodejs")) << rehearsed.err;
}

/// Rows of a trace that came over the line, each with the one after it.
int good_rows(const std::string& said) {
    std::istringstream lines(said);
    int out = 0;
    double before = -1;
    for (std::string line; std::getline(lines, line);) {
        if (lines.eof() || line.rfind("time", 0) == 0 || line.rfind("ok", 0) == 0)
            continue;
        const double now = std::atof(line.c_str());
        EXPECT_EQ(std::count(line.begin(), line.end(), ','), 4) << line;
        if (before >= 0) {
            EXPECT_NEAR(now - before, 0.02, 1e-6) << line;
        }
        before = now;
        ++out;
    }
    return out;
}

TEST(Rp2040Usb, carries_every_row_and_answers_each_command) {
    Lamp is("20 ms");
    is.run(1'000);
    EXPECT_EQ(is.said.rfind("time (s),roost (code),", 0), 0U) << is.said;
    const int wanted = is_deep() ? 100'000 : 500;
    int rows = good_rows(is.said.substr(0, is.said.rfind('\n') + 1));
    is.said.erase(0, is.said.rfind('\n') + 1);
    for (int i = 0; rows < wanted && !HasFailure(); ++i) {
        // A command in between, each at another moment.
        is.type("who\n");
        is.run(static_cast<uint64_t>(1'000 + i % 7));
        const size_t end = is.said.rfind('\n') + 1;
        const std::string lines = is.said.substr(0, end);
        EXPECT_TRUE(has(lines, "ok ")) << lines;
        rows += good_rows(lines);
        is.said.erase(0, end);
    }
    EXPECT_EQ(is.late, 0U);
    EXPECT_GE(is.passes, static_cast<uint64_t>(wanted));
}

TEST(Rp2040Usb, goes_on_without_a_late_pass_whenever_its_plug_is_pulled) {
    Lamp is;
    std::mt19937 random(2);
    is.run(500);
    for (int i = 0; i < (is_deep() ? 1'000 : 25) && !HasFailure(); ++i) {
        is.chip->unplug();
        is.run(50 + random() % 400);
        is.said.clear();
        is.chip->plug();
        is.type("header\n");
        is.run(400 + random() % 150);
        EXPECT_TRUE(has(is.said, ",roost (code),") || has(is.said, ",1700,")) << i << is.said;
    }
    EXPECT_EQ(is.late, 0U);
    EXPECT_EQ(is.chip->resets(), 0);
    // Nor where nobody ever has the port open.
    EXPECT_GT(is.passes, 90U);
}

TEST(Rp2040Usb, a_flood_of_characters_changes_nothing_and_holds_up_nothing) {
    Lamp is;
    is.run(500);
    std::mt19937 random(3);
    std::string noise;
    for (int i = 0; i < 20'000; ++i)
        noise += random() % 9 == 0 ? '\n' : static_cast<char>(random() & 0xff);
    is.type(noise);
    is.run(4'000);
    is.said.clear();
    is.type("\nwho\n");
    is.run(3'000);
    EXPECT_TRUE(has(is.said, "ok ")) << is.said;
    EXPECT_EQ(is.late, 0U);
}

/// A flash on the desk, of which the power can go in the middle of a write.
struct DeskFlash {
    static constexpr uint32_t page_size = 256, sector_size = 4096;
    static inline uint8_t bytes[2 * sector_size];
    static inline int left = -1; ///< writes until the power goes; -1: it does not
    static inline std::mt19937 random{1};
    static uint32_t word(uint32_t offset) {
        uint32_t out;
        std::memcpy(&out, bytes + offset - chips::Rp2040::facts.flash, 4);
        return out;
    }
    static void write(uint32_t offset, const uint8_t* page) {
        if (left == 0)
            return;
        const bool partly = left > 0 && --left == 0;
        uint8_t* const at = bytes + offset - chips::Rp2040::facts.flash;
        for (uint32_t i = 0; i < (page == nullptr ? sector_size : page_size); ++i) {
            const uint8_t to = page == nullptr ? uint8_t{0xff} : at[i] & page[i];
            const auto moving = static_cast<uint8_t>(at[i] ^ to);
            at[i] = partly ? static_cast<uint8_t>(at[i] ^ (moving & random())) : to;
        }
    }
};

TEST(Rp2040Kept, each_byte_is_the_old_one_or_the_new_wherever_the_power_goes) {
    using Kept = rp2040::KeptBytes<DeskFlash>;
    std::mt19937 random(7);
    std::fill(std::begin(DeskFlash::bytes), std::end(DeskFlash::bytes), uint8_t{0xff});
    std::vector<uint8_t> old(256, 0xff);
    int changed_over = 0;
    for (int turn = 0; turn < 20'000; ++turn) {
        // Mostly a whole write, now and then one that is cut off, also in the middle of a change of
        // the sector.
        const auto address = static_cast<uint16_t>(random() % 60);
        const auto byte = static_cast<uint8_t>(random());
        DeskFlash::left = random() % 5 == 0 ? 1 + static_cast<int>(random() % 4) : -1;
        const bool might_go = DeskFlash::left > 0;
        const uint32_t mark = DeskFlash::word(chips::Rp2040::facts.flash);
        Kept::write(address, byte);
        const bool went = might_go && DeskFlash::left == 0;
        changed_over += DeskFlash::word(chips::Rp2040::facts.flash) != mark;
        DeskFlash::left = -1;
        if (went || turn % 64 == 0)
            Kept::begin_anew();
        for (uint16_t i = 0; i < 60; ++i) {
            const uint8_t is = Kept::read(i);
            if (i != address) {
                ASSERT_EQ(is, old[i]) << turn << " " << i;
            } else if (went) {
                ASSERT_TRUE(is == old[i] || is == byte) << turn;
            } else {
                ASSERT_EQ(is, byte) << turn;
            }
            old[i] = is;
        }
    }
    EXPECT_GT(changed_over, 10);
}

TEST(Rp2040Kept, no_echo_is_measured_wrong_while_settings_are_written) {
    const std::string barrel = lamp + "[sense.barrel]\npart = \"ranger\"\npin = \"GPIO3\"\n"
                                      "ping_pin = \"GPIO4\"\nblind = \"20 mm\"\nfar = \"4 m\"\n"
                                      "temperature = \"20 degC\"\nsupply = \"3.3 V\"\n";
    // An echo that goes on while passes come and go.
    Lamp is("10 ms", barrel);
    constexpr uint64_t us = 48, width = 20'000;
    is.chip->watch("GPIO4", [&](bool high) {
        if (high)
            return;
        is.chip->in_cycles(300 * us, [&] { is.chip->put("GPIO3", true); });
        is.chip->in_cycles((300 + width) * us, [&] { is.chip->put("GPIO3", false); });
    });
    int heard = 0, given_up = 0;
    for (int i = 0; i < 16; ++i) {
        is.said.clear();
        // At another moment of the echo each time.
        is.run(static_cast<uint64_t>(310 + i % 13));
        is.type(fmt::format("set wanted {}\n", 1 + i % 19));
        is.run(400);
        std::istringstream lines(is.said);
        for (std::string line; std::getline(lines, line);) {
            // time, roost, wanted, barrel, heat_lamp, check
            const size_t at = line.find(',', line.find(',', line.find(',') + 1) + 1);
            if (line.rfind("ok", 0) == 0 || line.rfind("time", 0) == 0 || at == std::string::npos ||
                lines.eof())
                continue;
            const std::string echo = line.substr(at + 1, line.find(',', at + 1) - at - 1);
            given_up += i > 0 && echo.empty();
            if (echo.empty() || echo == "none")
                continue;
            EXPECT_NEAR(std::stoi(echo), static_cast<int>(width), 3) << line;
            ++heard;
        }
    }
    EXPECT_GT(heard, 80);
    EXPECT_GT(given_up, 0);
}

TEST(Rp2040Kept, a_setting_outlives_the_power_wherever_that_goes) {
    Lamp is;
    is.run(400);
    is.type("set wanted 2\n");
    is.run(3'000);
    EXPECT_TRUE(has(is.said, "ok")) << is.said;
    EXPECT_TRUE(is.chip->is_high("GPIO2")) << "it is low enough";
    int old_ones = 0, new_ones = 0;
    for (int writes = 0; writes < 14; writes += is_deep() ? 1 : 3) {
        is.type("set wanted 12\n");
        is.chip->cut_after(writes);
        for (int i = 0; i < 2'500; ++i)
            is.chip->step();
        is.chip->restart();
        is.last = 0;
        is.run(600);
        const bool still = is.chip->is_high("GPIO2");
        (still ? old_ones : new_ones) += 1;
        is.type("set wanted 2\n");
        is.run(3'000);
        EXPECT_TRUE(is.chip->is_high("GPIO2"));
    }
    EXPECT_GT(old_ones, 0);
    EXPECT_EQ(is.late, 0U);
}

} // namespace
