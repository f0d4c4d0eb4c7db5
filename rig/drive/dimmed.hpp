// SPDX-License-Identifier: MIT
/// \file
/// What outputs have in common that are a duty and may be slow on their way.
#pragma once

#include "rig/drive/fading.hpp"
#include "rig/drive/plain.hpp"

namespace zorilla::rig {

class DimmedPart : public PlainPart {
  public:
    explicit DimmedPart(Duration fade) : fade_(fade) {}

    std::unique_ptr<DriveWork> start() const override {
        if (fade_ <= Duration{})
            return nullptr;
        return works_towards(
            [fade = fade_, state = FadeFromStart()](const DriveInput& in, Driven& out) mutable {
                out.value = state.pass(fade, in.now, in.wish.value.duty());
            });
    }
    std::string about(const DriveWords&) const override {
        return fade_ > Duration{} ? ", fade " + span_to_text(fade_.thousandths()) : std::string();
    }
    std::string pins(const Drive& drive, AnyValue value) const override {
        return duty_pin(drive, value.duty(), value.duty(), "");
    }
    std::vector<Trial> trials(const Drive& drive) const override {
        return one_trial(drive, "100 %");
    }
    prove::Much prove(const Drive& drive, size_t, const WishWires& wish,
                      prove::Pass& pass) const override {
        if (fade_ <= Duration{})
            return wish.much;
        const prove::Much before = pass.remembered();
        const prove::Much next = faded(drive, before, wish.much, fade_, pass.first, pass);
        pass.set_next(before, next);
        return next;
    }
    std::vector<Duration> swings() const override {
        return fade_ > Duration{} ? std::vector<Duration>{fade_} : std::vector<Duration>();
    }
    bool is_dimmed_on_its_way() const override { return fade_ > Duration{}; }

  private:
    Duration fade_;
};

/// Reads what they have in common. \return  how long a whole fade takes
inline Duration read_dimmed(DriveReader& in, Drive& out) {
    in.pin(out);
    in.active(out);
    in.values(out);
    const auto fade = in.time("fade", "3 s");
    if (fade)
        in.keys.expect(*fade >= Duration{} && *fade <= FadeState::longest_swing, "fade",
                       "between 0 and 25 min");
    return fade.value_or(Duration{});
}

inline std::vector<PartKey> dimmed_keys() {
    return {{"pin", "\"PD6\"", ""}, {"active", "\"high\"", ""}, {"fade", "\"3 s\"", ".fade({})"}};
}

} // namespace zorilla::rig
