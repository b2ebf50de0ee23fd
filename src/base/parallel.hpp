#pragma once
// Independent pieces of work on all cores. Results must not depend on which thread does what.

#include <algorithm>
#include <atomic>
#include <exception>
#include <system_error>
#include <thread>
#include <vector>

namespace dotsift {

/// Calls work(k) for k in [0, count), each once. The first exception is rethrown here.
template <class Work>
void in_parallel(std::size_t count, Work work) {
    const std::size_t threads = std::min<std::size_t>(count, std::max(1U, std::thread::hardware_concurrency()));
    std::atomic<std::size_t> next{0};
    std::vector<std::exception_ptr> errors(threads);
    const auto run = [&](std::size_t t) {
        try {
            for (std::size_t k = next++; k < count; k = next++) work(k);
        } catch (...) {
            errors[t] = std::current_exception();
            next = count;
        }
    };
    std::vector<std::thread> pool;  // beside this one
    try {
        for (std::size_t t = 1; t < threads; ++t) pool.emplace_back(run, t);
    } catch (const std::system_error&) {  // no more threads are to be had: those that run do the rest
    }
    if (threads > 0) run(0);
    for (auto& t : pool) t.join();
    for (const auto& e : errors)
        if (e) std::rethrow_exception(e);
}

/// Calls work(begin, end) for pieces of [0, count) of a length.
template <class Work>
void in_parallel_pieces(std::size_t count, std::size_t length, Work work) {
    in_parallel((count + length - 1) / length,
                [&](std::size_t k) { work(k * length, std::min(count, (k + 1) * length)); });
}

}  // namespace dotsift
