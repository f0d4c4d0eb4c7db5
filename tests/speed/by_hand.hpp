// SPDX-License-Identifier: MIT
// The yardstick of ./dev bench: what somebody would write by hand for one device and one file; and
// what programs were at work.
#pragma once

#include <sys/resource.h>

#include <cstddef>
#include <cstdint>
#include <stdexcept>
#include <string>
#include <vector>

namespace speed {

/// What a program was at work, on all cores together, in seconds.
inline double at_work(const rusage& usage) {
    const auto seconds = [](const timeval& t) {
        return static_cast<double>(t.tv_sec) + static_cast<double>(t.tv_usec) / 1e6;
    };
    return seconds(usage.ru_utime) + seconds(usage.ru_stime);
}

/// What a program took of memory at most, in KiB. \throws std::logic_error  if this program has
/// been as large itself: what it starts begins as large as it is, and nothing could be told.
inline long memory_of(const rusage& usage) {
    rusage own = {};
    getrusage(RUSAGE_SELF, &own);
    if (usage.ru_maxrss <= own.ru_maxrss)
        throw std::logic_error("memory must be measured while this program is small");
    return usage.ru_maxrss;
}

/// Reads a trace of the hen house, whose columns it knows, and runs the device of the examples over
/// it. \return  a sum over all outputs, so that nothing can be left out
uint64_t decide_by_hand(const std::string& trace);

/// A table as `zorilla run --csv` has written it, taken apart, to be written again.
class Table {
  public:
    /// \throws std::runtime_error  if it cannot be read
    explicit Table(const std::string& path);
    /// Writes the same bytes: each number by its digits, each word as it is.
    void write(const std::string& path) const;

  private:
    struct Field {
        int64_t thousandths; ///< of a number with three decimals
        uint32_t word;       ///< its place among the words; 0: it is a number
    };
    std::vector<std::string> words_{""};
    std::vector<Field> fields_;
    size_t columns_ = 0;
    std::string header_;
};

} // namespace speed
