// SPDX-License-Identifier: MIT
/// \file
/// How often each value occurs, in bounded memory.
#pragma once

#include <cmath>
#include <cstdint>
#include <vector>

namespace zorilla::bench {

/// Counts values in bins of equal width. The bins are as fine as the values need (whole numbers,
/// tenths, hundredths ...) while there are at most `most_bins`; then they become coarser by tens.
class Histogram {
  public:
    static constexpr int64_t most_bins = int64_t{1} << 17;

    void add(double value) {
        const double scaled = value * per_unit_;
        // The nearest whole number, for as many as a double can tell apart.
        const double nearest = (scaled + whole_numbers) - whole_numbers;
        if (!(std::fabs(scaled) < most_scaled) || std::fabs(scaled - nearest) > tolerance_)
            return add(value, 1);
        const auto bin = static_cast<int64_t>(nearest) - first_;
        if (static_cast<uint64_t>(bin) >= counts_.size())
            return add(value, 1);
        ++counts_[static_cast<size_t>(bin)];
        ++count_;
    }
    /// Takes a value so many times.
    void add(double value, uint64_t times);

    uint64_t count() const { return count_; }
    /// The width of a bin.
    double width() const { return 1 / per_unit_; }
    /// The least and the largest value, to the width of a bin.
    double lowest() const;
    double highest() const;
    /// The value below which a share of all lies. Values are taken as spread evenly over their bin.
    double quantile(double share) const;
    double median() const { return quantile(0.5); }
    /// The deviation of a normal distribution that has the same quartiles: no single wild value can
    /// move it.
    double deviation() const;
    /// How many values lie above, or below, a bound between two bins.
    uint64_t above(double bound) const;
    uint64_t below(double bound) const { return count_ - above(bound); }
    /// How many values from one bound to the other.
    uint64_t between(double from, double to) const { return above(from) - above(to); }
    /// How many different values there are.
    uint64_t distinct() const;

    /// Calls `take(value, count)` for each bin that is not empty, upwards.
    template <class Take> void each(Take take) const {
        for (size_t i = 0; i < counts_.size(); ++i)
            if (counts_[i] > 0)
                take(value_of(i), counts_[i]);
    }
    /// Takes the values of another one in.
    void add(const Histogram& other);

  private:
    static constexpr double whole_numbers = 6755399441055744.0; // 1.5 * 2^52
    static constexpr double most_scaled = 2e15;
    static constexpr double anything = 1e300;

    double value_of(size_t bin) const {
        return static_cast<double>(first_ + static_cast<int64_t>(bin)) / per_unit_;
    }
    void rescale(double per_unit);
    bool make_room(int64_t bin);

    std::vector<uint64_t> counts_;
    int64_t first_ = 0; ///< the bin that counts_[0] stands for
    double per_unit_ = 1;
    double tolerance_ = 1e-6; ///< in bins; `anything` once they are not to become finer
    uint64_t count_ = 0;
};

} // namespace zorilla::bench
