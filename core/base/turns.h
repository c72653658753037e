// Lets work of several threads that uses every core go one after another, in the order in which they ask.
//
//     Turns turns;
//     {
//         const Turns::Held turn(turns); // waits for it
//         draw();                        // in parallel, on all cores
//     }
//
// Two such works side by side would each take as long as both together: nothing is gained, and neither knows
// any more what it costs by itself.
#pragma once

#include <condition_variable>
#include <cstddef>
#include <cstdint>
#include <mutex>

namespace ember {

class Turns {
  public:
    class Held {
      public:
        explicit Held(Turns& turns) : turns_(turns) { turns_.take(); }
        ~Held() { turns_.give(); }
        Held(const Held&) = delete;
        Held& operator=(const Held&) = delete;

      private:
        Turns& turns_;
    };

    /// How many wait for theirs.
    size_t waiting() const {
        const std::lock_guard lock(mutex_);
        return size_t(asked_ - served_ - (asked_ > served_ ? 1 : 0));
    }

  private:
    void take() {
        std::unique_lock lock(mutex_);
        const uint64_t mine = asked_++;
        next_.wait(lock, [&] { return served_ == mine; });
    }
    void give() {
        {
            const std::lock_guard lock(mutex_);
            ++served_;
        }
        next_.notify_all();
    }

    mutable std::mutex mutex_;
    std::condition_variable next_;
    uint64_t asked_ = 0;  // turns asked for so far
    uint64_t served_ = 0; // and given back
};

} // namespace ember
