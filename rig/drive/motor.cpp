// SPDX-License-Identifier: MIT
// Motors: kicked into turning, ramped, and rested when they stand.
#include "rig/drive/motor.hpp"

#include "rig/drive/fading.hpp"
#include "rig/drive/plain.hpp"

namespace zorilla::rig {

namespace {

class Motor : public DrivePart {
  public:
    explicit Motor(const FanSpec& spec) : spec_(spec) {}

    std::unique_ptr<DriveWork> start() const override {
        const auto pass = [spec = spec_, state = FanState()](const DriveInput& in,
                                                             Driven& out) mutable {
            const Driving<Duty> next =
                state.pass(spec, in.now, {in.wish.value.duty(), in.wish.cause, in.wish.claim},
                           in.turns, in.reset);
            out.value = next.value;
            if (next.cause == Cause::stalled || next.cause == Cause::failed) {
                out.cause = next.cause;
                out.asked = next.value;
                out.is_on = false;
            }
        };
        return spec_.looks_for_stalls() ? works(pass) : works_towards(pass);
    }
    std::string about(const DriveWords& words) const override {
        std::string out;
        if (spec_.kick_time() > Duration{})
            out += fmt::format(", kick {} for {}", words.drive.says(spec_.kick()),
                               span_to_text(spec_.kick_time()));
        if (spec_.ramp() > Duration{})
            out += ", ramp " + span_to_text(spec_.ramp());
        if (words.drive.turns)
            out += fmt::format(", stalled after {} without a turn of {}, tries {}",
                               span_to_text(spec_.stall_after()),
                               words.rig.sources[*words.drive.turns].name, spec_.tries());
        return out;
    }
    std::string pins(const Drive& drive, AnyValue value) const override {
        return duty_pin(drive, value.duty(), value.duty(), "");
    }
    std::vector<Trial> trials(const Drive& drive) const override {
        return one_trial(drive, "100 %");
    }
    std::string guard(const DriveWords& words, Cause cause, bool, bool) const override {
        const WrittenCondition& reset = words.drive.reset;
        if (cause == Cause::stalled)
            return fmt::format("it stands still: no turn for {}; rests {} before it is tried again",
                               span_to_text(spec_.stall_after()), span_to_text(spec_.stall_rest()));
        if (cause == Cause::failed)
            return fmt::format("it stood still {} times in a row{}", spec_.tries(),
                               reset.given() ? "; off until \"" + reset.text + "\""
                                             : "; off until power-up");
        return "it is on its way";
    }
    std::string waited(const DriveWords&, Cause, const std::string&, bool) const override {
        return {};
    }
    prove::Much prove(const Drive& drive, size_t index, const WishWires& wish,
                      prove::Pass& pass) const override;
    std::vector<Duration> times() const override {
        return {spec_.ramp(), spec_.kick_time(), spec_.stall_after()};
    }
    std::vector<Duration> swings() const override { return {spec_.ramp(), spec_.kick_time()}; }
    bool is_dimmed_on_its_way() const override {
        return spec_.ramp() > Duration{} || (spec_.kick_time() > Duration{} &&
                                             AnyValue(spec_.kick()).is_between(ValueKind::duty));
    }

  private:
    FanSpec spec_;
};

prove::Much Motor::prove(const Drive& drive, size_t index, const WishWires& wish,
                         prove::Pass& pass) const {
    using prove::Wire, prove::Much, prove::opposite, prove::never;
    const Much before = pass.remembered();
    const Wire drove = pass.memory(), kicked = pass.memory(), rested = pass.memory();
    Wire stands = never, stalls = never, failed = never, rests = never;
    const size_t rest_timer = pass.clock(), kick_timer = pass.clock();
    if (drive.turns) {
        const Wire turns =
            pass.those(*drive.turns, [](AnyQuantity q) { return q > AnyQuantity{}; });
        const Wire reset = pass.edge(pass.evaluate(drive.reset)).yes;
        const prove::Pass::Count count = pass.count_to(spec_.tries());
        const Wire had_failed = pass.both(count.reached.back(), opposite(reset));
        rests = pass.both(rested, opposite(pass.over(rest_timer, rested, never, spec_.stall_rest(),
                                                     "rest_when_stalled of " + drive.name)));
        const Wire runs =
            pass.both(pass.both(wish.much.any, opposite(had_failed)), opposite(rests));
        const size_t seen_timer = pass.clock();
        const Wire starts = pass.both(runs, opposite(drove));
        const Wire looks = pass.both(runs, opposite(turns));
        pass.starts(seen_timer, pass.both(runs, pass.either(starts, turns)));
        stalls = pass.both(looks, pass.over(seen_timer, looks, starts, spec_.stall_after(),
                                            "stall_after of " + drive.name));
        failed = pass.advance(count, pass.either(reset, pass.both(runs, turns)), stalls);
        stands = pass.either(pass.either(had_failed, rests), stalls);
        pass.starts(rest_timer, stalls);
        pass.set_next(rested, pass.either(rests, stalls));
        const Wire stalled = pass.either(stands, failed);
        pass.set_facts(Fact::Kind::stalled, index, [stalled](const Fact&) { return stalled; });
    }
    const Wire runs = pass.both(wish.much.any, opposite(stands));
    const Wire starts = pass.both(runs, opposite(drove));
    pass.set_next(drove, runs);
    Much next = faded(drive, before, wish.much, spec_.ramp(), starts, pass);
    if (spec_.kick_time() > Duration{}) {
        pass.starts(kick_timer, starts);
        const Wire was_kicked = pass.either(starts, kicked);
        const Wire ends =
            pass.both(was_kicked, pass.over(kick_timer, was_kicked, starts, spec_.kick_time(),
                                            "kick_for of " + drive.name));
        const Wire kicks = pass.both(pass.both(runs, was_kicked), opposite(ends));
        pass.set_next(kicked, kicks);
        const Much kick = much_of(drive, spec_.kick());
        // Without a ramp it is the larger of both.
        const Much larger = {pass.either(kick.any, wish.much.any),
                             pass.either(kick.full, wish.much.full)};
        next = pass.choose(kicks, spec_.ramp() == Duration{} ? larger : kick, next);
    }
    next = pass.choose(runs, next, Much{});
    pass.set_next(before, next);
    return next;
}

} // namespace

void read_motor(DriveReader& in, Drive& out) {
    TableReader& keys = in.keys;
    in.pin(out);
    in.values(out);
    out.has_level = false;
    FanSpec spec = fan().safe(out.safe.duty()).rest(out.rest.duty());
    const auto kick = in.value("kick", out);
    const auto kick_for = in.time("kick_for", "500 ms");
    if ((keys.find("kick") != nullptr) != (keys.find("kick_for") != nullptr))
        keys.complain(fmt::format("{}: \"kick\" and \"kick_for\" belong together, for example kick "
                                  "= \"100 %\" and kick_for = \"500 ms\"",
                                  keys.label()));
    if (kick && kick_for)
        spec = spec.kick(kick->duty(), *kick_for);
    if (const auto time = in.time("ramp", "4 s"))
        spec = spec.ramp(*time);
    if (keys.find("turns") != nullptr) {
        const Kind speed = Kind::turning_speed;
        out.turns = keys.source("turns", in.scope.rig, &speed, "the sensor that counts its turns");
        if (keys.require("stall_after", "how long it may stand while driven", "\"3 s\""))
            spec = spec.stall_after(in.time("stall_after", "3 s").value_or(3_s));
        spec = spec.rest_when_stalled(in.time("rest_when_stalled", "10 s").value_or(10_s));
        spec = spec.tries(static_cast<uint8_t>(keys.whole("tries", 1, 255).value_or(3)));
        out.reset = in.scope.condition(keys, "reset");
        keys.expect(spec.stall_makes_sense(), "stall_after",
                    "above \"kick_for\", and \"rest_when_stalled\" above 0");
    }
    if (!spec.times_can_be_told())
        keys.complain(fmt::format("{}: a motor's times must lie between 0 and an hour, its ramp up "
                                  "to 25 min",
                                  keys.label()));
    out.part = std::make_shared<Motor>(spec);
}

std::vector<PartKey> motor_keys() {
    return {
        {"pin", "\"PD3\"", ""},
        {"kick", "\"100 %\"", ".kick({}, {kick_for})"},
        {"kick_for", "\"500 ms\"", ""},
        {"ramp", "\"4 s\"", ".ramp({})"},
        {"turns", "\"fan_turns\"", ""},
        {"stall_after", "\"3 s\"", ".stall_after({})"},
        {"rest_when_stalled", "\"10 s\"", ".rest_when_stalled({})"},
        {"tries", "3", ".tries({})"},
        {"reset", "\"reset_button\"", ""},
    };
}

} // namespace zorilla::rig
