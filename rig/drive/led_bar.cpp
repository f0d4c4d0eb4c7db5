// SPDX-License-Identifier: MIT
// Rows of LEDs that show a stage.
#include "rig/drive/plain.hpp"

namespace zorilla::rig {

namespace {

class LedBar : public PlainPart {
  public:
    explicit LedBar(bool only_top) : only_top_(only_top) {}
    std::string pins(const Drive& drive, AnyValue value) const override {
        return fmt::format(only_top_ && value.any() ? "Of the pins {} number {} alone is {}."
                                                    : "Of the pins {} the first {} are {}.",
                           fmt::join(drive.pins, ", "), value.stage().number(),
                           level_text(drive, true));
    }
    std::vector<Trial> trials(const Drive& drive) const override {
        std::vector<Trial> out;
        for (size_t i = 0; i < drive.pins.size(); ++i)
            out.push_back({fmt::format("light {}", i + 1), drive.pins[i], level_text(drive, true),
                           level_text(drive, false)});
        return out;
    }

  private:
    bool only_top_; ///< it lights the stage that holds, not those below
};

void read_led_bar(DriveReader& in, Drive& out) {
    out.pins = in.scope.pins(in.keys, "pins");
    const bool only_top = out.top_only = in.keys.choice("lights", {"all", "top"}) == "top";
    in.active(out);
    in.values(out);
    out.part = std::make_shared<LedBar>(only_top);
}

} // namespace

DriveKind led_bar_room() {
    return {
        "led_bar",
        3,
        ValueKind::stage,
        PinWay::level,
        {
            {"pins", "[\"PD4\", \"PD5\", \"PD6\"]", ""},
            {"lights", "\"top\"", ""},
            {"active", "\"high\"", ""},
        },
        read_led_bar,
        {"output<Stage>()", "Output", false,
         "Bar<Lights::{lights|all}, active_{active|high}, {pins:{}}>", nullptr, "{value}"},
        {{"pins", "active=low", "{series:2} to the short leg of a light; its long leg to {board}"},
         {"pins", "", "{series:2} to the long leg of a light; its short leg to ground"}}};
}

} // namespace zorilla::rig
