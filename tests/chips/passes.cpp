// SPDX-License-Identifier: MIT
#include "tests/chips/passes.hpp"

#include "rig/run/running_rig.hpp"
#include "rig/sense/forward.hpp"
#include "rig/text/files.hpp"
#include "tests/chips/atmega328p.hpp"
#include "tests/chips/bank.hpp"
#include "tests/chips/device_runs.hpp"
#include "tests/chips/feed.hpp"
#include "tests/winter.hpp"

#include <fmt/format.h>

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

rig::Rig example_rig(const std::string& name) {
    rig::RigFile file = rig::load_rig(fmt::format(ZORILLA_SOURCE "/examples/{0}/{0}.toml", name));
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
template <class Run> Bytes each(const Fed& fed, Run run) {
    Bytes out(fed.count() * fed.out_size);
    for (size_t i = 0; i < fed.count(); ++i)
        run(&fed.inputs[i * fed.in_size], &out[i * fed.out_size]);
    return out;
}

} // namespace

std::string firmware(const std::string& name) { return ZORILLA_FIRMWARE "/" + name + ".elf"; }

Fed heat_lamp_passes() {
    Bytes out;
    std::istringstream trace(tests::winter_trace(example_rig("hen_house")));
    std::string line;
    std::getline(trace, line); // the header; the roost is the first sensor
    uint32_t seconds = 0;
    while (std::getline(trace, line)) {
        const size_t comma = line.find(',');
        seconds = static_cast<uint32_t>(std::stoul(line));
        add(out, seconds * 1000, Sample(static_cast<uint16_t>(std::stoul(line.substr(comma + 1)))));
    }

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
    return {"feed", feed::pass_in_size, feed::pass_out_size, std::move(out)};
}

namespace {

/// Makes the inputs of `conversions`.
class Conversions {
  public:
    Bytes make() {
        using namespace bank;
        for (const Which which : {thermistor_beta, thermistor_points, thermistor_coefficients,
                                  thermistor_lines, linear_chip_, photoresistor_, phototransistor_,
                                  percent, analogue_level_, value_table_})
            every_code(which);
        for (const uint8_t which : {humidity_chip_, gas_in_climate})
            many(which, [&](In& in) {
                in.a = one_of({0, 1, 1023, 70'000}, 1024);
                in.b = between(-41'000, 86'000);
                in.c = between(0, 100'000);
                in.now += 100;
            });
        many(ranger_, [&](In& in) {
            in.a = one_of({0, 1, 116, 117, 65'535}, 65'536);
            in.b = between(-41'000, 86'000);
        });
        for (const uint8_t which : {frame_tenths, frame_whole, frame_reader})
            many(which, [&](In& in) { frame(in, which == frame_whole); });
        frame_pulses();
        for (const uint8_t which : {gas, moisture, oversampling, clean_air})
            many(which, [&](In& in) {
                in.a = random() % 64 == 0 ? one_of({0, 1023, 70'000}, 1024)
                                          : 400 + random() % (which == gas ? 500 : 10);
                in.now += random() % 200;
                in.c = which == clean_air && random() % 150 == 0;
            });
        many(digital, [&](In& in) {
            in.a = random() % 97 == 0 ? 2 : random() % 3 == 0 ? random() % 2 : in.a & 1U;
            in.now += random() % 15;
        });
        for (const uint8_t which : {rate_by_window, rate_by_period})
            many(which, [&](In& in) {
                const uint32_t step = random() % 50 == 0 ? random() % 10'000 : random() % 300;
                in.now += step;
                if (random() % 4 != 0)
                    in.a = (in.a + random() % (random() % 20 + 1)) & 0xffff;
                in.b = static_cast<int32_t>(one_of({0, 1, 0x7fffffff}, 1U << random() % 31));
            });
        for (const uint8_t which :
             {median, smoothing, rate_gate, watch, rate_of_change, mean_of_four, handing_over})
            many(which, [&](In& in) {
                in.now += random() % 64 == 0 ? random() % 200'000 : random() % 900;
                in.b = random() % 40 == 0 ? between(-2'000'000'000, 2'000'000'000)
                                          : in.b + between(-300, 300) * (random() % 3 == 0);
                in.c = random() % 80 == 0 ? 1 + static_cast<int32_t>(random() % 12) : 0;
            });
        for (const uint8_t which : {window_, ladder_, curve_})
            many(which, [&](In& in) {
                in.b = random() % 60 == 0 ? between(-2'000'000'000, 2'000'000'000)
                                          : std::clamp(in.b + between(-900, 900), 11'000, 36'000);
                in.c = random() % 40 == 0 ? 1 + static_cast<int32_t>(random() % 12) : 0;
            });
        // Truths that stay for a while, across the wrap of the clock and long pauses.
        for (const uint8_t which : {lasting_, attempts_, machine_, sequence_, fan_, warner_})
            many(which, [&](In& in) {
                in.now += random() % 200 == 0 ? random() : random() % 3000;
                for (uint8_t i = 0; i < 4; ++i)
                    if (random() % (which == machine_ || which == fan_ ? 4 : 9) == 0) {
                        const uint32_t truth = random() % 20 == 0 ? 3 : random() % 2 * 2;
                        in.a = (in.a & ~(3U << 2 * i)) | truth << 2 * i;
                    }
            });
        for (const uint8_t which : {dew_point_, heat_index_, absolute_humidity_})
            many(which, [&](In& in) {
                in.b = static_cast<int32_t>(
                    one_of_signed({-40'000, 0, 26'667, 45'000, 60'000}, -41'000, 61'000));
                in.c = static_cast<int32_t>(
                    one_of_signed({0, 1000, 13'000, 85'000, 100'000}, 0, 101'000));
            });
        for (const uint8_t which : {difference_, air_heat_})
            many(which, [&](In& in) {
                in.a = random() % 120'000'000;
                in.b = between(-2'000'000'000, 2'000'000'000) >> random() % 16;
                in.c = between(-2'000'000'000, 2'000'000'000) >> random() % 16;
                in.now = random();
            });
        return std::move(out_);
    }

  private:
    uint32_t random() { return static_cast<uint32_t>(random_()); }
    int32_t between(int32_t low, int32_t high) {
        return std::uniform_int_distribution<int32_t>(low, high)(random_);
    }
    uint32_t one_of(std::initializer_list<uint32_t> ends, uint32_t below) {
        return random() % 50 == 0 ? ends.begin()[random() % ends.size()] : random() % below;
    }
    int32_t one_of_signed(std::initializer_list<int32_t> ends, int32_t low, int32_t high) {
        return random() % 50 == 0 ? ends.begin()[random() % ends.size()] : between(low, high);
    }
    void add(const bank::In& in) {
        uint8_t packed[bank::in_size];
        bank::pack(packed, in);
        out_.insert(out_.end(), packed, packed + sizeof packed);
    }
    void every_code(uint8_t which) {
        for (uint32_t code = 0; code <= 1023; ++code)
            add({which, 0, code, 0, 0});
        add({which, 0, 70'000, 0, 0}); // not taken
    }
    template <class Next> void many(uint8_t which, Next next) {
        bank::In in{which, 0xffff'ffffU - 400'000, 0, 0, 0}; // across the wrap of the clock
        for (int i = 0; i < 20'000; ++i) {
            next(in);
            add(in);
        }
    }
    void frame(bank::In& in, bool whole) {
        rig::FrameModel model{whole ? FrameCoding::whole : FrameCoding::tenths};
        const Frame sent =
            model.frame(between(0, whole ? 990 : 1050) / 10.0, between(-450, 850) / 10.0);
        in.a = 0;
        for (int i = 0; i < 4; ++i)
            in.a = in.a << 8 | sent.bytes[i];
        in.b = sent.bytes[4];
        if (random() % 4 == 0)
            in.a ^= 1U << random() % 32;
        in.c = static_cast<int32_t>(random() % 5);
        in.now += random() % 4000;
    }
    void frame_pulses() {
        rig::Noise noise(4);
        for (int i = 0; i < 250; ++i) {
            Frame sent =
                rig::FrameModel{}.frame(between(0, 1000) / 10.0, between(-400, 800) / 10.0);
            auto pulses = rig::FrameModel::pulses(sent, between(75, 125) / 100.0, 2, noise);
            if (i % 3 == 0)
                pulses[random() % pulses.size()] = static_cast<uint16_t>(random() % 200);
            for (size_t k = 0; k < pulses.size(); ++k)
                add({bank::frame_pulse, 0, pulses[k], static_cast<int32_t>(k % 2), k == 0});
        }
    }

    Bytes out_;
    std::mt19937 random_{5};
};

} // namespace

Fed conversions() { return {"bank", bank::in_size, bank::out_size, Conversions().make()}; }

namespace {

bank::Out bank_pass(bank::State& state, const bank::In& in) {
    return bank::dispatch(state, in,
                          [](auto* convert, bank::State& s, const bank::In& one, bank::Out& out) {
                              convert(s, one, out);
                          });
}

} // namespace

Bytes run_on_desk(const Fed& fed) {
    for (const ExampleDevice& device : example_devices())
        if (device.firmware == fed.firmware)
            return device.run(fed);
    if (fed.firmware == "bank") {
        bank::State state;
        return each(fed, [&](const uint8_t* in, uint8_t* out) {
            bank::pack(out, bank_pass(state, bank::unpack(in)));
        });
    }
    heat_lamp::Device device;
    return each(fed, [&](const uint8_t* in, uint8_t* out) { feed::run(device, in, out); });
}

Bytes run_from_rig_file(const Fed& fed) {
    const rig::Rig rig = example_rig("heat_lamp");
    rig::RunningRig running(rig);
    return each(fed, [&](const uint8_t* in, uint8_t* out) {
        const rig::Raw raw(feed::sample_of(in));
        running.pass(feed::time_of(in), &raw);
        const rig::Driven& driven = running.drivens().front();
        const Switching lamp{driven.value.on_off(), driven.cause, driven.claim};
        feed::pack_out(out, rig::as<Temperature>(running.readings().front()),
                       running.truths().front(), lamp,
                       rig.drives.front().part->relay()->level(lamp.value));
    });
}

Bytes announced(const Fed& fed) {
    Bytes out;
    for (size_t i = 0; i < fed.count(); ++i) {
        out.push_back(1); // one more to come
        const uint8_t* in = &fed.inputs[i * fed.in_size];
        out.insert(out.end(), in, in + fed.in_size);
    }
    return out;
}

namespace {

Bytes run_firmware(const Fed& fed, const std::string& name) {
    Atmega328p chip(firmware(name));
    chip.feed(announced(fed));
    chip.run_to_end();
    return chip.collected();
}

} // namespace

Bytes run_on_atmega328p(const Fed& fed) {
    if (fed.firmware != "bank")
        return run_firmware(fed, fed.firmware + "_atmega328p");
    // All of the bank does not fit into its program memory at once: conversions and decisions are
    // two firmwares, and their results are put together again.
    Fed parts[2] = {{fed.firmware, fed.in_size, fed.out_size, {}},
                    {fed.firmware, fed.in_size, fed.out_size, {}}};
    const auto part_of = [&fed](size_t i) {
        return bank::is_decision(fed.inputs[i * fed.in_size]) ? size_t{1} : size_t{0};
    };
    for (size_t i = 0; i < fed.count(); ++i) {
        const auto from = fed.inputs.begin() + static_cast<ptrdiff_t>(i * fed.in_size);
        Bytes& to = parts[part_of(i)].inputs;
        to.insert(to.end(), from, from + static_cast<ptrdiff_t>(fed.in_size));
    }
    const Bytes results[2] = {run_firmware(parts[0], "bank_atmega328p"),
                              run_firmware(parts[1], "decisions_atmega328p")};
    Bytes out;
    size_t next[2] = {};
    for (size_t i = 0; i < fed.count(); ++i) {
        const size_t part = part_of(i);
        const size_t at = next[part]++ * fed.out_size;
        if (at + fed.out_size > results[part].size())
            break; // it ended too early, which the comparison will find
        const auto from = results[part].begin() + static_cast<ptrdiff_t>(at);
        out.insert(out.end(), from, from + static_cast<ptrdiff_t>(fed.out_size));
    }
    return out;
}

Bytes run_on_cortex(const Fed& fed, const std::string& core) {
    const std::filesystem::path directory =
        std::filesystem::temp_directory_path() / fmt::format("zorilla-{}-{}", core, getpid());
    std::filesystem::create_directories(directory);
    rig::OutputFile in(directory / "passes.in");
    in.write({reinterpret_cast<const char*>(fed.inputs.data()), fed.inputs.size()});
    in.commit();
    const std::string command =
        fmt::format("cd '{}' && timeout 300 qemu-system-arm -M {} -nographic -semihosting-config "
                    "enable=on,target=native -kernel '{}' < /dev/null > messages 2>&1",
                    directory.string(), core == "m0" ? "microbit" : "lm3s6965evb",
                    firmware(fed.firmware + "_cortex_" + core));
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
        throw std::runtime_error(fmt::format("the emulated Cortex-{} failed: {}", core, said));
    return out;
}

long first_difference(const Fed& fed, const Bytes& a, const Bytes& b) {
    const auto [in_a, in_b] = std::mismatch(a.begin(), a.end(), b.begin(), b.end());
    if (in_a == a.end() && in_b == b.end())
        return -1;
    return (in_a - a.begin()) / static_cast<long>(fed.out_size);
}

} // namespace chips

bank::Out bank::on_desk(const In& in) {
    static State state;
    return chips::bank_pass(state, in);
}
