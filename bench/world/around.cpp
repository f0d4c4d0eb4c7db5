// SPDX-License-Identifier: MIT
#include "bench/world/around.hpp"

#include "bench/judge.hpp"
#include "rig/sense/part.hpp"

#include <algorithm>
#include <cmath>

namespace zorilla::bench {

WorldAround::WorldAround(const WorldWiring& wiring, const AroundPlan& plan)
    : wiring_(&wiring), plan_(plan),
      life_(wiring.world(), plan.seed, plan.begins.value_or(wiring.world().begins)),
      midnight_(std::llround(plan.begins.value_or(wiring.world().begins) * 1000)),
      noise_(mixed(plan.seed, stream_of("noise"))), sensors_(wiring.rig().senses.size()),
      raws_(wiring.rig().senses.size()), stuck_(wiring.rig().drives.size(), -1) {
    for (size_t i = 0; i < sensors_.size(); ++i) {
        const rig::Sense& sense = wiring.rig().senses[i];
        Sensor& sensor = sensors_[i];
        if (const double lag = wiring.seen()[i].lag; lag > 0)
            sensor.stays = std::exp(-static_cast<double>(plan.every) / 1000 / lag);
        sensor.goes_by_level = sense.raw == rig::RawKind::level;
        sensor.counts = sense.raw == rig::RawKind::edges;
        // Who is late by less than half a pass is on time.
        sensor.every = sense.every.thousandths() - plan.every / 2;
        sensor.wakes = std::max<int64_t>(0, sense.wakes.thousandths() - plan.every / 2);
        sensor.next = sensor.wakes;
        sensor.repeats = sense.pings > Duration{};
        if (sensor.repeats)
            sensor.every = wiring.rig().round_of_pings();
        sensor.seen = &wiring.seen()[i];
        sensor.around.noise = sensor.seen->noise;
        sensor.strays = !plan.gains.empty();
        if (sensor.strays) {
            sensor.gain = plan.gains[i];
            sensor.offset = plan.offsets[i];
        }
    }
    const rig::Rig& parts = plan.made_of == nullptr ? wiring.rig() : *plan.made_of;
    for (const rig::Sense& sense : parts.senses)
        forward_.push_back(sense.part->forward);
    std::string problem;
    for (const WorldFault& fault : plan_.faults)
        plan_broken_.push_back(wiring.find_broken(fault, problem).value_or(0));
}

const WorldFault& WorldAround::fault(size_t i) const {
    const auto& own = wiring_->world().faults;
    return i < own.size() ? own[i] : plan_.faults[i - own.size()];
}

void WorldAround::breaks(WorldFault fault) {
    std::string problem;
    plan_broken_.push_back(wiring_->find_broken(fault, problem).value_or(0));
    plan_.faults.push_back(std::move(fault));
    quiet_until_ = 0;
}

void WorldAround::begin() {
    device_began_ = life_.milliseconds();
    first_ = true;
    for (Sensor& sensor : sensors_)
        if (sensor.wakes > 0)
            sensor.next = device_began_ + sensor.wakes;
}

bool WorldAround::next(int64_t& milliseconds) {
    if (!first_) {
        life_.go_on(plan_.every);
    } else if (life_.milliseconds() > 0) { // a device that begins anew
        life_.go_on(plan_.every);
        device_began_ = life_.milliseconds();
    }
    first_ = false;
    milliseconds = life_.milliseconds() - device_began_;
    look();
    return true;
}

void WorldAround::break_and_mend() {
    const Moment now = life_.moment();
    for (Sensor& sensor : sensors_)
        sensor.fault = rig::Fault::none;
    std::fill(stuck_.begin(), stuck_.end(), int8_t{-1});
    powered_ = true;
    acts_ = true;
    quiet_until_ = Element::for_ever;
    broken_ = 0;
    const size_t own = wiring_->world().faults.size();
    for (size_t i = 0; i < fault_count(); ++i) {
        const WorldFault& one = fault(i);
        double until = 0;
        const bool is = one.when.at(now, until);
        quiet_until_ = std::min(quiet_until_, until);
        if (!is)
            continue;
        const size_t of = i < own ? wiring_->broken()[i] : plan_broken_[i - own];
        broken_ |=
            one.what == WorldFault::Of::sensor ? Judge::fault_of_sense(of) : Judge::fault_of_other;
        switch (one.what) {
        case WorldFault::Of::sensor: sensors_[of].fault = one.fault; break;
        case WorldFault::Of::output: stuck_[of] = one.stuck_on ? 1 : 0; break;
        case WorldFault::Of::supply: powered_ = false; break;
        }
    }
}

void WorldAround::look() {
    if (life_.seconds() >= quiet_until_)
        break_and_mend();
    const int64_t now = life_.milliseconds();
    const double* const values = life_.values();
    const rig::ForwardModel* forward = forward_.data();
    rig::Raw* raw = raws_.data();
    for (Sensor& sensor : sensors_)
        *raw++ = read(sensor, *forward++, values, now);
}

inline rig::Raw WorldAround::read(Sensor& sensor, const rig::ForwardModel& forward,
                                  const double* values, int64_t now) {
    const WorldWiring::Seen& seen = *sensor.seen;
    if (!seen.looks)
        return {};
    double value = seen.fixed ? seen.value : values[seen.of];
    if (seen.turned)
        value = seen.from - value;
    if (sensor.strays)
        value = value * sensor.gain + sensor.offset;
    if (seen.judged)
        value = value >= seen.above ? 1 : 0;
    if (seen.lag > 0) {
        // Exactly, while what it feels stays the same.
        sensor.felt = sensor.any ? value + (sensor.felt - value) * sensor.stays : value;
        value = sensor.felt;
    }
    if (now < sensor.next && (sensor.any || sensor.wakes > 0))
        return sensor.repeats ? sensor.last : rig::Raw();
    sensor.next = now + sensor.every;
    // What is high or low strays in nothing.
    if (sensor.goes_by_level && sensor.any && value == sensor.around.value &&
        sensor.fault == sensor.read_with && sensor.fault != rig::Fault::dropped)
        return sensor.raw;
    rig::Surroundings& around = sensor.around;
    around.value = value;
    around.celsius = around.second = seen.has_at ? values[seen.at] : seen.celsius;
    if (seen.damp)
        around.humidity = values[seen.humidity];
    if (sensor.counts)
        around.seconds = sensor.any ? static_cast<double>(now - sensor.read_at) / 1000 : 0;
    const rig::Raw raw = forward(around, noise_, sensor.fault, sensor.raw);
    sensor.any = true;
    sensor.read_at = now;
    sensor.read_with = sensor.fault;
    sensor.last = raw;
    if (raw.taken())
        sensor.raw = raw;
    return sensor.counts && raw.taken() ? rig::Raw(raw.bits() & 0xffff) : raw;
}

void WorldAround::passed(const rig::RunningRig& running) {
    if (!running.moved() && !acts_)
        return;
    acts_ = false;
    const auto& outputs = wiring_->outputs();
    const auto& drives = wiring_->rig().drives;
    for (size_t i = 0; i < outputs.size(); ++i) {
        const size_t drive = outputs[i];
        const int8_t stuck = stuck_[drive];
        life_.set(wiring_->world().outputs[i].value,
                  stuck >= 0 ? stuck
                             : running.drivens()[drive].value.share(drives[drive].kind()) / 255.0);
    }
}

void WorldAround::passed_dark() {
    acts_ = true;
    for (size_t i = 0; i < wiring_->outputs().size(); ++i) {
        const int8_t stuck = stuck_[wiring_->outputs()[i]];
        life_.set(wiring_->world().outputs[i].value, stuck == 1 ? 1 : 0);
    }
}

} // namespace zorilla::bench
