// SPDX-License-Identifier: MIT
// Buzzers, which are given a tone.
#include "rig/drive/plain.hpp"

namespace zorilla::rig {

namespace {

class Buzzer : public PlainPart {
  public:
    std::string pins(const Drive& drive, AnyValue value) const override {
        return fmt::format("The pin {} {}.", drive.pins.front(),
                           value.any() ? fmt::format("swings {} times a second", value.tone().hertz)
                                       : std::string("stands still"));
    }
    std::vector<Trial> trials(const Drive& drive) const override {
        return {{"1000 Hz", drive.pins.front(), "swings", level_text(drive, false)}};
    }
};

void read_buzzer(DriveReader& in, Drive& out) {
    in.pin(out);
    in.active(out);
    in.values(out);
    out.part = std::make_shared<Buzzer>();
}

} // namespace

DriveKind buzzer_room() {
    return {"buzzer",
            4,
            ValueKind::tone,
            PinWay::tone,
            {{"pin", "\"PB1\"", ""}, {"active", "\"high\"", ""}},
            read_buzzer,
            {"output<Tone>()", "Output", false, nullptr, "Sounding<{pin}, active_{active|high}>",
             "{value}"},
            {{"pin", "",
              "100 ohm to a piezo sounder, its other leg to ground; a coil needs a transistor"}}};
}

} // namespace zorilla::rig
