// SPDX-License-Identifier: MIT
// One-wire sensors that send humidity and temperature as 40 bits.
#include "rig/sense/common.hpp"

namespace zorilla::rig {

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
    bool may_hold() const override { return spec_.hold() > Duration{}; }
    Duration held(Instant now) const override {
        return state_.holds() ? state_.age(now) : Duration{};
    }
    std::unique_ptr<Block> copy() const override { return std::make_unique<FrameBlock>(*this); }

  private:
    HumidityFrameSpec spec_;
    HumidityFrameState state_;
    Watch<RelativeHumidity> watch_;
};

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
    out.wakes = HumidityFrameSpec::least_interval(spec.coding());
    // What data sheets of both codings ask for at least.
    out.notices = spec.coding() == FrameCoding::whole ? 18_ms : 1_ms;
    const FrameModel model{spec.coding()};
    out.part = std::make_shared<SensePart>(
        [spec, stuck = of<Duration>(stuck_after)] {
            return std::make_unique<FrameBlock>(spec, stuck);
        },
        [model](const Surroundings& around, Noise& noise, Fault fault, Raw before) {
            return fault == Fault::stuck && before.taken()
                       ? before
                       : model.at(around.value, around.second, noise, fault);
        },
        CodeScale());
    return {coding && spec.every_is_possible() && spec.hold_is_possible(),
            {{out.name + ".humidity", Kind::humidity, 0, 100'000},
             {out.name + ".temperature", Kind::temperature, -40'000, 80'000}}};
}

} // namespace

SenseKind humidity_frame_room() {
    return {"humidity_frame",
            6,
            false,
            Kind::temperature,
            {},
            {
                {"coding", "\"tenths\"", ""},
                {"every", "\"5 s\"", ".every({})"},
                {"tries", "3", ".tries({})"},
                {"hold", "\"30 s\"", ".hold({})"},
                {"stuck_after", "\"2 h\"", ""},
            },
            read_humidity_frame,
            {{{"", "humidity_frame(FrameCoding::{coding})"}},
             "HumidityFrame",
             "",
             "read(now, {in})",
             "FrameLine<{pin}>",
             "FrameSample"},
            {{"pin", "", "its data leg, and 10 kohm from there to its supply of {board}"}}};
}

} // namespace zorilla::rig
