#include "base/parallel.hpp"

#include <atomic>
#include <condition_variable>
#include <exception>
#include <mutex>
#include <system_error>
#include <thread>
#include <vector>

namespace dotsift {

namespace {

/// Threads that wait for work. They are never joined: whatever ends the program ends them where they wait.
class Helpers {
  public:
    Helpers() {
        const unsigned wanted = std::max(1U, std::thread::hardware_concurrency()) - 1;
        try {
            for (unsigned t = 0; t < wanted; ++t) {
                std::thread([this, t] { serve(t + 1); }).detach();
                ++count_;
            }
        } catch (const std::system_error&) {  // no more threads are to be had: those that run do the rest
        }
        errors_.resize(count_ + 1);
    }

    /// False if somebody else has work for them.
    bool run(std::size_t count, const std::function<void(std::size_t)>& work) {
        const std::unique_lock<std::mutex> mine(taken_, std::try_to_lock);
        if (!mine.owns_lock()) return false;
        {
            const std::lock_guard<std::mutex> lock(state_);
            work_ = &work;
            end_ = count;
            next_ = 0;
            busy_ = count_;
            ++round_;
        }
        begin_.notify_all();
        take_part(0);
        std::unique_lock<std::mutex> lock(state_);
        done_.wait(lock, [&] { return busy_ == 0; });
        std::exception_ptr first;
        for (auto& e : errors_) {
            if (e && !first) first = e;
            e = nullptr;
        }
        lock.unlock();
        if (first) std::rethrow_exception(first);
        return true;
    }

  private:
    void serve(std::size_t thread) {
        std::size_t seen = 0;
        for (;;) {
            {
                std::unique_lock<std::mutex> lock(state_);
                begin_.wait(lock, [&] { return round_ != seen; });
                seen = round_;
            }
            take_part(thread);
            const std::lock_guard<std::mutex> lock(state_);
            if (--busy_ == 0) done_.notify_one();
        }
    }

    void take_part(std::size_t thread);

    std::mutex taken_, state_;
    std::condition_variable begin_, done_;
    const std::function<void(std::size_t)>* work_ = nullptr;
    std::size_t count_ = 0, busy_ = 0, round_ = 0, end_ = 0;
    std::atomic<std::size_t> next_{0};
    std::vector<std::exception_ptr> errors_;
};

thread_local bool at_work = false;

void Helpers::take_part(std::size_t thread) {
    at_work = true;
    try {
        for (std::size_t k = next_++; k < end_; k = next_++) (*work_)(k);
    } catch (...) {
        errors_[thread] = std::current_exception();
        next_ = end_;
    }
    at_work = false;
}

}  // namespace

void share_out(std::size_t count, const std::function<void(std::size_t)>& work) {
    static auto* helpers = new Helpers;  // NOLINT(cppcoreguidelines-owning-memory): they outlive main
    if (count > 1 && !at_work && helpers->run(count, work)) return;
    for (std::size_t k = 0; k < count; ++k) work(k);
}

}  // namespace dotsift
