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
      values_(world.values.size()), from_(world.states), first_(world.states),
      curved_(world.states) {
    happen(0);
    for (const auto& element : world.elements)
        element->begin(states_.data(), values_.data());
    settle();
    for (const auto& element : world.elements)
        element->tell(states_.data(), values_.data());
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
    if (seconds < quiet_until_)
        return;
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
    from_ = states_;
    std::fill(first_.begin(), first_.end(), 0.0);
    for (const auto& element : world_->elements)
        element->rates(states_.data(), values_.data(), first_.data());
    for (size_t i = 0; i < states_.size(); ++i)
        states_[i] += length_ * first_[i];
    std::fill(curved_.begin(), curved_.end(), 0.0);
    for (const auto& element : world_->elements)
        element->rates(states_.data(), values_.data(), curved_.data());
    for (size_t i = 0; i < states_.size(); ++i)
        curved_[i] = (curved_[i] - first_[i]) / (2 * length_);
}

void WorldLife::stand_at(double seconds) {
    const double t = seconds - begun_;
    for (size_t i = 0; i < states_.size(); ++i)
        states_[i] = from_[i] + t * (first_[i] + t * curved_[i]);
}

void WorldLife::settle() {
    in_step_ = false;
    for (const auto& element : world_->elements)
        element->settle(states_.data(), values_.data());
}

void WorldLife::go_on(int64_t milliseconds) {
    const double from = static_cast<double>(milliseconds_) / 1000;
    milliseconds_ += milliseconds;
    const double to = static_cast<double>(milliseconds_) / 1000;
    for (double at = from; at < to;) {
        if (!in_step_) {
            begun_ = at;
            begin_step();
        }
        if (at >= slow_until_)
            slow_until_ = (std::floor(at / slowly) + 1) * slowly;
        at = std::min({to, begun_ + length_, slow_until_});
        stand_at(at);
        const auto is_within = [&](const Element* one) { return one->is_within(states_.data()); };
        if (at >= begun_ + length_ * (1 - 1e-12) ||
            !std::all_of(world_->bounded.begin(), world_->bounded.end(), is_within))
            settle();
        happen(at);
    }
    for (const auto& element : world_->elements)
        element->tell(states_.data(), values_.data());
}

} // namespace zorilla::bench
