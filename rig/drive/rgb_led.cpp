// SPDX-License-Identifier: MIT
// LEDs of three colours.
#include "rig/drive/plain.hpp"

namespace zorilla::rig {

namespace {

class RgbLed : public PlainPart {
  public:
    std::string pins(const Drive& drive, AnyValue value) const override {
        const Colour c = value.colour();
        return fmt::format("The pins {} are {} for {}, {} and {} of 255 parts of their time.",
                           fmt::join(drive.pins, ", "), level_text(drive, true),
                           even(c.red).of_255(), even(c.green).of_255(), even(c.blue).of_255());
    }
    std::vector<Trial> trials(const Drive& drive) const override {
        std::vector<Trial> out;
        const char* const colours[] = {"red 100 %", "green 100 %", "blue 100 %"};
        for (size_t i = 0; i < 3; ++i)
            out.push_back(
                {colours[i], drive.pins[i], level_text(drive, true), level_text(drive, false)});
        return out;
    }
};

void read_rgb_led(DriveReader& in, Drive& out) {
    for (const char* key : {"red_pin", "green_pin", "blue_pin"})
        out.pins.push_back(
            in.scope.pin(in.keys, PinWay::level, key, "where that colour is connected"));
    in.active(out);
    in.values(out);
    out.part = std::make_shared<RgbLed>();
}

} // namespace

DriveKind rgb_led_room() {
    return {"rgb_led",
            2,
            ValueKind::colour,
            PinWay::level,
            {
                {"red_pin", "\"PB1\"", ""},
                {"green_pin", "\"PB2\"", ""},
                {"blue_pin", "\"PB3\"", ""},
                {"active", "\"high\"", ""},
            },
            read_rgb_led,
            {"output<Colour>()", "Output", false,
             "Coloured<Switched<{red_pin}, active_{active|high}>, Switched<{green_pin}, "
             "active_{active|high}>, Switched<{blue_pin}, active_{active|high}>>",
             "Coloured<Dimmed<{red_pin}, active_{active|high}>, Dimmed<{green_pin}, "
             "active_{active|high}>, Dimmed<{blue_pin}, active_{active|high}>>",
             "even({value})"},
            {{"red_pin", "", "{series:2} to its red leg"},
             {"green_pin", "", "{series:3.1} to its green leg"},
             {"blue_pin", "active=low", "{series:3.1} to its blue leg; its common leg to {board}"},
             {"blue_pin", "", "{series:3.1} to its blue leg; its common leg to ground"}}};
}

} // namespace zorilla::rig
