// SPDX-License-Identifier: MIT
// Humidity and distance, which a temperature corrects.
#include "rig/sensors/analogue.hpp"
#include "rig/sensors/parts.hpp"

namespace zorilla::rig {

namespace {

/// A temperature that corrects a sensor: that of a source, or a fixed one.
struct AirInput {
    std::optional<size_t> source;
    Temperature fixed = 20_degC;
    bool sound = true;
    Reading<Temperature> at(const AnyReading* sources) const {
        return source ? as<Temperature>(sources[*source]) : Reading<Temperature>::of(fixed);
    }
};
AirInput read_air(PartReader& in, std::string_view why, Sense& sense) {
    AirInput out;
    TableReader& keys = in.keys;
    const toml::node* node = keys.find("temperature");
    Kind kind{};
    if (node != nullptr && node->is_string() && kind_of(node->as_string()->get(), kind)) {
        const auto fixed = keys.quantity("temperature", Kind::temperature, "20 degC");
        out.fixed = of<Temperature>(fixed);
        out.sound = fixed.has_value();
        if (fixed)
            out.sound = keys.expect(detail::in_climate(out.fixed), "temperature",
                                    "between -40 and 85 degC");
        return out;
    }
    constexpr Kind wanted = Kind::temperature;
    out.source = keys.source("temperature", in.rig, &wanted, why);
    out.sound = out.source.has_value();
    if (out.source)
        sense.inputs.push_back(*out.source);
    return out;
}

} // namespace

ReadPart read_humidity_chip(PartReader& in, Sense& out) {
    TableReader& keys = in.keys;
    AnalogueReader analogue(in, Kind::humidity, out);
    const auto slope = keys.required_quantity("slope", Kind::voltage_per_humidity, "31 mV/%RH",
                                              "how much its voltage rises with each percent");
    const auto at_zero =
        keys.required_quantity("at_zero", Kind::voltage, "800 mV", "its voltage at 0 %RH");
    const auto reference = keys.required_quantity("reference", Kind::voltage, "5 V",
                                                  "the voltage that full scale stands for");
    HumidityChipSpec spec = humidity_chip(of<VoltagePerPercent>(slope), of<Voltage>(at_zero))
                                .reference(of<Voltage>(reference))
                                .bits(analogue.bits());
    if (const auto loss = keys.quantity("loses", Kind::percent_per_kelvin, "0.216 %/K"))
        spec = spec.loses(of<PercentPerKelvin>(loss));
    const AirInput air = read_air(in,
                                  "the air's, which corrects it: a sensor above it, or a fixed "
                                  "one such as \"20 degC\"",
                                  out);
    const bool common = analogue.read_common(spec);
    if (!slope || !at_zero || !reference || !air.sound || !common)
        return {};
    keys.expect(spec.slope_is_possible(), "slope", "between 1 and 200 mV/%RH");
    keys.expect(spec.at_zero_is_possible(), "at_zero", "between 0 and 5 V");
    keys.expect(spec.reference_is_possible(), "reference", "between 0.5 and 10 V");
    keys.expect(spec.loss_is_possible(), "loses", "between -0.5 and 0.5 %/K");
    if (!spec.loss_is_possible())
        return {};
    const detail::CompensationCurve curve{spec.loss().thousandths()};
    const auto factors = std::make_shared<DeskTable<detail::CompensationCurve>>(
        curve, plan_table(curve, 0, detail::last_climate_argument, curve.error));
    out.shorted_reads_supply = true;
    return analogue.finish_with(
        spec, "analogue humidity chip", analogue.by_table(spec), [air, factors](auto converter) {
            return starts([=](Instant, Raw raw, const AnyReading* sources, AnyReading* to) {
                *to = any(compensate(converter(raw.sample()), air.at(sources), [&](uint16_t x) {
                    return look_up(factors->plan(), factors->entry(), x);
                }));
            });
        });
}

namespace {

class FrameBlock : public Block {
  public:
    FrameBlock(const HumidityFrameSpec& spec, Duration stuck_after)
        : spec_(spec), watch_(stuck_after, Duration{}) {}
    void pass(Instant now, Raw raw, const AnyReading*, AnyReading* out) override {
        AirReading air = state_.read(spec_, now, raw.frame());
        air.humidity = watch_.pass(now, air.humidity);
        if (air.humidity.health() == Health::stuck)
            air = AirReading::without_value(Health::stuck);
        out[0] = any(air.humidity);
        out[1] = any(air.temperature);
    }
    Duration held(Instant now) const override {
        return state_.holds() ? state_.age(now) : Duration{};
    }

  private:
    HumidityFrameSpec spec_;
    HumidityFrameState state_;
    Watch<RelativeHumidity> watch_;
};

} // namespace

ReadPart read_humidity_frame(PartReader& in, Sense& out) {
    TableReader& keys = in.keys;
    keys.require("coding", "how its bytes stand for numbers, \"whole\" or \"tenths\"",
                 "\"tenths\"");
    const auto coding = keys.choice("coding", {"whole", "tenths"});
    HumidityFrameSpec spec =
        humidity_frame(coding == "whole" ? FrameCoding::whole : FrameCoding::tenths);
    if (const auto every = keys.quantity("every", Kind::duration, "5 s"))
        spec = spec.every(of<Duration>(every));
    if (const auto tries = keys.whole("tries", 1, 100))
        spec = spec.tries(static_cast<uint8_t>(*tries));
    if (const auto hold = keys.quantity("hold", Kind::duration, "30 s"))
        spec = spec.hold(of<Duration>(hold));
    if (coding)
        keys.expect(
            spec.every_is_possible(), "every",
            fmt::format("between {} and 1 h; read more often, a sensor with coding = \"{}\" "
                        "repeats itself or hangs",
                        span_to_text(spec.least_interval(spec.coding()).thousandths()), *coding));
    keys.expect(spec.hold_is_possible(), "hold", "between 0 and 1 h");
    // Temperature may well stand still for hours; humidity wanders.
    const auto stuck_after = keys.quantity("stuck_after", Kind::duration, "2 h");
    out.raw = RawKind::frame;
    out.largest_raw = 0xff'ffff'ffff;
    out.about =
        fmt::format("one-wire humidity sensor; {}, read every {}, missing after {} failed {}",
                    coding.value_or("tenths"), span_to_text(spec.every().thousandths()),
                    spec.tries(), spec.tries() == 1 ? "read" : "reads");
    out.every = spec.every();
    out.start = [spec, stuck = of<Duration>(stuck_after)] {
        return std::make_unique<FrameBlock>(spec, stuck);
    };
    return {coding && spec.every_is_possible() && spec.hold_is_possible(),
            {{out.name + ".humidity", Kind::humidity, 0, 100'000},
             {out.name + ".temperature", Kind::temperature, -40'000, 80'000}}};
}

ReadPart read_ranger(PartReader& in, Sense& out) {
    TableReader& keys = in.keys;
    FilterSpec filters;
    const auto blind =
        keys.required_quantity("blind", Kind::length, "20 mm", "nearer than this it cannot see");
    const auto far = keys.required_quantity("far", Kind::length, "4 m",
                                            "further than this it is not to be trusted");
    RangerSpec spec = ranger(of<Length>(blind), of<Length>(far));
    if (const auto silent = keys.quantity("silent_from", Kind::duration, "36 ms"))
        spec = spec.silent_from(of<Duration>(silent));
    const AirInput air = read_air(in,
                                  "the air's, which the speed of sound goes with: a sensor above "
                                  "it, or a fixed one such as \"20 degC\"",
                                  out);
    read_filters(keys, Kind::length, filters);
    if (!blind || !far || !air.sound)
        return {};
    keys.expect(spec.limits_are_possible(), "far",
                "at least 10 mm beyond \"blind\", and at most at 6 m; \"blind\" between 0 and 1 m");
    if (keys.find("silent_from") != nullptr || spec.limits_are_possible()) {
        if (!spec.silence_is_possible())
            keys.complain(
                fmt::format("{}: \"silent_from\" must be longer than an echo from \"far\" "
                            "takes, about 6.5 ms for each metre, and at most 65 ms",
                            keys.label()));
    }
    out.raw = RawKind::microseconds;
    out.largest_raw = 65'535;
    out.about = "ultrasonic ranger";
    out.start = with_filters(
        filters, starts([spec, air](Instant, Raw raw, const AnyReading* sources, AnyReading* to) {
            const Reading<Temperature> t = air.at(sources);
            Reading<Length> reading = Reading<Length>::without_value(t.health());
            if (t.ok())
                reading = detail::in_climate(t.value_or({}))
                              ? read_echo(spec, raw.echo(),
                                          detail::FunctionTable<detail::HalfSoundCurve>::at(
                                              detail::climate_argument(t.value_or({}))))
                              : Reading<Length>::without_value(Health::out_of_range);
            *to = any(reading);
        }));
    return {spec.is_possible(),
            {{out.name, Kind::length, spec.blind().thousandths(), spec.far().thousandths()}}};
}

} // namespace zorilla::rig
