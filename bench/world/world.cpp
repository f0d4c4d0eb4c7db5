// SPDX-License-Identifier: MIT
// A world that lives.
#include "bench/world/world.hpp"

#include <algorithm>
#include <cmath>

namespace zorilla::bench {

std::optional<uint32_t> World::value(std::string_view of) const {
    for (size_t i = 0; i < values.size(); ++i)
        if (values[i].name == of)
            return static_cast<uint32_t>(i);
    return std::nullopt;
}

namespace {

const std::vector<std::pair<const char*, rig::Fault>> faults = {
    {"open", rig::Fault::open},       {"shorted", rig::Fault::shorted},
    {"stuck", rig::Fault::stuck},     {"swapped", rig::Fault::swapped},
    {"dropped", rig::Fault::dropped}, {"flipped", rig::Fault::flipped},
    {"ringing", rig::Fault::ringing}};

} // namespace

std::optional<rig::Fault> fault_of(std::string_view word) {
    for (const auto& [name, fault] : faults)
        if (name == word)
            return fault;
    return std::nullopt;
}
std::string_view word_of(rig::Fault fault) {
    for (const auto& [name, is] : faults)
        if (is == fault)
            return name;
    return "none";
}
std::string_view says_of(const WorldFault& fault) {
    switch (fault.what) {
    case WorldFault::Of::sensor: return word_of(fault.fault);
    case WorldFault::Of::output: return fault.stuck_on ? "stuck on" : "stuck off";
    case WorldFault::Of::supply: return "lost";
    }
    return {};
}
const std::vector<std::string>& fault_words() {
    static const std::vector<std::string> all = [] {
        std::vector<std::string> out;
        for (const auto& fault : faults)
            out.emplace_back(fault.first);
        return out;
    }();
    return all;
}

namespace {
constexpr double slowly = 10; ///< s
}

WorldLife::WorldLife(const World& world, uint64_t seed, double begins)
    : world_(&world), seed_(seed), begins_(begins), step_(world.step), states_(world.states),
      values_(world.values.size()), ways_(world.states), rates_(world.states) {
    happen(0);
    for (const auto& element : world.elements)
        element->begin(states_.data(), values_.data());
    settle();
    for (const auto& element : world.elements)
        if (element->tell(states_.data(), values_.data()))
            tellers_.push_back(element.get());
}

Moment WorldLife::moment_at(double seconds) const {
    const double of_day = begins_ + seconds;
    return {seconds, of_day, world_->day_of_year + std::floor(of_day / 86'400), seed_};
}

/// What happens by itself ends a step, since nothing else may change within one.
void WorldLife::happen(double seconds) {
    if (const auto slow = static_cast<int64_t>(seconds / slowly); slow != slow_) {
        cut();
        slow_ = slow;
        const Moment then = moment_at(static_cast<double>(slow) * slowly);
        for (const auto& element : world_->elements)
            element->happen_slowly(then, values_.data());
    }
    if (seconds >= quiet_until_)
        happen_at_once(seconds);
}
void WorldLife::happen_at_once(double seconds) {
    cut();
    quiet_until_ = Element::for_ever;
    const Moment now = moment_at(seconds);
    for (const auto& element : world_->elements)
        quiet_until_ = std::min(quiet_until_, element->happen(now, values_.data()));
}

/// Heun's method: the mean of the rates at both ends of a step (E. Hairer, S. Norsett and G.
/// Wanner, Solving Ordinary Differential Equations I, section II.1), with the parabola through both
/// for the time between. What is given by one state and taken by another is the same number, so
/// that balances close.
void WorldLife::begin_step() {
    in_step_ = true;
    length_ = step_;
    const auto take_rates = [this] {
        std::fill(rates_.begin(), rates_.end(), 0.0);
        for (const auto& element : world_->elements)
            element->rates(states_.data(), values_.data(), rates_.data());
    };
    take_rates();
    for (size_t i = 0; i < states_.size(); ++i) {
        ways_[i] = {states_[i], rates_[i], 0};
        states_[i] += length_ * rates_[i];
    }
    take_rates();
    for (size_t i = 0; i < states_.size(); ++i)
        ways_[i].curved = (rates_[i] - ways_[i].first) / (2 * length_);
}

void WorldLife::stand_at(double seconds) {
    const double t = seconds - begun_;
    double* state = states_.data();
    for (const Way& way : ways_)
        *state++ = way.from + t * (way.first + t * way.curved);
}

bool WorldLife::is_within() const {
    for (const Element* one : world_->bounded)
        if (!one->is_within(states_.data()))
            return false;
    return true;
}

void WorldLife::settle() {
    in_step_ = false;
    for (const auto& element : world_->elements)
        element->settle(states_.data(), values_.data());
}

void WorldLife::go_on(int64_t milliseconds) {
    const double from = seconds_;
    milliseconds_ += milliseconds;
    const double to = seconds_ = static_cast<double>(milliseconds_) / 1000;
    // Mostly it is within a step, and nothing happens.
    const bool goes_on =
        in_step_ && to < slow_until_ && to < quiet_until_ && to < begun_ + length_ * (1 - 1e-12);
    if (goes_on)
        stand_at(to);
    if (!goes_on || !is_within())
        go_on_by_steps(from, to);
    for (const Element* element : tellers_)
        element->tell(states_.data(), values_.data());
}

void WorldLife::go_on_by_steps(double from, double to) {
    for (double at = from; at < to;) {
        if (!in_step_) {
            begun_ = at;
            begin_step();
        }
        if (at >= slow_until_)
            slow_until_ = (std::floor(at / slowly) + 1) * slowly;
        at = std::min({to, begun_ + length_, slow_until_});
        stand_at(at);
        if (at >= begun_ + length_ * (1 - 1e-12) || !is_within())
            settle();
        happen(at);
    }
}

} // namespace zorilla::bench
