// SPDX-License-Identifier: MIT
// Ultrasonic rangers, which the temperature of the air corrects.
#include "rig/sense/air.hpp"

namespace zorilla::rig {

namespace {

/// Whether the chip's pin bears its echo, and takes it for one.
void read_voltage(PartReader& in) {
    TableReader& keys = in.keys;
    const int32_t supply = keys.quantity("supply", Kind::voltage, "5 V").value_or(5'000'000) / 1000;
    const std::vector<int32_t> divider =
        keys.quantities("echo_divider", Kind::resistance, 2, 2, "[\"10 kohm\", \"20 kohm\"]");
    const ChipFacts* chip = in.rig.chip_facts();
    if (chip == nullptr || (keys.find("echo_divider") != nullptr && divider.size() != 2))
        return;
    const double high = divider.size() != 2 ? supply
                                            : static_cast<double>(supply) * divider[1] /
                                                  (static_cast<double>(divider[0]) + divider[1]);
    if (high > chip->supply + 200)
        keys.complain(fmt::format(
            "{}: its echo is as high as its supply, {:.2g} V{}, and a pin of the {} bears {:g} V: "
            "put 10 kohm from the echo to the pin and 20 kohm from the pin to ground, and write "
            "echo_divider = [\"10 kohm\", \"20 kohm\"]; or take a ranger for {:g} V and write "
            "supply "
            "= \"{:g} V\"",
            keys.label(), supply / 1000.0,
            divider.empty() ? "" : fmt::format(", and {:.3g} V behind its divider", high / 1000),
            chip->name, chip->supply / 1000.0, chip->supply / 1000.0, chip->supply / 1000.0));
    else if (high < 0.65 * chip->supply)
        keys.complain(fmt::format(
            "{}: its echo is {:.2g} V high at the pin, which the {} at {:g} V "
            "does not take for high: {}",
            keys.label(), high / 1000, chip->name, chip->supply / 1000.0,
            divider.empty() ? "give it a higher \"supply\"" : "leave \"echo_divider\" out"));
}

ReadPart read_ranger(PartReader& in, Sense& out) {
    TableReader& keys = in.keys;
    FilterSpec filters;
    read_voltage(in);
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
    out.pings = 60_ms; // as roles of pins do, and data sheets ask
    out.median = filters.median;
    const EchoModel model{0, thousandth_of(blind), thousandth_of(far)};
    out.part = std::make_shared<SensePart>(
        with_filters(filters, starts([spec, air](Instant, Raw raw, const AnyReading* sources,
                                                 AnyReading* to) {
                         *to = any(read_echo(spec, raw.echo(), air.at(sources)));
                     })),
        [model, air](const Surroundings& around, Noise& noise, Fault fault, Raw before) {
            return fault == Fault::stuck && before.taken()
                       ? before
                       : model.at(around.value + around.noise * noise.normal(), air.celsius(around),
                                  noise, fault);
        },
        CodeScale());
    return {spec.is_possible(),
            {{out.name, Kind::length, spec.blind().thousandths(), spec.far().thousandths()}}};
}

} // namespace

SenseKind ranger_room() {
    return {
        "ranger",
        7,
        false,
        Kind::length,
        {{"ping_pin", "the output that starts a ping"}},
        with_filter_keys({
            {"blind", "\"20 mm\"", ""},
            {"far", "\"4 m\"", ""},
            {"silent_from", "\"36 ms\"", ".silent_from({})"},
            {"supply", "\"5 V\"", ""},
            {"echo_divider", "[\"10 kohm\", \"20 kohm\"]", ""},
            {"temperature", "\"20 degC\"", ""},
        }),
        read_ranger,
        {{{"", "ranger({blind}, {far})"}},
         "Ranger",
         "",
         "read({in}, {air})",
         "EchoTime<{ping_pin}, {pin}>",
         "Echo",
         "read<{air}>({in})"},
        {{"pin", "echo_divider",
          "its echo through the first of {echo_divider}; the second goes from this leg to ground"},
         {"pin", "", "its echo"},
         {"ping_pin", "", "its trigger; its supply to {supply|5 V} and ground"}}};
}

} // namespace zorilla::rig
