// SPDX-License-Identifier: MIT
#include "bench/histogram.hpp"

#include <algorithm>

namespace zorilla::bench {

void Histogram::rescale(double per_unit) {
    std::vector<std::pair<double, uint64_t>> all;
    each([&all](double value, uint64_t times) { all.emplace_back(value, times); });
    counts_.clear();
    per_unit_ = per_unit;
    for (const auto& [value, times] : all) {
        const auto bin = static_cast<int64_t>(std::llround(value * per_unit_));
        make_room(bin);
        counts_[static_cast<size_t>(bin - first_)] += times;
    }
}

/// Makes the bins reach to one more; false if they would be too many.
bool Histogram::make_room(int64_t bin) {
    if (counts_.empty()) {
        first_ = bin;
        counts_.assign(1, 0);
    }
    const int64_t last = first_ + static_cast<int64_t>(counts_.size()) - 1;
    const int64_t span = std::max(last, bin) - std::min(first_, bin) + 1;
    if (span > most_bins)
        return false;
    if (bin < first_) {
        counts_.insert(counts_.begin(), static_cast<size_t>(first_ - bin), 0);
        first_ = bin;
    } else if (bin > last) {
        counts_.resize(static_cast<size_t>(bin - first_) + 1);
    }
    return true;
}

void Histogram::add(double value, uint64_t times) {
    while (std::fabs(value * per_unit_ - std::round(value * per_unit_)) > tolerance_) {
        const double lowest_now = counts_.empty() ? value : std::min(lowest(), value);
        const double highest_now = counts_.empty() ? value : std::max(highest(), value);
        if (per_unit_ >= 1e6 ||
            (highest_now - lowest_now) * per_unit_ * 10 > static_cast<double>(most_bins) / 4)
            tolerance_ = anything;
        else
            rescale(per_unit_ * 10);
    }
    // Nothing that a device prints is larger; what is counts as this.
    const double bounded = std::clamp(value, -1e15, 1e15);
    while (std::fabs(bounded) * per_unit_ > most_scaled ||
           !make_room(static_cast<int64_t>(std::llround(bounded * per_unit_)))) {
        tolerance_ = anything;
        rescale(per_unit_ / 10);
    }
    const auto bin = static_cast<int64_t>(std::llround(bounded * per_unit_)) - first_;
    counts_[static_cast<size_t>(bin)] += times;
    count_ += times;
}

void Histogram::add(const Histogram& other) {
    other.each([this](double value, uint64_t times) { add(value, times); });
}

double Histogram::lowest() const {
    for (size_t i = 0; i < counts_.size(); ++i)
        if (counts_[i] > 0)
            return value_of(i);
    return 0;
}

double Histogram::highest() const {
    for (size_t i = counts_.size(); i-- > 0;)
        if (counts_[i] > 0)
            return value_of(i);
    return 0;
}

double Histogram::quantile(double share) const {
    const double wanted = share * static_cast<double>(count_);
    double so_far = 0;
    for (size_t i = 0; i < counts_.size(); ++i) {
        const auto here = static_cast<double>(counts_[i]);
        if (here > 0 && so_far + here >= wanted)
            return value_of(i) + ((wanted - so_far) / here - 0.5) * width();
        so_far += here;
    }
    return highest();
}

double Histogram::deviation() const {
    // The quartiles of a normal distribution are 2 x 0.67449 deviations apart.
    return count_ == 0 || distinct() == 1 ? 0 : (quantile(0.75) - quantile(0.25)) / 1.34898;
}

uint64_t Histogram::above(double bound) const {
    uint64_t out = 0;
    for (size_t i = counts_.size(); i-- > 0 && value_of(i) > bound;)
        out += counts_[i];
    return out;
}

uint64_t Histogram::distinct() const {
    return static_cast<uint64_t>(
        std::count_if(counts_.begin(), counts_.end(), [](uint64_t count) { return count > 0; }));
}

} // namespace zorilla::bench
