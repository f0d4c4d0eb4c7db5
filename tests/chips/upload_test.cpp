// SPDX-License-Identifier: MIT
// A first look at pins, and programs on their way to a chip: the real avrdude against a board that
// is not there.
#include "bench/stand_in.hpp"
#include "bench/upload/boot_loader.hpp"
#include "tests/chips/atmega328p.hpp"
#include "tests/desk/background.hpp"
#include "tests/desk/process.hpp"

#include <gtest/gtest.h>

#include <atomic>
#include <random>
#include <thread>

namespace {

using namespace zorilla;
using desk::has;
using desk::Outcome;

/// An Intel hex file of these bytes: 16 in a line, each with its address and sum.
std::string hex_of(const std::vector<uint8_t>& bytes) {
    std::string out;
    const auto line = [&out](size_t address, uint8_t kind, const std::vector<uint8_t>& data) {
        uint8_t sum = static_cast<uint8_t>(data.size() + (address >> 8) + address + kind);
        out += fmt::format(":{:02X}{:04X}{:02X}", data.size(), address, kind);
        for (const uint8_t byte : data) {
            out += fmt::format("{:02X}", byte);
            sum = static_cast<uint8_t>(sum + byte);
        }
        out += fmt::format("{:02X}\n", static_cast<uint8_t>(-sum));
    };
    for (size_t at = 0; at < bytes.size(); at += 16)
        line(at, 0,
             {bytes.begin() + static_cast<std::ptrdiff_t>(at),
              bytes.begin() + static_cast<std::ptrdiff_t>(std::min(at + 16, bytes.size()))});
    line(0, 1, {});
    return out;
}

/// How a board is that somebody has opened.
enum class How { answers, silent, prints };

/// Answers as a boot loader does, while it lives, or is otherwise.
class Answering {
  public:
    /// \param turns  how it is each time that it is opened; the last is how it stays
    Answering(bench::BootLoader& boot, std::string link, std::vector<How> turns = {How::answers})
        : line_(std::move(link)), thread_([this, &boot, turns] {
              const auto stop = [this] { return stop_.load(); };
              for (size_t turn = 0; !stop_;
                   std::this_thread::sleep_for(std::chrono::milliseconds(1))) {
                  if (line_.is_read_by_another()) {
                      line_.turn_to_reader();
                      boot.reset();
                      ++turn;
                  }
                  const std::string came = line_.take();
                  if (turn == 0 || !line_.is_read())
                      continue;
                  const How how = turns[std::min(turn, turns.size()) - 1];
                  if (how == How::answers && !came.empty())
                      line_.put(boot.take(came), stop);
                  else if (how == How::prints)
                      line_.put("roost: 512\r\n", stop);
              }
          }) {}
    ~Answering() {
        stop_ = true;
        thread_.join();
    }

  private:
    std::atomic<bool> stop_{false};
    bench::StandIn line_;
    std::thread thread_;
};

TEST(Upload, every_byte_of_a_full_chip_arrives) {
    const desk::Folder folder;
    std::mt19937 random(7);
    std::vector<uint8_t> program(bench::BootLoader::room);
    for (uint8_t& byte : program)
        byte = static_cast<uint8_t>(random());
    folder.write("full.hex", hex_of(program));
    bench::BootLoader boot;
    const Answering board(boot, folder / "board");
    const Outcome out = desk::zorilla(
        fmt::format("upload '{0}/full.hex' --port '{0}/board'", folder.path().string()));
    EXPECT_EQ(out.status, 0) << out.err;
    EXPECT_EQ(boot.flash(), program);
    EXPECT_TRUE(has(out.out, "32,256 bytes")) << out.out;
}

TEST(Upload, tries_again_what_came_too_late) {
    const desk::Folder folder;
    const std::vector<uint8_t> program(1000, 0x5a);
    folder.write("good.hex", hex_of(program));
    // The second: its boot loader has given up before avrdude comes.
    for (const std::vector<How>& turns : {std::vector{How::silent, How::prints, How::answers},
                                          std::vector{How::answers, How::prints, How::answers}}) {
        bench::BootLoader boot;
        const Answering board(boot, folder / "board", turns);
        const Outcome out = desk::zorilla(
            fmt::format("upload '{0}/good.hex' --port '{0}/board'", folder.path().string()));
        EXPECT_EQ(out.status, 0) << out.err;
        EXPECT_TRUE(std::equal(program.begin(), program.end(), boot.flash().begin()));
    }
}

TEST(Upload, is_none_the_worse_for_a_machine_that_stands_still_for_a_while) {
    const desk::Folder folder;
    folder.write("good.hex", hex_of(std::vector<uint8_t>(1000, 0x5a)));
    for (const int after : {120, 300, 700}) {
        const desk::Background board(folder,
                                     "device thermistor --values '20 degC' --on ADC0 --link '" +
                                         folder / "board" + "'",
                                     "board.log");
        ASSERT_TRUE(desk::is_there(folder / "board"));
        desk::Background upload(
            folder, fmt::format("upload '{0}/good.hex' --port '{0}/board'", folder.path().string()),
            "upload.log");
        std::this_thread::sleep_for(std::chrono::milliseconds(after));
        for (const int signal : {SIGSTOP, SIGCONT}) {
            kill(upload.process(), signal);
            kill(board.process(), signal);
            if (signal == SIGSTOP)
                std::this_thread::sleep_for(std::chrono::milliseconds(900));
        }
        EXPECT_EQ(upload.end(0), 0) << after << " ms: " << upload.log();
    }
}

TEST(Upload, says_what_to_look_at) {
    const desk::Folder folder;
    bench::BootLoader boot, other({0x1e, 0x94, 0x06});
    const std::string good = hex_of({0x0c, 0x94});
    folder.write("good.hex", good);
    folder.write("torn.hex", good.substr(0, good.find('\n') + 1));
    folder.write("other.hex", "int main() {}\n");
    folder.write("large.hex", hex_of(std::vector<uint8_t>(bench::BootLoader::room + 1)));
    const Answering fine(boot, folder / "fine"), wrong(other, folder / "wrong"),
        chatter(boot, folder / "chatter", {How::prints});
    const bench::StandIn silent(folder / "silent");
    const struct {
        const char* arguments;
        const char* says;
    } cases[] = {
        {"good.hex", "--port /dev/ttyUSB0 for a board"},
        {"torn.hex --port fine", "torn.hex: has no end"},
        {"other.hex --port fine", "other.hex:1: is no line of a hex file"},
        {"none.hex --port fine", "none.hex"},
        {"large.hex --port fine", "32257 bytes leave no room for the boot loader"},
        {"good.hex --port gone", "gone: cannot be opened: No such file"},
        {"good.hex --port good.hex", "good.hex: cannot be opened: it is no serial port"},
        {"good.hex --port silent", "silent: nobody answers at 115200 baud"},
        {"good.hex --port silent", "Try --baud 57600"},
        {"good.hex --port fine --baud 12345", "12345 baud is no speed"},
        {"good.hex --port chatter", "what answers is no boot loader"},
        {"good.hex --port wrong", "has the signature 1e 94 06; the ATmega328P"},
        {"good.hex --programmer none", "cannot find programmer id none"},
    };
    for (const auto& one : cases) {
        const Outcome out = desk::shell(fmt::format(
            "cd '{}' && '{}' upload {}", folder.path().string(), ZORILLA_TOOL, one.arguments));
        EXPECT_EQ(out.status, 2) << one.arguments;
        EXPECT_TRUE(has(out.err, one.says)) << one.arguments << "\n" << out.err;
    }
    EXPECT_EQ(boot.flash(), std::vector<uint8_t>(bench::BootLoader::room, 0xff));
}

// With a programmer the fuse that says when a chip stops is read, and what would set it is told.
TEST(Upload, tells_how_brown_out_detection_is_set) {
    const struct {
        uint8_t fuse;
        const char* says;
        bool fine;
    } cases[] = {{0xff, "Brown-out detection is off.", false},
                 {0xfe, "Brown-out detection is at 1.8 V.", false},
                 {0xfd, "Brown-out detection is at 2.7 V.", false},
                 {0xfc, "Brown-out detection is at 4.3 V.", true}};
    for (const auto& one : cases) {
        const desk::Folder folder;
        folder.write("good.hex", hex_of({0x0c, 0x94}));
        bench::BootLoader boot;
        boot.be_programmer(one.fuse);
        const Answering chip(boot, folder / "chip");
        const Outcome out = desk::shell(
            fmt::format("cd '{}' && '{}' upload good.hex --programmer stk500v1 --port chip",
                        folder.path().string(), ZORILLA_TOOL));
        EXPECT_EQ(out.status, 0) << out.err;
        EXPECT_TRUE(has(out.out, one.says)) << out.out << out.err;
        EXPECT_EQ(out.err.empty(), one.fine) << out.err;
        EXPECT_EQ(has(out.err, "avrdude -p m328p -c 'stk500v1' -P 'chip' -U efuse:w:0xfc:m"),
                  !one.fine)
            << out.err;
    }
}

TEST(Look, sends_what_lies_on_every_kind_of_pin) {
    const desk::Folder folder;
    ASSERT_EQ(
        desk::zorilla("look ADC1 ADC7 PD2 PB4 --echo PD7 PD4 --frame PB0 --pulses PC3 --out '" +
                      folder.path().string() + "'")
            .status,
        0);
    bench::AvrChip chip(folder / "firmware.elf");
    chip.set_millivolts(2500, 1);
    chip.set_millivolts(4000, 7);
    chip.watch("PD7", [&chip](bool high) {
        if (high)
            return;
        chip.in_cycles(16 * 300, [&chip] { chip.put("PD4", true); });
        chip.in_cycles(16 * 1300, [&chip] { chip.put("PD4", false); });
    });
    chip.run_for(100); // it holds its inputs up
    chip.put("PB4", false);
    for (int i = 0; i < 12; ++i) {
        chip.put("PC3", i % 2 == 0);
        chip.run_for(i == 0 ? 500 : 10);
    }
    chip.run_for(3000);
    // As it came out, and as capture takes it.
    const std::string text = chip.serial().substr(0, chip.serial().rfind('\n') + 1);
    const Outcome out = desk::shell(fmt::format("cd '{0}' && '{1}' capture - --out a.csv < {2}",
                                                folder.path().string(), ZORILLA_TOOL,
                                                folder.write("said.txt", text)));
    EXPECT_EQ(out.status, 0) << out.err << text;
    const std::string csv = desk::read_all(folder / "a.csv");
    EXPECT_EQ(csv.substr(0, csv.find('\n')), "time (s),ADC1 (code),ADC7 (code),PD2 (level),PB4 "
                                             "(level),PD4 (us),PB0 (frame),PC3 (edges),condition");
    // Once an echo was heard, six edges counted, and the frame asked for, which nobody answers.
    EXPECT_TRUE(has(csv, ",511,818,1,0,1000,,6,\n")) << csv;
    EXPECT_TRUE(has(csv, ",none,6,\n")) << csv;
}

TEST(Look, tells_which_pin_would_do) {
    const struct {
        const char* arguments;
        const char* says;
    } cases[] = {
        {"", "no pin is named"},
        {"ADC8", "no analogue pin \"ADC8\"; write ADC0 to ADC7"},
        {"PB9", "no digital pin \"PB9\"; write PB0 to PB5"},
        {"PD0", "PD0 is where the serial line receives; PB"},
        {"ADC0 PC0", "PC0 is named twice"},
        {"PD4 --echo PD7 PD4", "PD4 is named twice"},
        {"ADC0 ADC1 --every '10 ms'", "take \"50 ms\" or more"},
    };
    for (const auto& one : cases) {
        const Outcome out = desk::zorilla(std::string("look --out /nowhere/look ") + one.arguments);
        EXPECT_EQ(out.status, 2) << one.arguments;
        EXPECT_TRUE(has(out.err, one.says)) << one.arguments << "\n" << out.err;
    }
}

TEST(Capture, says_commands_and_tells_what_was_answered) {
    const desk::Folder folder;
    folder.write("loft.toml",
                 "[sense.boost]\npart = \"line_value\"\n[sense.loft]\npart = \"raw\"\npin "
                 "= \"ADC0\"\n[decide.hot]\nof = \"loft\"\nabove = \"900 "
                 "counts\"\nrelease = \"800 counts\"\n[drive.lamp]\npart = "
                 "\"relay\"\npin = \"PB0\"\nactive = \"high\"\nsafe = \"off\"\nclaims "
                 "= [ { when = \"hot\", then = \"on\" } ]\n");
    const auto in_folder = [&folder](const std::string& commands) {
        return desk::shell("cd '" + folder.path().string() + "' && PATH=\"" +
                           std::filesystem::path(ZORILLA_TOOL).parent_path().string() +
                           ":$PATH\"\n" + commands);
    };
    const Outcome out = in_folder(
        "zorilla firmware loft.toml --out f --send --build > /dev/null\n"
        "zorilla device thermistor --values '20 degC' --on ADC0 --link board > /dev/null &\n"
        "while [ ! -e board ]; do sleep 0.1; done\nzorilla upload f --port board > /dev/null\n"
        "zorilla capture board --baud 38400 --rig loft.toml --lines 20 --out a.csv --say 'set "
        "boost "
        "40' --say 'set boost 140' --say header\necho status $?\n"
        // The chip is watched as any device: from its first pass on, and none is missed.
        "zorilla live loft.toml board --for '3 s' --say 'set boost 40'\necho live $?\nkill $!\n");
    EXPECT_TRUE(has(out.out, "status 1")) << out.out << out.err;
    EXPECT_TRUE(has(out.out, "live 0")) << out.out << out.err;
    EXPECT_TRUE(has(out.out, "; 0 lines were damaged; of 0 passes no row came\n")) << out.out;
    EXPECT_TRUE(has(out.out, "passes: they are the rig's\n")) << out.out;
    for (const char* answer :
         {"set boost 40: ok\n", "set boost 140: no: outside of what it may be\n",
          "header: ok, the header\n"})
        EXPECT_TRUE(has(out.err, answer)) << out.err;
    EXPECT_TRUE(has(desk::read_all(folder / "a.csv"), ",400,")) << desk::read_all(folder / "a.csv");
    // Who listens to a pipe has nobody to say anything to; and its end is seen.
    const Outcome pipe =
        in_folder("printf 'time (s),a (code)\\n0,1\\n1,2\\n' | zorilla capture - --say "
                  "'set boost 1' --out b.csv");
    EXPECT_EQ(pipe.status, 2);
    EXPECT_TRUE(has(pipe.err, "--say: standard input brings lines")) << pipe.err;
}

} // namespace
