// SPDX-License-Identifier: MIT
// Rigs as C++: what is written does, pass by pass, what the rig file does.
#include "bench/replay.hpp"
#include "bench/trace/trace.hpp"
#include "bench/wiring.hpp"
#include "rig/decide/part.hpp"
#include "rig/drive/part.hpp"
#include "rig/emit/device.hpp"
#include "rig/sense/part.hpp"
#include "rig/text/files.hpp"
#include "tests/desk/process.hpp"
#include "tests/prove/random_life.hpp"

#include <gtest/gtest.h>

#include <map>
#include <set>

namespace {

using namespace zorilla;
using desk::has;

/// Devices as C++ in one program, which is given raw inputs and tells what their outputs are.
class Program {
  public:
    /// \return  its number; nothing if it cannot be written as C++ yet
    std::optional<size_t> add(const std::string& text) {
        rig::RigFile file = rig::parse_rig(text);
        const std::string name = fmt::format("device_{}", rigs_.size());
        const rig::Firmware firmware = rig::firmware_of(file.rig, name, text);
        if (!firmware.gaps.empty()) {
            gaps.push_back(firmware.gaps.front().text);
            return std::nullopt;
        }
        std::string fields, values;
        for (const rig::Sense& sense : file.rig.senses) {
            const char* const calls[] = {"sample()", "echo()", "frame()", "level()", ""};
            fields += sense.raw == rig::RawKind::edges
                          ? fmt::format("in.{0} = {{static_cast<uint16_t>(raw[{1}].bits()), 0, "
                                        "raw[{1}].bits() >= 0}};",
                                        sense.name, &sense - file.rig.senses.data())
                          : fmt::format("in.{} = raw[{}].{};", sense.name,
                                        &sense - file.rig.senses.data(),
                                        calls[static_cast<size_t>(sense.raw)]);
        }
        for (const rig::Drive& drive : file.rig.drives)
            values += fmt::format("tell({}rig::AnyValue(device.{}.value()).bits());",
                                  file.rig.self_test.when.given() ? "device.tests ? 0 : " : "",
                                  drive.name);
        for (const rig::RigMachine& machine : file.rig.machines)
            values += fmt::format("tell(static_cast<unsigned>(device.{}.state()));", machine.name);
        const std::string device = firmware.device;
        code_ += device.substr(device.find("namespace")) +
                 fmt::format("void run_{0}(Instant now, const rig::Raw* raw) {{ static "
                             "{0}::Device device; {0}::Inputs in{{}}; (void)raw; {1} "
                             "device.pass(now, in); {2} }}\n",
                             name, fields, values);
        cases_ += fmt::format("case {}: run_{}(Instant(now), raw); break;", rigs_.size(), name);
        rigs_.push_back(std::move(file.rig));
        return rigs_.size() - 1;
    }
    const rig::Rig& rig(size_t number) const { return rigs_[number]; }

    /// One pass of a device, and what the rig's outputs are after it.
    void pass(size_t number, uint32_t now, const rig::Raw* raws, const rig::RunningRig& running) {
        input_ += fmt::format("{} {}", number, now);
        for (size_t i = 0; i < rigs_[number].senses.size(); ++i)
            input_ += fmt::format(" {}", raws[i].bits());
        input_ += "\n";
        // A self-test is not among what the blocks say.
        for (size_t i = 0; i < rigs_[number].drives.size(); ++i)
            wanted_ += fmt::format(
                "{} ", running.drivens()[i].tested ? 0 : running.drivens()[i].value.bits());
        for (size_t i = 0; i < rigs_[number].machines.size(); ++i)
            wanted_ += fmt::format("{} ", running.state(i));
        wanted_ += "\n";
    }
    /// Compares, with tested outputs left out.
    void compare(const std::vector<std::string>& names) const;

    std::vector<std::string> gaps;

  private:
    std::vector<rig::Rig> rigs_;
    std::string code_, cases_, input_, wanted_;
};

void Program::compare(const std::vector<std::string>& names) const {
    const desk::Folder folder;
    std::string sizes;
    for (const rig::Rig& one : rigs_)
        sizes += fmt::format("{}, ", one.senses.size());
    const std::string source = folder.write(
        "all.cpp",
        "#include <zorilla/zorilla.hpp>\n#include \"rig/model/raw.hpp\"\n"
        "#include \"rig/text/values.hpp\"\n#include <cstdio>\nusing namespace zorilla;\n"
        "static void tell(unsigned bits) { std::printf(\"%u \", bits); }\n" +
            code_ + "int main() { int number; unsigned now; const int sizes[] = {" + sizes +
            "}; while (std::scanf(\"%d %u\", &number, &now) == 2) { rig::Raw raw[64];"
            "for (int i = 0; i < sizes[number]; ++i) { long long bits; if "
            "(std::scanf(\"%lld\", &bits) != 1) return 1; raw[i] = bits == -1 ? rig::Raw() : bits "
            "== -2 ? rig::Raw::silent() : rig::Raw(static_cast<int64_t>(bits)); }"
            "switch (number) {" +
            cases_ + "} std::printf(\"\\n\"); } }\n");
    const std::string program = folder / "all";
    const desk::Outcome built = desk::shell(fmt::format(
        "{} -std=c++17 -O0 -Wall -Wextra -Wconversion -Wshadow -Werror -I{}/include -I{} {} -o {}",
        ZORILLA_CXX, ZORILLA_SOURCE, ZORILLA_SOURCE, source, program));
    ASSERT_EQ(built.status, 0) << built.err.substr(0, 4000);
    const desk::Outcome ran = desk::shell(program + " < " + folder.write("in.txt", input_));
    ASSERT_EQ(ran.status, 0) << ran.err;
    std::istringstream got(ran.out), wanted(wanted_), in(input_);
    std::string a, b, from;
    for (size_t row = 0; std::getline(wanted, b); ++row) {
        std::getline(in, from);
        ASSERT_TRUE(std::getline(got, a));
        ASSERT_EQ(a, b) << "pass " << row << ", input " << from << "\n"
                        << names[static_cast<size_t>(std::stoul(from))];
    }
}

TEST(Firmware, of_every_example_does_what_its_rig_file_does) {
    Program program;
    std::vector<std::string> names;
    for (const auto& [name, trace] :
         std::map<std::string, std::string>{{"aquarium_light", "day"},
                                            {"bilge_pump", "rough_day"},
                                            {"dew_heater", "night"},
                                            {"fume_hood", "evening"},
                                            {"pellet_feeder", "half_hour"},
                                            {"proofing_box", "dough"},
                                            {"rain_barrel", "shower"}}) {
        const std::string folder = ZORILLA_SOURCE "/examples/" + name + "/";
        const auto number = program.add(rig::read_file(folder + name + ".toml"));
        ASSERT_TRUE(number) << name << ": " << program.gaps.back();
        names.push_back(name);
        const rig::Rig& rig = program.rig(*number);
        bench::TraceReader reader(folder + trace + ".csv", bench::columns_of(rig),
                                  [](uint64_t, const std::string&) {});
        rig::RunningRig running(rig);
        while (reader.next()) {
            const auto now = static_cast<uint32_t>(reader.milliseconds());
            running.pass(Instant(now), reader.raws());
            program.pass(*number, now, reader.raws(), running);
        }
    }
    program.compare(names);
}

TEST(Firmware, of_every_part_and_key_does_what_the_rig_file_does) {
    const std::string text = rig::read_file(ZORILLA_SOURCE "/tests/desk/every_part.toml");
    Program program;
    const auto number = program.add(text);
    ASSERT_TRUE(number) << program.gaps.back();
    const rig::Rig& rig = program.rig(*number);
    std::mt19937_64 random(5);
    rig::RunningRig running(rig);
    std::vector<rig::Raw> raws(rig.senses.size());
    std::vector<double> levels(raws.size(), 500);
    int64_t edges = 0;
    uint32_t now = 0xffff'0000;
    std::map<std::string, std::set<uint32_t>> seen;
    std::vector<bool> states(8);
    for (int pass = 0; pass < 20'000; ++pass) {
        now += random() % 50 == 0 ? 3000 : 100;
        edges += static_cast<int64_t>(random() % 12);
        for (size_t i = 0; i < raws.size(); ++i) {
            levels[i] =
                std::clamp(levels[i] + static_cast<double>(random() % 41) - 20, 0.0, 1023.0);
            const bool lost = random() % 300 == 0;
            switch (rig.senses[i].raw) {
            case rig::RawKind::code:
                raws[i] = rig::Raw(static_cast<int64_t>(levels[i]) << rig.senses[i].extra_bits);
                break;
            case rig::RawKind::microseconds:
                raws[i] = random() % 40 == 0 ? rig::Raw::silent()
                                             : rig::Raw(static_cast<int64_t>(levels[i] * 24 + 150));
                break;
            case rig::RawKind::frame: {
                const auto humid = static_cast<int64_t>(levels[i] / 11),
                           warm = static_cast<int64_t>(levels[i] / 20);
                raws[i] = pass % 16 != 0 ? rig::Raw()
                                         : rig::Raw(humid << 32 | 3LL << 24 | warm << 16 |
                                                    5LL << 8 | ((humid + 3 + warm + 5) & 255));
                break;
            }
            case rig::RawKind::level:
                if (pass == 0 || random() % 60 == 0)
                    raws[i] = rig::Raw(static_cast<int64_t>(random() % 2));
                break;
            case rig::RawKind::edges: raws[i] = rig::Raw(edges & 0xffff); break;
            }
            if (lost)
                raws[i] = rig::Raw();
        }
        running.pass(Instant(now), raws.data());
        program.pass(*number, now, raws.data(), running);
        for (size_t i = 0; i < rig.drives.size(); ++i)
            if (!running.drivens()[i].tested)
                seen[rig.drives[i].name].insert(running.drivens()[i].value.bits());
        states[running.state(0)] = true;
    }
    program.compare({"every part"});
    for (const rig::Drive& drive : rig.drives)
        EXPECT_GE(seen[drive.name].size(), 2u) << drive.name << " is always the same";
    EXPECT_GE(std::count(states.begin(), states.end(), true), 3);

    // It has every key that can be written as C++, but for a few of which others stand there.
    const std::set<std::string> others = {"phototransistor load_to_supply", "pulse_counter method",
                                          "pulse_counter still_after", "pulse_counter shortest"};
    const auto look_for = [&](const char* group, const std::string& word,
                              const std::vector<rig::PartKey>& keys) {
        for (const rig::PartKey& key : keys) {
            EXPECT_NE(key.cpp, nullptr) << "say what " << word << " " << key.name << " is in C++";
            bool found = others.count(word + " " + key.name) != 0;
            for (const rig::Node& table : rig.written.get(group)->inside())
                found = found || table.get(key.name) != nullptr;
            EXPECT_TRUE(found) << word << " " << key.name;
        }
    };
    for (const rig::SenseKind& kind : rig::sense_kinds())
        look_for("sense", kind.word, kind.keys);
    for (const rig::DecideKind& kind : rig::decide_kinds())
        look_for("decide", kind.word, kind.keys);
    for (const rig::DriveKind& kind : rig::drive_kinds())
        look_for("drive", kind.word, kind.keys);
}

TEST(Firmware, of_random_rigs_does_what_the_rigs_do) {
    Program program;
    std::vector<std::string> texts;
    const size_t most = std::getenv("ZORILLA_DEEP") != nullptr ? 300 : 24;
    for (uint64_t seed = 1; texts.size() < most; ++seed) {
        const std::string text = random_rig::Maker(seed).text();
        if (!rig::parse_rig(text).mistakes.empty())
            continue;
        const auto number = program.add(text);
        ASSERT_TRUE(number) << program.gaps.back() << "\n" << text;
        texts.push_back(text);
    }
    for (size_t i = 0; i < texts.size(); ++i) {
        random_rig::Life life(program.rig(i), i);
        for (int pass = 0; pass < 400; ++pass) {
            life.pass();
            program.pass(i, life.now(), life.raws().data(), life.running());
        }
    }
    program.compare(texts);
}

TEST(Wiring, names_every_pin_once_with_its_leg_and_every_word_of_it) {
    const std::map<std::string, int> legs = {
        {"PD2", 4},   {"PD3", 5},   {"PD4", 6},   {"PD5", 11},  {"PD6", 12},  {"PD7", 13},
        {"PB0", 14},  {"PB1", 15},  {"PB2", 16},  {"PB3", 17},  {"PB4", 18},  {"PB5", 19},
        {"PC0", 23},  {"PC1", 24},  {"PC2", 25},  {"PC3", 26},  {"PC4", 27},  {"PC5", 28},
        {"ADC0", 23}, {"ADC1", 24}, {"ADC2", 25}, {"ADC3", 26}, {"ADC4", 27}, {"ADC5", 28}};
    std::set<std::string> words;
    const auto look_at = [&](const rig::Rig& rig) {
        std::vector<std::string> pins;
        for (const rig::Sense& sense : rig.senses) {
            if (!sense.pin.empty()) // some are said over the line
                pins.push_back(sense.pin);
            for (const rig::PartPin& pin : sense.other_pins)
                pins.push_back(pin.pin);
            words.insert(sense.word);
        }
        for (const rig::Drive& drive : rig.drives) {
            pins.insert(pins.end(), drive.pins.begin(), drive.pins.end());
            words.insert(drive.word);
        }
        const std::vector<bench::WiringRow> rows = bench::wiring_of(rig);
        for (const bench::WiringRow& row : rows) {
            const auto leg = legs.find(row.pin);
            EXPECT_EQ(row.leg, leg == legs.end() ? 0 : leg->second) << row.pin;
            // Everything in it was said by the file or worked out.
            for (const char* hole : {"{", "}", "  ", "through to", "and to"})
                EXPECT_FALSE(has(row.to, hole)) << row.name << ": " << row.to;
            const auto found = std::find(pins.begin(), pins.end(), row.pin);
            ASSERT_NE(found, pins.end()) << row.pin;
            pins.erase(found);
        }
        EXPECT_TRUE(pins.empty()) << rig.name << " has no wire for " << pins.front();
    };
    for (const auto& entry : std::filesystem::directory_iterator(ZORILLA_SOURCE "/examples"))
        if (const auto file = entry.path() / (entry.path().filename().string() + ".toml");
            std::filesystem::exists(file))
            look_at(rig::load_rig(file).rig);
    look_at(rig::load_rig(ZORILLA_SOURCE "/tests/desk/every_part.toml").rig);
    EXPECT_EQ(words.size(), rig::sense_kinds().size() + rig::drive_kinds().size());
}

} // namespace
