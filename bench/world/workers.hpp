// SPDX-License-Identifier: MIT
/// \file
/// Many lives at once, on all cores, with the same results on any number of them.
#pragma once

#include <algorithm>
#include <atomic>
#include <cstddef>
#include <exception>
#include <functional>
#include <mutex>
#include <thread>
#include <vector>

namespace zorilla::bench {

/// Does `each(i)` for every i below `count`. What it does must depend on i alone. \param threads
/// 0: as many as there are cores  \throws  what the first of them has thrown
inline void all_at_once(size_t count, unsigned threads, const std::function<void(size_t)>& each) {
    if (threads == 0)
        threads = std::max(1U, std::thread::hardware_concurrency());
    std::atomic<size_t> next{0};
    std::exception_ptr problem;
    std::mutex lock;
    const auto work = [&] {
        for (size_t i = next++; i < count; i = next++)
            try {
                each(i);
            } catch (...) {
                const std::lock_guard<std::mutex> guard(lock);
                if (!problem)
                    problem = std::current_exception();
                next = count;
            }
    };
    std::vector<std::thread> others;
    for (unsigned i = 1; i < threads && i < count; ++i)
        others.emplace_back(work);
    work();
    for (std::thread& other : others)
        other.join();
    if (problem)
        std::rethrow_exception(problem);
}

} // namespace zorilla::bench
