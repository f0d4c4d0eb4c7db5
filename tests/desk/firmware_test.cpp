// SPDX-License-Identifier: MIT
// Rigs as C++: what is written does, pass by pass, what the rig file does.
#include "bench/trace/trace.hpp"
#include "rig/emit/device.hpp"
#include "rig/text/files.hpp"
#include "tests/desk/process.hpp"
#include "tests/prove/random_rig.hpp"

#include <gtest/gtest.h>

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
        const rig::Firmware firmware = rig::firmware_of(file.rig, name, text, 100_ms);
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
            values += fmt::format("tell(rig::AnyValue(device.{}.value()).bits());", drive.name);
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
        std::vector<bench::WantedColumn> columns;
        for (const rig::Sense& sense : rig.senses)
            columns.push_back({sense.name, sense.raw, sense.largest_raw});
        bench::TraceReader reader(folder + trace + ".csv", columns,
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

TEST(Firmware, of_random_rigs_does_what_the_rigs_do) {
    Program program;
    std::vector<std::string> texts;
    const size_t most = std::getenv("ZORILLA_DEEP") != nullptr ? 300 : 24;
    for (uint64_t seed = 1; texts.size() < most; ++seed) {
        const std::string text = random_rig::Maker(seed).text();
        if (!rig::parse_rig(text).mistakes.empty() || has(text, "self_test"))
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

} // namespace
