// SPDX-License-Identifier: MIT
// LEDs, which look even to the eye.
#include "rig/drive/dimmed.hpp"

namespace zorilla::rig {

namespace {

class Led : public DimmedPart {
  public:
    using DimmedPart::DimmedPart;
    std::string pins(const Drive& drive, AnyValue value) const override {
        return duty_pin(drive, value.duty(), even(value.duty()),
                        ", which looks to the eye like that brightness");
    }
};

void read_led(DriveReader& in, Drive& out) {
    out.part = std::make_shared<Led>(read_dimmed(in, out));
}

} // namespace

DriveKind led_room() {
    return {"led",
            1,
            ValueKind::duty,
            PinWay::level,
            dimmed_keys(),
            read_led,
            {"led(active_{active|high})", "Led", true, "Switched<{pin}, active_{active|high}>",
             "Dimmed<{pin}, active_{active|high}>", "even({value})"},
            {{"pin", "active=low", "{series:2} to its short leg; its long leg to {board}"},
             {"pin", "", "{series:2} to its long leg; its short leg to ground"}}};
}

} // namespace zorilla::rig
