// SPDX-License-Identifier: MIT
// Relays, with all that keeps them from switching too soon, too often and too long.
#include "rig/drive/reader.hpp"

#include <fmt/format.h>

namespace zorilla::rig {

namespace {

const std::string& name_of_other(const DriveWords& words) {
    return words.rig.drives[*words.drive.never_with].name;
}

class Relay : public DrivePart {
  public:
    explicit Relay(const RelaySpec& spec) : spec_(spec) {}

    std::unique_ptr<DriveWork> start() const override {
        return works(
            [spec = spec_, state = RelayState()](const DriveInput& in, Driven& out) mutable {
                const Wish wish{in.wish.value.on_off(), in.wish.cause, in.wish.claim};
                const Switching next = state.pass(spec, in.now, wish, in.blocked);
                out.value = out.asked = next.value;
                out.cause = next.cause;
                out.claim = next.claim;
                out.is_on = next.value == on || (in.in_pattern && next.cause == Cause::claim);
                out.warns = state.is_warning();
                out.warns_off = state.is_warning_off();
            });
    }
    std::string about(const DriveWords& words) const override {
        std::string out;
        const auto add = [&out](std::string_view name, Duration time) {
            if (time != Duration{})
                out += fmt::format(", {} {}", name, span_to_text(time));
        };
        add("min_on", spec_.min_on());
        add("min_off", spec_.min_off());
        add("longest_on", spec_.longest_on());
        add("warn", spec_.warn());
        add("warn_off", spec_.warn_off());
        if (words.drive.never_with)
            out += fmt::format(", never with {}", name_of_other(words));
        return out;
    }
    std::string pins(const Drive& drive, AnyValue value) const override {
        return fmt::format("The pin {} is {}.", drive.pins.front(), level_text(drive, value.any()));
    }
    std::vector<Trial> trials(const Drive& drive) const override {
        return {{"on", drive.pins.front(), level_text(drive, true), level_text(drive, false)}};
    }
    std::string guard(const DriveWords& words, Cause cause, bool is_on,
                      bool since_power_up) const override {
        switch (cause) {
        case Cause::longest_on:
            return fmt::format("longest_on ({}) is over; rests for min_off ({})",
                               span_to_text(spec_.longest_on()), span_to_text(spec_.min_off()));
        case Cause::minimum_on:
            return fmt::format("kept on until min_on ({}) is over", span_to_text(spec_.min_on()));
        case Cause::minimum_off:
            return fmt::format("kept off until min_off ({}) is over{}",
                               span_to_text(spec_.min_off()),
                               since_power_up ? ", which power-up starts" : "");
        case Cause::warning:
            return is_on ? fmt::format("warns for {} before it switches off",
                                       span_to_text(spec_.warn_off()))
                         : fmt::format("warns for {} before it switches on",
                                       span_to_text(spec_.warn()));
        case Cause::interlock: return fmt::format("kept off while {} is on", name_of_other(words));
        case Cause::rest:
        case Cause::claim:
        case Cause::safe:
        case Cause::kick_start:
        case Cause::ramp:
        case Cause::stalled:
        case Cause::failed: break;
        }
        return "it is on its way";
    }
    std::string waited(const DriveWords& words, Cause cause, const std::string& time,
                       bool since_power_up) const override {
        if (cause == Cause::warning)
            return fmt::format("; warned for {}", time);
        if (cause == Cause::interlock)
            return fmt::format("; waited {} until {} was off", time, name_of_other(words));
        if (cause == Cause::minimum_on)
            return fmt::format("; waited {} for min_on", time);
        return fmt::format("; waited {} for min_off{}", time,
                           since_power_up ? ", which power-up starts" : "");
    }
    prove::Much prove(const Drive& drive, size_t index, const WishWires& wish,
                      prove::Pass& pass) const override;
    std::vector<Duration> times() const override {
        return {spec_.min_on(), spec_.min_off(), spec_.longest_on(), spec_.warn(),
                spec_.warn_off()};
    }
    std::vector<Duration> swings() const override { return {}; }
    const RelaySpec* relay() const override { return &spec_; }

  private:
    RelaySpec spec_;
};

prove::Much Relay::prove(const Drive& drive, size_t index, const WishWires& wish,
                         prove::Pass& pass) const {
    using prove::Wire, prove::opposite, prove::never;
    const Wire on_before = pass.wanted[index];
    const Wire wants = wish.much.any;
    const size_t timer = pass.clock();
    const auto guard = [&](Wire asks, Duration time, std::string_view word) {
        return pass.over(timer, asks, pass.first, time, fmt::format("{} of {}", word, drive.name));
    };
    const Wire served_before = pass.memory();
    const Wire served = pass.either(
        served_before,
        pass.choose(on_before,
                    guard(pass.both(on_before, opposite(served_before)), spec_.min_on(), "min_on"),
                    guard(pass.both(opposite(on_before), opposite(served_before)), spec_.min_off(),
                          "min_off")));
    Wire too_long = never;
    if (spec_.has_longest_on())
        too_long =
            pass.both(guard(pass.both(on_before, wants), spec_.longest_on(), "longest_on"), served);
    const Wire blocked = drive.never_with ? pass.wanted[*drive.never_with] : never;
    const Wire stays_on =
        pass.choose(wants, opposite(too_long), pass.both(opposite(served), opposite(wish.safe)));
    const Wire comes_on = pass.both(wants, pass.both(opposite(blocked), served));
    Wire next = pass.choose(on_before, stays_on, comes_on);
    Wire warns = never, warns_off = never;
    if (spec_.warns()) {
        const Wire warned = pass.memory();
        const Wire wants_change = opposite(pass.same(next, on_before));
        // A safe off and the end of the longest on time do not wait.
        const Wire at_once =
            pass.both(on_before, pass.either(wish.safe, pass.both(wants, too_long)));
        const Wire on_waits = spec_.warn() > Duration{} ? opposite(on_before) : never;
        const Wire off_waits =
            spec_.warn_off() > Duration{} ? pass.both(on_before, opposite(at_once)) : never;
        const Wire holds = pass.both(wants_change, pass.either(on_waits, off_waits));
        Wire soon = never;
        if (spec_.has_longest_on() && spec_.warn_off() > Duration{}) {
            const Wire asks = pass.both(on_before, next);
            soon = pass.both(asks, guard(asks, spec_.longest_on() - spec_.warn_off(),
                                         "longest_on less warn_off"));
        }
        const size_t warning = pass.clock();
        const Wire starts = pass.both(pass.either(holds, soon), opposite(warned));
        pass.starts(warning, starts);
        const auto warned_for = [&](Wire asks, Duration time, std::string_view word) {
            return pass.over(warning, pass.both(holds, asks), starts, time,
                             fmt::format("{} of {}", word, drive.name));
        };
        const Wire done = pass.both(
            holds, pass.choose(on_before, warned_for(on_before, spec_.warn_off(), "warn_off"),
                               warned_for(opposite(on_before), spec_.warn(), "warn")));
        const Wire goes_on = pass.both(holds, opposite(done));
        next = pass.choose(goes_on, on_before, next);
        warns = pass.either(goes_on, soon);
        warns_off = pass.both(warns, next);
        pass.set_next(warned, warns);
    }
    const Wire switched = opposite(pass.same(next, on_before));
    pass.starts(timer, pass.either(pass.first, switched));
    pass.set_next(served_before, pass.both(served, opposite(switched)));
    pass.set_facts(Fact::Kind::warns, index, [warns](const Fact&) { return warns; });
    pass.set_facts(Fact::Kind::warns_off, index, [warns_off](const Fact&) { return warns_off; });
    return {next, next};
}

/// The output that it must never be on with.
void read_interlock(DriveReader& in, Drive& out) {
    const Node* node = in.keys.find("never_with");
    const auto other = node == nullptr ? std::nullopt : in.keys.text("never_with", "motor_down");
    if (!other)
        return;
    Names names;
    out.never_with = in.scope.output_number(*other, names);
    if (!out.never_with)
        in.scope.findings.add(
            *node, fmt::format("there is no [drive.{}]{}", *other, suggestion(*other, names)));
    else if (*other == out.name)
        in.scope.findings.add(*node, "an output cannot be kept off by itself; name another one");
}

void read_relay(DriveReader& in, Drive& out) {
    in.pin(out);
    in.active(out, true);
    in.values(out);
    RelaySpec spec = RelaySpec(out.active).safe(out.safe.on_off()).rest(out.rest.on_off());
    if (const auto time = in.time("min_on", "2 min"))
        spec = spec.min_on(*time);
    if (const auto time = in.time("min_off", "5 min"))
        spec = spec.min_off(*time);
    if (const auto time = in.time("longest_on", "6 h"))
        spec = spec.longest_on(*time);
    if (const auto time = in.time("warn", "3 s"))
        spec = spec.warn(*time);
    if (const auto time = in.time("warn_off", "3 s"))
        spec = spec.warn_off(*time);
    read_interlock(in, out);
    if (!spec.times_can_be_told())
        in.keys.complain(fmt::format("{}: times must lie between 0 and 24 days", in.keys.label()));
    else if (!spec.longest_on_makes_sense())
        in.keys.complain(fmt::format(
            "{}: \"longest_on\" must be at least \"min_on\" and more than "
            "\"warn_off\", and needs a \"min_off\" to rest for afterwards; for example min_off = "
            "\"5 min\"",
            in.keys.label()));
    out.part = std::make_shared<Relay>(spec);
}

} // namespace

DriveKind relay_room() {
    return {"relay",
            0,
            ValueKind::on_off,
            PinWay::level,
            {
                {"pin", "\"PB0\"", ""},
                {"active", "\"low\"", ""},
                {"min_on", "\"2 min\"", ".min_on({})"},
                {"min_off", "\"5 min\"", ".min_off({})"},
                {"longest_on", "\"6 h\"", ".longest_on({})"},
                {"warn", "\"3 s\"", ".warn({})"},
                {"warn_off", "\"3 s\"", ".warn_off({})"},
                {"never_with", "\"motor_down\"", ""},
            },
            read_relay,
            {"relay(active_{active})", "Relay", true, "Switched<{pin}, active_{active|high}>",
             nullptr, "{value}"},
            {{"pin", "active=low",
              "the input of a relay module that is on while it is low; its supply from {board}, "
              "its coil's from 5 V"},
             {"pin", "",
              "the input of a relay module that is on while it is high; or, for a coil of 70 ohm, "
              "{base:70} to the base of an NPN, its emitter to ground, the coil from its collector "
              "to 5 V, a diode across the coil, the ring to 5 V"}}};
}

} // namespace zorilla::rig
