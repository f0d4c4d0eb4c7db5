// SPDX-License-Identifier: MIT
// Devices sleep: whatever a block remembers must mean the same after three weeks as after two
// months, though the clock of milliseconds wraps meanwhile. Each block lives, sleeps with passes
// far apart, and lives on; how long it slept must not show.
#include <zorilla/zorilla.hpp>

#include <gtest/gtest.h>

#include <functional>
#include <random>
#include <string>
#include <vector>

namespace {

using namespace zorilla;

/// One pass: what comes in, as numbers from 0 to 99, and what goes out as a text.
using Pass = std::function<std::string(Instant now, const int* in)>;
using Start = std::function<Pass()>;

Truth truth(int in) { return in < 10 ? Truth::unknown : truth_of(in < 55); }
std::string text(Truth t) { return t == Truth::yes ? "y" : t == Truth::no ? "n" : "?"; }
template <class Q> std::string text(Reading<Q> r) {
    return r.ok() ? std::to_string(r.value_or(Q{}).thousandths())
                  : "h" + std::to_string(static_cast<int>(r.health()));
}
template <class V> std::string text(const Driving<V>& d) {
    return std::to_string(d.value.of_255()) + "/" + std::to_string(static_cast<int>(d.cause));
}

constexpr auto guarded = relay(active_high)
                             .safe(off)
                             .min_on(2_min)
                             .min_off(5_min)
                             .longest_on(3_h)
                             .warn(3_s)
                             .warn_off(2_s);
constexpr auto lit = led(active_high).safe(20_percent).fade(10_s);
constexpr auto blower = fan()
                            .safe(100_percent)
                            .kick(60_percent, 500_ms)
                            .ramp(4_s)
                            .stall_after(3_s)
                            .rest_when_stalled(10_s)
                            .tries(2);
constexpr auto slow = lasting(30_min, 2_h);
constexpr auto shake = act_for(10_s).rest_for(20_min).tries(3).longest_total(5_min);
constexpr Duration hour = 1_h;
constexpr auto contact = digital_input(active_low);
constexpr auto probe = moisture_probe(620, 210).every(1_h).settle(200_ms);
constexpr auto frame = humidity_frame(FrameCoding::tenths).every(5_s).hold(1_min);
constexpr auto wheel = turning_speed(2).still_after(3_s);
constexpr auto nose = gas_sensor(gas_point(10_ppm, 2.6_times), gas_point(200_ppm, 0.7_times))
                          .pull_down(10_kohm)
                          .warm_up(1_h);
enum class Door : uint8_t { shut, opening, open };
enum class Cue : uint8_t { dawn, dusk };
constexpr auto door = machine(Door::shut, transition(Door::shut, Door::opening).when(Cue::dawn),
                              transition(Door::opening, Door::open).after(20_s),
                              transition(Door::open, Door::shut).when(Cue::dusk).after(6_h));
constexpr auto call = sequence(step(Duty(100_percent), 10_s), step(Duty(), 20_s));

/// A block of type `T` made anew for each life.
template <class T, class... Args, class Of> Start of(Of pass, Args... args) {
    return [=] {
        auto block = std::make_shared<T>(args...);
        return [=](Instant now, const int* in) mutable { return pass(*block, now, in); };
    };
}

const std::vector<std::pair<const char*, Start>> blocks = {
    {"lasting", of<Lasting<slow>>([](auto& b, Instant now, const int* in) {
         return text(b.pass(now, truth(in[0])));
     })},
    {"attempts", of<Attempts<shake>>([](auto& b, Instant now, const int* in) {
         b.pass(now, truth(in[0]), truth(in[1]));
         return text(b.acts()) + text(b.is_locked());
     })},
    {"machine", of<Machine<door>>([](auto& b, Instant now, const int* in) {
         return std::to_string(static_cast<int>(
             b.pass(now, event<Cue::dawn>(truth(in[0])), event<Cue::dusk>(truth(in[1])))));
     })},
    {"relay", of<Relay<guarded>>([](auto& b, Instant now, const int* in) {
         const Switching s = b.drive(now, on_when(truth(in[0])));
         return std::to_string(static_cast<int>(s.value)) + "/" +
                std::to_string(static_cast<int>(s.cause)) + text(b.is_warning());
     })},
    {"fan", of<Fan<blower>>([](auto& b, Instant now, const int* in) {
         return text(b.drive(now, truth(in[1]), truth(in[2]),
                             set_when(truth(in[0]), Duty(80_percent)))) +
                text(b.is_stalled());
     })},
    {"led", of<Led<lit>>([](auto& b, Instant now, const int* in) {
         return text(b.drive(now, set_when(truth(in[0]), Duty(80_percent))));
     })},
    {"hand", of<Hand<hour>>([](auto& b, Instant now, const int* in) {
         const auto claim = b.in_turn(now, truth(in[0]), on, off);
         return text(claim.when) + (claim.then == on ? "1" : "0");
     })},
    {"shutdown", of<ShutdownState>([](auto& b, Instant now, const int* in) {
         return std::to_string(b.pass(2_h, 4, now, truth(in[0])));
     })},
    {"self-test", of<SelfTestState>([](auto& b, Instant now, const int* in) {
         const bool goes = b.pass(2_s, 3, now, truth(in[0]));
         return std::string(goes ? "t" : "f") + (b.of(1) == on ? "1" : "0");
     })},
    {"sequence", of<Sequence<call>>([](auto& b, Instant now, const int* in) {
         return std::to_string(b.claim(now, truth(in[0])).then.of_255());
     })},
    {"contact", of<DigitalInput<contact>>([](auto& b, Instant now, const int* in) {
         return text(b.read(now, in[0] < 10 ? LevelSample()
                                            : LevelSample(in[0] < 50 ? Level::low : Level::high)));
     })},
    {"moisture probe", of<MoistureProbe<probe>>([](auto& b, Instant now, const int* in) {
         return text(b.read(now,
                            in[0] < 10 ? Sample() : Sample(static_cast<uint16_t>(300 + in[0])))) +
                (b.powered() ? "p" : "-");
     })},
    {"humidity frame", of<HumidityFrame<frame>>([](auto& b, Instant now, const int* in) {
         Frame f{{1, static_cast<uint8_t>(in[0]), 0, 200, 0}};
         f.bytes[4] = static_cast<uint8_t>(f.bytes[0] + f.bytes[1] + f.bytes[3]);
         const FrameSample sample = in[1] < 30   ? FrameSample::silent()
                                    : in[1] < 40 ? FrameSample()
                                                 : FrameSample(f);
         const bool due = b.due(now);
         const AirReading air = b.read(now, sample);
         return std::string(due ? "d" : "-") + text(air.humidity) + text(air.temperature);
     })},
    {"pulses",
     of<PulseRate<wheel>>([edges = uint16_t{0}](auto& b, Instant now, const int* in) mutable {
         edges = static_cast<uint16_t>(edges + (in[0] < 50 ? 0 : in[0] / 10));
         return text(b.read(now, PulseSample{edges, 1000, in[1] >= 10}));
     })},
    {"gas", of<GasSensor<nose>>(
                [](auto& b, Instant now, const int* in) {
                    return text(b.read(
                        now, in[0] < 10 ? Sample() : Sample(static_cast<uint16_t>(300 + in[0]))));
                },
                Resistance(30_kohm))},
    {"watch", of<Watch<Temperature>>(
                  [](auto& b, Instant now, const int* in) {
                      return text(
                          b.pass(now, in[0] < 20 ? Reading<Temperature>()
                                                 : Reading<Temperature>::of(
                                                       Temperature::from_thousandths(in[0] / 20))));
                  },
                  Duration(6_h), Duration(5_s))},
    {"rate gate",
     of<RateGate<Temperature>>(
         [](auto& b, Instant now, const int* in) {
             return text(b.pass(
                 now, Reading<Temperature>::of(Temperature::from_thousandths(in[0] * 1000))));
         },
         TemperatureDifference(5_K), Duration(30_s))},
    {"rate of change",
     of<RateOfChange<Temperature>>(
         [](auto& b, Instant now, const int* in) {
             return text(b.pass(
                 now, Reading<Temperature>::of(Temperature::from_thousandths(in[0] * 1000))));
         },
         Duration(5_min))},
    {"hold",
     of<Hold<Temperature>>(
         [](auto& b, Instant now, const int* in) {
             return text(b.pass(
                 now, in[0] < 40 ? Reading<Temperature>::without_value(Health::no_echo)
                                 : Reading<Temperature>::of(Temperature::from_thousandths(in[0]))));
         },
         Duration(1_h))},
};

/// The outputs after a sleep of so many days.
std::string life(const Start& start, uint32_t seed, int days) {
    const Pass pass = start();
    std::mt19937 random(seed);
    auto now = static_cast<uint32_t>(random());
    int in[3] = {50, 50, 50};
    std::string out;
    const auto lives = [&](int passes, bool told) {
        for (int i = 0; i < passes; ++i) {
            for (int& one : in)
                if (random() % 3 == 0)
                    one = static_cast<int>(random() % 100);
            const uint32_t steps[] = {20, 100, 1000, 5000, 60'000, 600'000};
            now += steps[random() % 6];
            const std::string is = pass(Instant(now), in);
            if (told)
                out += is + " ";
        }
    };
    lives(40, false);
    for (int i = 0; i < days * 4; ++i) {
        now += 6 * 3'600'000U;
        out = pass(Instant(now), in) + " ";
    }
    lives(40, true);
    return out;
}

TEST(Sleep, of_two_months_is_like_one_of_three_weeks_to_every_block) {
    for (const auto& [name, start] : blocks)
        for (uint32_t seed = 1; seed <= 60; ++seed)
            for (const int days : {27, 39, 48, 60}) // passes that all small rounds divide
                ASSERT_EQ(life(start, seed, days), life(start, seed, 21))
                    << name << ", " << days << " days, seed " << seed;
}

} // namespace
