// Files are written beside drawing the next picture.
#pragma once

#include "core/base/problem.h"

#include <algorithm>
#include <condition_variable>
#include <deque>
#include <functional>
#include <mutex>
#include <optional>
#include <thread>
#include <vector>

namespace ember {

/// Work that is begun in turn on threads beside; whoever hands over a few more than these take waits. On one
/// thread each work is done before the next begins.
class WritingThreads {
  public:
    using Work = std::function<std::optional<Problem>()>;

    explicit WritingThreads(size_t threads = 1) : most_threads_(std::max(threads, size_t(1))) {}
    ~WritingThreads() { finish(); }
    void add(Work work) {
        std::unique_lock lock(mutex_);
        constexpr size_t most_waiting = 2;
        changed_.wait(lock, [&] { return waiting_.size() < most_waiting; });
        waiting_.push_back(std::move(work));
        if (threads_.size() < most_threads_) {
            threads_.emplace_back([this] { run(); });
        }
        changed_.notify_all();
    }
    /// The first problem so far.
    std::optional<Problem> problem() {
        const std::lock_guard lock(mutex_);
        return problem_;
    }
    std::optional<Problem> finish() {
        {
            const std::lock_guard lock(mutex_);
            is_ending_ = true;
        }
        changed_.notify_all();
        for (std::thread& thread : threads_) {
            thread.join();
        }
        threads_.clear();
        is_ending_ = false;
        return problem_;
    }

  private:
    void run() {
        std::unique_lock lock(mutex_);
        while (true) {
            changed_.wait(lock, [&] { return is_ending_ || !waiting_.empty(); });
            if (waiting_.empty()) {
                return;
            }
            const Work work = std::move(waiting_.front());
            waiting_.pop_front();
            changed_.notify_all();
            lock.unlock();
            auto problem = work();
            lock.lock();
            if (problem && !problem_) {
                problem_ = std::move(problem);
            }
        }
    }

    std::mutex mutex_;
    std::condition_variable changed_;
    std::deque<Work> waiting_;
    std::optional<Problem> problem_;
    bool is_ending_ = false;
    size_t most_threads_;
    std::vector<std::thread> threads_;
};

} // namespace ember
