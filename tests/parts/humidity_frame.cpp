// SPDX-License-Identifier: MIT
// humidity_frame: formula and range, what its room delivers, and its faults.
#include "tests/parts/part.hpp"

namespace {

using namespace parts;

const char* const plain_humidity_frame = "part = \"humidity_frame\"\ncoding = \"tenths\"\n";

TEST(HumidityFrame, is_exact_in_both_codings_from_bits_and_from_pulses) {
    Random random(61);
    rig::Noise noise(2);
    for (const auto coding : {FrameCoding::tenths, FrameCoding::whole}) {
        Alone sensor(fmt::format("part = \"humidity_frame\"\ncoding = \"{}\"\n",
                                 coding == FrameCoding::tenths ? "tenths" : "whole"));
        ASSERT_TRUE(sensor.usable());
        const rig::FrameModel model{coding};
        for (uint32_t i = 0; i < 5000; ++i) {
            const int percent = random.whole(1, 1000), celsius = random.whole(-400, 800);
            const auto reading =
                sensor.read(model.at(percent / 10.0, celsius / 10.0, noise), i * 2000);
            ASSERT_EQ(reading.value_or({}).thousandths(), percent * 100);
            ASSERT_EQ(sensor.second().value_or({}).thousandths(), celsius * 100);
            const auto pulses = rig::FrameModel::pulses(model.frame(percent / 10.0, celsius / 10.0),
                                                        random.between(0.8, 1.2), 2, noise);
            const FrameSample decoded =
                decode_pulses(pulses.data(), static_cast<uint16_t>(pulses.size()), Level::low);
            ASSERT_TRUE(decoded.has_frame()) << "with a clock up to 20 % off";
            ASSERT_EQ(decode_frame(coding, decoded.frame()).temperature.value_or({}).thousandths(),
                      celsius * 100);
        }
    }
}

TEST(HumidityFrame, every_flipped_bit_is_told) {
    for (const auto coding : {FrameCoding::tenths, FrameCoding::whole}) {
        const Frame sent = rig::FrameModel{coding}.frame(65.2, -7.3);
        EXPECT_EQ(decode_frame(coding, sent).temperature.value_or({}), Temperature(-7.3_degC));
        for (int bit = 0; bit < 40; ++bit) {
            Frame flipped = sent;
            flipped.bytes[bit / 8] = static_cast<uint8_t>(flipped.bytes[bit / 8] ^ 1 << bit % 8);
            EXPECT_EQ(decode_frame(coding, flipped).temperature.health(), Health::bad_frame) << bit;
        }
    }
}

TEST(HumidityFrame, what_its_room_delivers_is_read_back) {
    expect_read_back(plain_humidity_frame, {61.5, -7.5}, 0.001);
}

TEST(HumidityFrame, each_fault_is_told_by_its_own_health) {
    expect_faults(plain_humidity_frame, {61.5, -7.5},
                  {{Fault::open, Health::missing},
                   {Fault::shorted, Health::missing},
                   {Fault::swapped, Health::missing},
                   {Fault::flipped, Health::bad_frame}});
}

const Cost frame_tenths_costs{bank::frame_tenths, "humidity frame, tenths", 400};
const Cost frame_whole_costs{bank::frame_whole, "humidity frame, whole", 400};
const Cost frame_pulse_costs{bank::frame_pulse, "one pulse of a frame", 400};

const Accuracy humidity_frame_accuracy{
    bank::frame_tenths,
    "one-wire frame, both codings",
    "0.1 to 100 %RH, -40 to 80 degC",
    0,
    "",
    0,
    [] {
        Worst frames;
        const rig::FrameModel tenths_model{FrameCoding::tenths}, whole_model{FrameCoding::whole};
        for (int t = -400; t <= 800; ++t)
            for (int h = 1; h <= 1000; h += 13)
                for (const auto which : {bank::frame_tenths, bank::frame_whole}) {
                    const Frame sent = (which == bank::frame_tenths ? tenths_model : whole_model)
                                           .frame(h / 10.0, t / 10.0);
                    bank::In in{which, 0, 0, sent.bytes[4], 0};
                    for (int i = 0; i < 4; ++i)
                        in.a = in.a << 8 | sent.bytes[i];
                    const bank::Out out = bank::on_desk(in);
                    const double off = std::fabs(out.value / 1000.0 - h / 10.0) +
                                       std::fabs(out.second / 1000.0 - t / 10.0) +
                                       (out.health != 0);
                    frames.see(off < 1e-9 ? 0 : off, 0, 1,
                               [&] { return fmt::format("{} {}", h, t); });
                }
        return frames;
    }};

const CppMistakes humidity_frame_mistakes{
    {"constexpr auto p = humidity_frame(FrameCoding::tenths).every(1_s); HumidityFrame<p> t;",
     "must not be read more often"}};

} // namespace
