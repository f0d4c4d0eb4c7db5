// SPDX-License-Identifier: MIT
#include "tests/chips/passes.hpp"

#include "bench/winter.hpp"
#include "rig/files.hpp"
#include "rig/running_rig.hpp"
#include "tests/chips/atmega328p.hpp"
#include "tests/chips/feed.hpp"

#include <algorithm>
#include <cstdlib>
#include <filesystem>
#include <random>
#include <sstream>
#include <stdexcept>
#include <unistd.h>

namespace chips {

namespace {

using namespace zorilla;

rig::Rig heat_lamp_rig() {
    rig::RigFile file = rig::load_rig(ZORILLA_SOURCE "/examples/heat_lamp/heat_lamp.toml");
    if (!file.mistakes.empty())
        throw std::runtime_error(file.mistakes.front().text);
    return std::move(file.rig);
}

void add(Bytes& passes, uint32_t milliseconds, Sample sample) {
    uint8_t packed[feed::pass_in_size];
    feed::pack_in(packed, Instant(milliseconds), sample);
    passes.insert(passes.end(), packed, packed + sizeof packed);
}

/// Hands every pass to `run(in, out)`.
template <class Run> Bytes each(const Bytes& passes, Run run) {
    Bytes out(count_of(passes) * feed::pass_out_size);
    for (size_t i = 0; i < count_of(passes); ++i)
        run(&passes[i * feed::pass_in_size], &out[i * feed::pass_out_size]);
    return out;
}

} // namespace

std::string firmware(const std::string& name) { return ZORILLA_FIRMWARE "/" + name + ".elf"; }

size_t count_of(const Bytes& passes) { return passes.size() / feed::pass_in_size; }

Bytes passes_to_compare() {
    Bytes out;
    std::istringstream trace(bench::winter_trace(heat_lamp_rig()));
    std::string line;
    std::getline(trace, line); // the header
    uint32_t seconds = 0;
    unsigned code = 0;
    char comma = 0;
    while (trace >> seconds >> comma >> code)
        add(out, seconds * 1000, Sample(static_cast<uint16_t>(code)));

    uint32_t now = seconds * 1000;
    for (uint16_t c = 0; c < 1024; ++c)
        add(out, now += 100, Sample(c));

    for (int hour = 0; hour < 20; ++hour) // cold for longer than the lamp may be on
        add(out, now += 3'600'000, Sample(800));

    std::mt19937 random(1);
    now = 0xffff'ffff - 3'600'000;
    for (int i = 0; i < 20'000; ++i) {
        now += static_cast<uint32_t>(random() % (i % 100 == 0 ? 8'000'000 : 60'000));
        switch (random() % 16) {
        case 0: add(out, now, Sample()); break;
        case 1: add(out, now, Sample(static_cast<uint16_t>(random() % 1024))); break;
        default: add(out, now, Sample(static_cast<uint16_t>(700 + random() % 80))); break;
        }
    }
    return out;
}

Bytes run_on_desk(const Bytes& passes) {
    heat_lamp::Device device;
    return each(passes, [&](const uint8_t* in, uint8_t* out) { feed::run(device, in, out); });
}

Bytes run_from_rig_file(const Bytes& passes) {
    const rig::Rig rig = heat_lamp_rig();
    rig::RunningRig running(rig);
    const rig::RigFile chip = rig::parse_rig("[sense.air]\npart = \"linear_chip\"\npin = \"ADC1\"\n"
                                             "slope = \"10 mV/K\"\nat_zero = \"500 mV\"\n"
                                             "reference = \"3.3 V\"\n");
    rig::RunningRig running_chip(chip.rig);
    return each(passes, [&](const uint8_t* in, uint8_t* out) {
        const Sample sample = feed::sample_of(in);
        running.pass(feed::time_of(in), &sample);
        running_chip.pass(feed::time_of(in), &sample);
        const Switching lamp = running.switchings().front();
        feed::pack_out(out, running.readings().front(), running.truths().front(), lamp,
                       rig.drives.front().spec.level(lamp.value), running_chip.readings().front());
    });
}

Bytes run_on_atmega328p(const Bytes& passes) {
    Atmega328p chip(firmware("feed_atmega328p"));
    Bytes in;
    for (size_t i = 0; i < count_of(passes); ++i) {
        in.push_back(1); // one more to come
        const uint8_t* pass = &passes[i * feed::pass_in_size];
        in.insert(in.end(), pass, pass + feed::pass_in_size);
    }
    chip.feed(std::move(in));
    chip.run_to_end();
    return chip.collected();
}

Bytes run_on_cortex_m0(const Bytes& passes) {
    const std::filesystem::path directory =
        std::filesystem::temp_directory_path() / ("zorilla-m0-" + std::to_string(getpid()));
    std::filesystem::create_directories(directory);
    rig::OutputFile in(directory / "passes.in");
    in.write({reinterpret_cast<const char*>(passes.data()), passes.size()});
    in.commit();
    const std::string command = "cd '" + directory.string() +
                                "' && timeout 300 qemu-system-arm -M microbit -nographic "
                                "-semihosting-config enable=on,target=native -kernel '" +
                                firmware("feed_cortex_m0") + "' < /dev/null > messages 2>&1";
    const int status = std::system(command.c_str());
    Bytes out;
    std::string said;
    if (status == 0) {
        const std::string text = rig::read_file(directory / "passes.out");
        out.assign(text.begin(), text.end());
    } else {
        said = rig::read_file(directory / "messages");
    }
    std::filesystem::remove_all(directory);
    if (status != 0)
        throw std::runtime_error("the emulated Cortex-M0 failed: " + said);
    return out;
}

long first_difference(const Bytes& a, const Bytes& b) {
    const auto [in_a, in_b] = std::mismatch(a.begin(), a.end(), b.begin(), b.end());
    if (in_a == a.end() && in_b == b.end())
        return -1;
    return (in_a - a.begin()) / feed::pass_out_size;
}

} // namespace chips
