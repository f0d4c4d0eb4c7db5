// SPDX-License-Identifier: MIT
// Contacts, buttons and other pins that are high or low.
#include "rig/sense/truths.hpp"

namespace zorilla::rig {

namespace {

class DigitalBlock : public Block {
  public:
    explicit DigitalBlock(const DigitalInputSpec& spec) : spec_(spec) {}
    void pass(Instant now, Raw raw, const AnyReading*, AnyReading* to) override {
        truth_ = state_.read(spec_, now, raw.level());
        *to = reading_of(truth_);
    }
    /// Once a level is taken for what it is, it counts for nothing how long it has been there.
    bool rests(Raw seen) const override {
        return seen.level().taken() && truth_ != Truth::unknown &&
               (seen.level().level() == spec_.active()) == (truth_ == Truth::yes);
    }
    std::unique_ptr<Block> copy() const override { return std::make_unique<DigitalBlock>(*this); }

  private:
    DigitalInputSpec spec_;
    DigitalInputState state_;
    Truth truth_ = Truth::unknown;
};

ReadPart read_digital_input(PartReader& in, Sense& out) {
    TableReader& keys = in.keys;
    keys.require("active", "the level that means yes, \"low\" or \"high\"", "\"low\"");
    const auto active = keys.choice("active", {"low", "high"});
    DigitalInputSpec spec = digital_input(active == "low" ? active_low : active_high);
    if (const auto time = keys.quantity("debounce", Kind::duration, "20 ms"))
        spec = spec.debounce(of<Duration>(time));
    keys.expect(spec.debounce_is_possible(), "debounce", "between 0 and 10 s");
    out.raw = RawKind::level;
    out.largest_raw = 1;
    out.about = fmt::format("digital input; yes when the pin is {}, debounced for {}",
                            active.value_or("low"), span_to_text(spec.debounce().thousandths()));
    out.part = std::make_shared<SensePart>(
        [spec] { return std::make_unique<DigitalBlock>(spec); },
        // A wire that is off leaves the pin where its resistor holds it: not active.
        [yes = active == "low" ? 0 : 1](const Surroundings& around, Noise&, Fault fault,
                                        Raw before) {
            if (fault == Fault::dropped)
                return Raw();
            if (fault == Fault::stuck && before.taken())
                return before;
            const bool is = fault == Fault::shorted || (fault != Fault::open && around.value != 0);
            return Raw(int64_t{is ? yes : 1 - yes});
        },
        CodeScale());
    return truth_part(out, active && spec.debounce_is_possible());
}

} // namespace

SenseKind digital_input_room() {
    return {"digital_input",
            10,
            false,
            Kind::temperature,
            {},
            {
                {"active", "\"low\"", ""},
                {"debounce", "\"20 ms\"", ".debounce({})"},
            },
            read_digital_input,
            {{{"", "digital_input(active_{active})"}},
             "DigitalInput",
             "",
             "read(now, {in})",
             "Digital<{pin}, Pull::{held}>",
             "LevelSample"},
            {{"pin", "active=low",
              "one side of the contact; the other to ground. The chip holds the pin up"},
             {"pin", "",
              "one side of the contact, and 10 kohm from there to ground; the other to {board}"}}};
}

} // namespace zorilla::rig
