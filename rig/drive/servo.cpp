// SPDX-License-Identifier: MIT
// Servos, whose position goes with the length of a pulse.
#include "rig/drive/dimmed.hpp"

namespace zorilla::rig {

namespace {

class Servo : public DimmedPart {
  public:
    using DimmedPart::DimmedPart;
    std::string pins(const Drive& drive, AnyValue value) const override {
        return fmt::format("The pin {} carries pulses of {} us.", drive.pins.front(),
                           servo_pulse(value.duty()));
    }
    std::vector<Trial> trials(const Drive& drive) const override {
        return {{"100 %", drive.pins.front(), "pulses of 2000 us", "pulses of 1000 us"}};
    }
};

void read_servo(DriveReader& in, Drive& out) {
    out.has_level = false;
    out.part = std::make_shared<Servo>(read_dimmed(in, out));
}

} // namespace

DriveKind servo_room() {
    return {
        "servo",
        7,
        ValueKind::duty,
        PinWay::servo,
        dimmed_keys(),
        read_servo,
        {"led(active_{active|high})", "Led", true, nullptr, "Servo<{pin}>", "{value}"},
        {{"pin", "", "its signal wire; its supply is one of its own of 5 V, the grounds joined"}}};
}

} // namespace zorilla::rig
