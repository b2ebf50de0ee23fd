#pragma once
// Independent pieces of work on all cores. Results must not depend on which thread does what.

#include <algorithm>
#include <atomic>
#include <exception>
#include <thread>
#include <vector>

namespace dotsift {

/// Calls work(k) for k in [0, count), each once. The first exception is rethrown here.
template <class Work>
void in_parallel(std::size_t count, Work work) {
    const std::size_t threads = std::min<std::size_t>(count, std::max(1U, std::thread::hardware_concurrency()));
    std::atomic<std::size_t> next{0};
    std::vector<std::exception_ptr> errors(threads);
    std::vector<std::thread> pool;
    for (std::size_t t = 0; t < threads; ++t) {
        pool.emplace_back([&, t] {
            try {
                for (std::size_t k = next++; k < count; k = next++) work(k);
            } catch (...) {
                errors[t] = std::current_exception();
                next = count;
            }
        });
    }
    for (auto& t : pool) t.join();
    for (const auto& e : errors)
        if (e) std::rethrow_exception(e);
}

}  // namespace dotsift
