// SPDX-License-Identifier: MIT
// Every conversion of the library under one roof, so that desk and chips can be fed the same raw
// inputs and compared bit for bit, and each one's cost be counted. With BANK_ONLY defined, only
// that one is compiled in; with BANK_DECISIONS, one half.
#pragma once

#include "tests/chips/bank_io.hpp"

#include <zorilla/zorilla.hpp>

namespace bank {

using namespace zorilla;

// --- The parts; tests build the same from their own numbers

inline constexpr auto beta = thermistor(10_kohm, 3950_K).pull_up(10_kohm).range(-30_degC, 80_degC);
inline constexpr auto points =
    thermistor(point(-20_degC, 97.07_kohm), point(25_degC, 10_kohm), point(80_degC, 1.255_kohm))
        .pull_down(10_kohm)
        .range(-25_degC, 85_degC);
inline constexpr auto coefficients =
    thermistor(1.129148e-3_per_K, 2.34125e-4_per_K, 8.76741e-8_per_K)
        .pull_up(10_kohm)
        .supplied(3.3_V, 5_V)
        .range(-10_degC, 60_degC);
inline constexpr auto lines =
    thermistor_table(point(-40_degC, 567_ohm), point(0_degC, 815_ohm), point(25_degC, 1_kohm),
                     point(60_degC, 1.299_kohm), point(100_degC, 1.696_kohm))
        .pull_up(1_kohm);
inline constexpr auto chip = linear_chip(10_mV_per_K, 500_mV).reference(3.3_V);
inline constexpr auto yard =
    photoresistor(10_kohm, 10_lx, 0.7_times).pull_down(10_kohm).range(0.5_lx, 2000_lx);
inline constexpr auto sky =
    phototransistor(500_nA_per_lx).load_to_ground(10_kohm).reference(5_V).range(10_lx, 950_lx);
inline constexpr auto shade = percent_between(60, 910);
inline constexpr auto cellar =
    humidity_chip(31_mV_per_percent, 800_mV).loses(0.216_percent_per_K).reference(5_V);
inline constexpr auto eye = ranger(20_mm, 4_m);
inline constexpr auto tenths = humidity_frame(FrameCoding::tenths).every(5_s).hold(7_s);
inline constexpr auto nose = gas_sensor(gas_point(10_ppm, 2.6_times), gas_point(200_ppm, 0.7_times))
                                 .pull_down(10_kohm)
                                 .clean_air(3.6_times)
                                 .warm_up(3_s)
                                 .range(0.5_ppm, 500_ppm);
inline constexpr ClimateTable<3, 2> climate{
    {-10_degC, 20_degC, 50_degC},
    {33_percent_RH, 85_percent_RH},
    {1.7_times, 1.5_times, 1_times, 0.9_times, 0.8_times, 0.7_times}};
inline constexpr auto stack = moisture_probe(620, 210).every(2_s).settle(200_ms);
inline constexpr auto hatch = digital_input(active_low).debounce(20_ms);
inline constexpr auto bilge = analogue_level(1.2_V, 2.8_V).reference(5_V);
inline constexpr auto fan = turning_speed(2).by_window(1_s).fastest(50'000_rpm);
inline constexpr auto vane = turning_speed(2).by_period().still_after(3_s).fastest(50'000_rpm);
inline constexpr auto arm =
    value_table(at(112, 0_cm), at(480, 20_cm), at(700, 26_cm), at(900, 35_cm));

inline constexpr auto comfort = inside(18_degC, 24_degC).release(17_degC, 25_degC);
inline constexpr auto stages =
    rising(16_degC, 20_degC, 24_degC, 28_degC).release(15_degC, 15_degC, 23.5_degC, 26_degC);
inline constexpr auto breeze =
    curve(point(14_degC, 10_percent), point(20_degC, 35_percent), point(32_degC, 100_percent))
        .floor(20_percent)
        .dead_band(3_percent);
inline constexpr auto calm = lasting(5_s, 12_s);
inline constexpr auto unjam = act_for(2_s).rest_for(7_s).tries(3).longest_total(5_s);
enum class Door : uint8_t { shut, opening, open, closing, jammed };
enum class Cue : uint8_t { dawn, dusk, at_end, reset };
inline constexpr auto door =
    machine(Door::shut, transition(Door::shut, Door::opening).when(Cue::dawn),
            transition(Door::opening, Door::open).when(Cue::at_end),
            transition(Door::opening, Door::jammed).after(20_s),
            transition(Door::open, Door::closing).when(Cue::dusk).after(3_s),
            transition(Door::closing, Door::shut).when(Cue::at_end),
            transition(Door::closing, Door::jammed).after(20_s),
            transition(Door::jammed, Door::closing).when(Cue::reset));

inline constexpr auto beat =
    sequence(step(colour(100_percent, 40_percent, 0_percent), 700_ms), step(Colour(), 200_ms),
             step(colour(0_percent, 0_percent, 60_percent), 1.1_s));
inline constexpr auto blower = zorilla::fan()
                                   .safe(100_percent)
                                   .kick(60_percent, 900_ms)
                                   .ramp(20_s)
                                   .stall_after(6_s)
                                   .rest_when_stalled(9_s)
                                   .tries(3);
inline constexpr auto lift = relay(active_low).safe(off).warn(3_s).min_on(5_s).min_off(2_s);

inline Reading<Temperature> degrees(int32_t thousandths) {
    return Reading<Temperature>::of(Temperature::from_thousandths(thousandths));
}
inline Reading<RelativeHumidity> percents(int32_t thousandths) {
    return Reading<RelativeHumidity>::of(RelativeHumidity::from_thousandths(thousandths));
}
inline Frame frame_of(const In& in) {
    Frame out;
    for (uint8_t i = 0; i < 4; ++i)
        out.bytes[i] = static_cast<uint8_t>(in.a >> (24 - 8 * i));
    out.bytes[4] = static_cast<uint8_t>(in.b);
    return out;
}
inline Sample code_of(const In& in) {
    return in.a > 0xffff ? Sample() : Sample(static_cast<uint16_t>(in.a));
}
/// A reading made up: its value, or, if `c` is not 0, that health.
inline Reading<Temperature> made_up(const In& in) {
    return in.c != 0 ? Reading<Temperature>::without_value(static_cast<Health>(in.c))
                     : degrees(in.b);
}

template <class Q> void put(Out& out, Reading<Q> reading) {
    out.value = reading.value_or(Q{}).thousandths();
    out.health = static_cast<uint8_t>(reading.health());
}
inline void put(Out& out, Truth truth) { out.health = static_cast<uint8_t>(truth); }
inline void put(Out& out, Sample sample) {
    out.value = sample.code();
    out.health = sample.taken();
}
inline void put(Out& out, AirReading air) {
    put(out, air.humidity);
    out.second = air.temperature.value_or({}).thousandths();
    out.second_health = static_cast<uint8_t>(air.temperature.health());
}

/// Whether it belongs to the second half, decisions and outputs: both together are too large for
/// the smallest chip.
constexpr bool is_decision(int which) { return which >= window_; }

#if defined(BANK_ONLY)
constexpr bool compiled(int which) { return which == BANK_ONLY; }
#elif defined(BANK_DECISIONS)
constexpr bool compiled(int which) { return is_decision(which) == (BANK_DECISIONS != 0); }
#else
constexpr bool compiled(int) { return true; }
#endif

/// A gas sensor, which needs code to begin with; left out where nothing uses it.
template <bool> struct GasSlot {};
template <> struct GasSlot<true> { GasSensor<nose> sensor{30_kohm}; };

/// What the conversions remember.
struct State {
    HumidityFrame<tenths> frames;
    FrameCapture capture;
    GasSlot<compiled(gas) || compiled(gas_in_climate)> gas_slot;
    MoistureProbe<stack> probe;
    DigitalInput<hatch> input;
    AnalogueLevel<bilge> level;
    PulseRate<fan> by_window;
    PulseRate<vane> by_period;
    Median<5, Temperature> median_of_five;
    Smoothing<Temperature> smooth{30_s};
    Oversampling<2> finer{12};
    RateGate<Temperature> gate{5_K, 30_s};
    Watch<Temperature> watching{10_s, 5_s};
    RateOfChange<Temperature> change{5_min};
    Reading<Temperature> list[4];
    CleanAir<nose> step{12_s};
    Window<comfort> window;
    Ladder<stages> ladder;
    Curve<breeze> speed;
    Lasting<calm> lasts;
    Attempts<unjam> tries;
    Machine<door> machine;
    Sequence<beat> show;
    Fan<blower> motor;
    Relay<lift> lifter;
};

/// Truth number `i` of those that an input carries, in two bits each.
inline Truth truth_in(const In& in, uint8_t i) {
    const auto bits = static_cast<uint8_t>(in.a >> 2 * i & 3U);
    return bits == 3 ? Truth::unknown : static_cast<Truth>(bits);
}

template <int Which, class S> inline void convert(S& s, const In& in, Out& out) {
    const Instant now(in.now);
    const auto air = degrees(in.b);
    const auto humidity = percents(in.c);
    if constexpr (!compiled(Which))
        return;
    else if constexpr (Which == thermistor_beta)
        put(out, Thermistor<beta>().read(code_of(in)));
    else if constexpr (Which == thermistor_points)
        put(out, Thermistor<points>().read(code_of(in)));
    else if constexpr (Which == thermistor_coefficients)
        put(out, Thermistor<coefficients>().read(code_of(in)));
    else if constexpr (Which == thermistor_lines)
        put(out, Thermistor<lines>().read(code_of(in)));
    else if constexpr (Which == linear_chip_)
        put(out, LinearChip<chip>().read(code_of(in)));
    else if constexpr (Which == photoresistor_)
        put(out, Photoresistor<yard>().read(code_of(in)));
    else if constexpr (Which == phototransistor_)
        put(out, Phototransistor<sky>().read(code_of(in)));
    else if constexpr (Which == percent)
        put(out, Share<shade>().read(code_of(in)));
    else if constexpr (Which == humidity_chip_)
        put(out, HumidityChip<cellar>().read(code_of(in), air));
    else if constexpr (Which == ranger_)
        put(out,
            Ranger<eye>().read(in.a == 0 ? Echo::none() : Echo(static_cast<uint16_t>(in.a)), air));
    else if constexpr (Which == frame_tenths)
        put(out, decode_frame(FrameCoding::tenths, frame_of(in)));
    else if constexpr (Which == frame_whole)
        put(out, decode_frame(FrameCoding::whole, frame_of(in)));
    else if constexpr (Which == handing_over)
        put(out, made_up(in));
    else if constexpr (Which == frame_reader)
        put(out, s.frames.read(now, in.c == 1   ? FrameSample()
                                    : in.c == 2 ? FrameSample::silent()
                                                : FrameSample(frame_of(in))));
    else if constexpr (Which == frame_pulse) {
        if (in.c == 1)
            s.capture = FrameCapture();
        s.capture.pulse(in.b != 0 ? Level::high : Level::low, static_cast<uint16_t>(in.a));
        const FrameSample result = s.capture.result();
        out = {result.frame().bytes[4], result.has_frame(), result.frame().bytes[0],
               result.answered()};
    } else if constexpr (Which == gas)
        put(out, s.gas_slot.sensor.read(now, code_of(in)));
    else if constexpr (Which == gas_in_climate)
        put(out,
            s.gas_slot.sensor.template read<climate>(now, code_of(in), AirReading{humidity, air}));
    else if constexpr (Which == moisture)
        put(out, s.probe.read(now, code_of(in)));
    else if constexpr (Which == digital)
        put(out, s.input.read(now, in.a > 1 ? LevelSample()
                                            : LevelSample(in.a == 1 ? Level::high : Level::low)));
    else if constexpr (Which == analogue_level_)
        put(out, s.level.read(code_of(in)));
    else if constexpr (Which == rate_by_window)
        put(out, s.by_window.read(now, {static_cast<uint16_t>(in.a), 0, true}));
    else if constexpr (Which == rate_by_period)
        put(out, s.by_period.read(
                     now, {static_cast<uint16_t>(in.a), static_cast<uint32_t>(in.b), true}));
    else if constexpr (Which == value_table_)
        put(out, ValueTable<arm>().read(code_of(in)));
    else if constexpr (Which == median)
        put(out, s.median_of_five.pass(made_up(in)));
    else if constexpr (Which == smoothing)
        put(out, s.smooth.pass(now, made_up(in)));
    else if constexpr (Which == oversampling)
        put(out, s.finer.pass(code_of(in)));
    else if constexpr (Which == rate_gate)
        put(out, s.gate.pass(now, made_up(in)));
    else if constexpr (Which == watch)
        put(out, s.watching.pass(now, made_up(in)));
    else if constexpr (Which == dew_point_)
        put(out, dew_point(air, humidity));
    else if constexpr (Which == heat_index_)
        put(out, heat_index(air, humidity));
    else if constexpr (Which == absolute_humidity_)
        put(out, absolute_humidity(air, humidity));
    else if constexpr (Which == difference_)
        put(out, difference(air, degrees(in.c)));
    else if constexpr (Which == rate_of_change)
        put(out, s.change.pass(now, made_up(in)));
    else if constexpr (Which == mean_of_four) {
        s.list[in.now & 3] = made_up(in);
        put(out, mean(s.list, 4));
    } else if constexpr (Which == air_heat_)
        put(out,
            air_heat(
                Reading<AirFlow>::of(AirFlow::from_thousandths(static_cast<int32_t>(in.a))),
                Reading<TemperatureDifference>::of(TemperatureDifference::from_thousandths(in.b))));
    else if constexpr (Which == window_)
        out.health = static_cast<uint8_t>(s.window.decide(made_up(in)));
    else if constexpr (Which == ladder_) {
        const auto stage = s.ladder.decide(made_up(in));
        out.value = stage.value_or(Stage()).number();
        out.health = static_cast<uint8_t>(stage.health());
    } else if constexpr (Which == curve_) {
        const auto duty = s.speed.decide(made_up(in));
        out.value = duty.value_or(Duty()).of_255();
        out.health = static_cast<uint8_t>(duty.health());
    } else if constexpr (Which == lasting_)
        out.health = static_cast<uint8_t>(s.lasts.pass(now, truth_in(in, 0)));
    else if constexpr (Which == sequence_) {
        const auto claim = s.show.claim(now, truth_in(in, 0));
        out.health = static_cast<uint8_t>(claim.when);
        out.value = claim.then.red.of_255();
        out.second = claim.then.blue.of_255();
    } else if constexpr (Which == fan_) {
        const auto driving = s.motor.drive(now, truth_in(in, 1), truth_in(in, 2),
                                           set_when(truth_in(in, 0), Duty(30_percent)),
                                           set_when(truth_in(in, 3), even(Duty(80_percent))));
        out.health = static_cast<uint8_t>(driving.cause);
        out.value = driving.value.of_255();
    } else if constexpr (Which == warner_) {
        const auto switching = s.lifter.drive_unless(truth_in(in, 1), now, on_when(truth_in(in, 0)),
                                                     off_when(truth_in(in, 2)));
        out.health = static_cast<uint8_t>(switching.cause);
        out.value = static_cast<uint8_t>(switching.value);
        out.second = static_cast<uint8_t>(s.lifter.is_warning());
    } else if constexpr (Which == attempts_) {
        out.health = static_cast<uint8_t>(s.tries.pass(now, truth_in(in, 0), truth_in(in, 1)));
        out.value = static_cast<uint8_t>(s.tries.acts());
    } else if constexpr (Which == machine_) {
        s.machine.pass(now, event<Cue::dawn>(truth_in(in, 0)), event<Cue::dusk>(truth_in(in, 1)),
                       event<Cue::at_end>(truth_in(in, 2)), event<Cue::reset>(truth_in(in, 3)));
        out.health = static_cast<uint8_t>(s.machine.state());
        out.value = static_cast<uint8_t>(s.machine.enters(Door::jammed));
    } else if constexpr (Which == clean_air) {
        if (in.c == 1)
            s.step = CleanAir<nose>(12_s);
        s.step.add(now, code_of(in));
        out.value = s.step.zero().thousandths();
        out.health = static_cast<uint8_t>(s.step.state());
    }
}

/// The conversion that the input names. `call` is what stands around it, such as marks.
template <class Call, int Which = 0> inline Out dispatch(State& s, const In& in, Call call) {
    if constexpr (Which == count) {
        return {};
    } else {
        if constexpr (compiled(Which))
            if (in.which == Which) {
                Out out;
                call(convert<Which, State>, s, in, out);
                return out;
            }
        return dispatch<Call, Which + 1>(s, in, call);
    }
}

inline void put_long(uint8_t* out, uint32_t value) {
    for (uint8_t i = 0; i < 4; ++i)
        out[i] = static_cast<uint8_t>(value >> 8 * i);
}
inline uint32_t get_long(const uint8_t* in) {
    uint32_t out = 0;
    for (uint8_t i = 4; i-- > 0;)
        out = out << 8 | in[i];
    return out;
}
inline void pack(uint8_t* to, const In& in) {
    to[0] = in.which;
    put_long(to + 1, in.now);
    put_long(to + 5, in.a);
    put_long(to + 9, static_cast<uint32_t>(in.b));
    put_long(to + 13, static_cast<uint32_t>(in.c));
}
inline In unpack(const uint8_t* from) {
    return {from[0], get_long(from + 1), get_long(from + 5),
            static_cast<int32_t>(get_long(from + 9)), static_cast<int32_t>(get_long(from + 13))};
}
inline void pack(uint8_t* to, const Out& out) {
    put_long(to, static_cast<uint32_t>(out.value));
    to[4] = out.health;
    put_long(to + 5, static_cast<uint32_t>(out.second));
    to[9] = out.second_health;
}

} // namespace bank
