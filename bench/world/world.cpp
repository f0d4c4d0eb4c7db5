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
const std::vector<std::string>& fault_words() {
    static const std::vector<std::string> all = [] {
        std::vector<std::string> out;
        for (const auto& fault : faults)
            out.emplace_back(fault.first);
        return out;
    }();
    return all;
}

WorldLife::WorldLife(const World& world, uint64_t seed, double begins)
    : world_(&world), seed_(seed), begins_(begins), states_(world.states),
      values_(world.values.size()), first_(world.states), second_(world.states),
      middle_(world.states) {
    happen(0);
    for (const auto& element : world.elements)
        element->begin(states_.data(), values_.data());
    for (const auto& element : world.elements)
        element->settle(states_.data(), values_.data());
    for (const auto& element : world.elements)
        element->tell(states_.data(), values_.data());
}

Moment WorldLife::moment_at(double seconds) const {
    const double of_day = begins_ + seconds;
    return {seconds, of_day, world_->day_of_year + std::floor(of_day / 86'400), seed_};
}

void WorldLife::happen(double seconds) {
    const Moment now = moment_at(seconds);
    constexpr double slowly = 10;
    if (const auto slow = static_cast<int64_t>(seconds / slowly); slow != slow_) {
        slow_ = slow;
        const Moment then = moment_at(static_cast<double>(slow) * slowly);
        for (const auto& element : world_->elements)
            element->happen_slowly(then, values_.data());
    }
    for (const auto& element : world_->elements)
        element->happen(now, values_.data());
}

/// Heun's method: the mean of the rates at both ends of a step (E. Hairer, S. Norsett and G.
/// Wanner, Solving Ordinary Differential Equations I, section II.1). What is given by one state and
/// taken by another is the same number, so that balances close.
void WorldLife::advance(double seconds) {
    const size_t count = states_.size();
    std::fill(first_.begin(), first_.end(), 0.0);
    for (const auto& element : world_->elements)
        element->rates(states_.data(), values_.data(), first_.data());
    for (size_t i = 0; i < count; ++i)
        middle_[i] = states_[i] + seconds * first_[i];
    std::fill(second_.begin(), second_.end(), 0.0);
    for (const auto& element : world_->elements)
        element->rates(middle_.data(), values_.data(), second_.data());
    for (size_t i = 0; i < count; ++i)
        states_[i] += seconds / 2 * (first_[i] + second_[i]);
    for (const auto& element : world_->elements)
        element->settle(states_.data(), values_.data());
}

void WorldLife::go_on(int64_t milliseconds, double step) {
    const double whole = static_cast<double>(milliseconds) / 1000;
    const double from = static_cast<double>(milliseconds_) / 1000;
    const int steps = std::max(1, static_cast<int>(std::ceil(whole / step - 1e-9)));
    for (int i = 0; i < steps; ++i) {
        happen(from + whole * i / steps);
        advance(whole / steps);
    }
    milliseconds_ += milliseconds;
    // What hands and the weather do is seen at once, and not only a step later.
    happen(static_cast<double>(milliseconds_) / 1000);
    for (const auto& element : world_->elements)
        element->tell(states_.data(), values_.data());
}

} // namespace zorilla::bench
